/** Any two revisions of a recipe, as steps and as text. */
import { Select } from 'antd';
import { diffLines } from 'diff';
import { useMemo, useState } from 'react';
import type { LineDetail, LineRevision } from '@vatline/contract/image';
import { writeRecipeFile } from '@vatline/contract/recipe-file';
import { compareRecipes, recipeHeadline, type RecipeChange } from '@vatline/core/image/compare-recipes';
import { describeStep } from '@vatline/core/image/describe-step';
import type { Step } from '@vatline/core/image/recipe';
import { imagesApi } from '../../api/images.ts';
import { problemOf } from '../../api/problem.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { changeSigns } from '../../parts/change-signs.ts';
import { day } from '../../parts/format.ts';

export default function RevisionsTab({ line }: { readonly line: LineDetail }) {
  const { data: revisions, error } = imagesApi.useRevisionsQuery({ params: { id: line.id } });
  const { zone } = useEstateTime();
  const [chosen, setChosen] = useState<{ readonly from?: number; readonly to?: number }>({});
  if (!revisions) return <ProblemNote problem={problemOf(error)} />;
  const find = (revision: number | undefined) => revisions.find((row) => row.revision === revision);
  const to = find(chosen.to) ?? revisions[0];
  const from = find(chosen.from) ?? lastCut(revisions, to);
  if (!to || !from || revisions.length < 2)
    return (
      <p className="quiet">There is one revision of this recipe; a change that is kept makes the next.</p>
    );
  const pick = (label: string, value: number, field: 'from' | 'to') => (
    <Select<number>
      aria-label={label}
      style={{ width: 250 }}
      value={value}
      options={revisions.map((row) => ({
        value: row.revision,
        label: `${row.revision}, ${day(row.createdAt, zone)}${versionsOf(row)}`,
      }))}
      onChange={(revision) => setChosen({ from: from.revision, to: to.revision, [field]: revision })}
    />
  );
  return (
    <>
      <div className="row" style={{ margin: '8px 0 14px' }}>
        {pick('From revision', from.revision, 'from')} <span aria-hidden>⟶</span>{' '}
        {pick('To revision', to.revision, 'to')}
      </div>
      <Between from={from} to={to} />
    </>
  );
}

function versionsOf({ versions }: LineRevision): string {
  return versions.length > 0 ? `, cut as ${versions.join(', ')}` : '';
}

/** What was cut last before it, else the revision before it. */
function lastCut(revisions: readonly LineRevision[], to: LineRevision | undefined): LineRevision | undefined {
  const older = revisions.filter((row) => to !== undefined && row.revision < to.revision);
  return older.find((row) => row.versions.length > 0) ?? older[0];
}

function Between({ from, to }: { readonly from: LineRevision; readonly to: LineRevision }) {
  const comparison = useMemo(() => compareRecipes(from.steps, to.steps), [from, to]);
  const parts = useMemo(() => diffLines(writeRecipeFile(from.steps), writeRecipeFile(to.steps)), [from, to]);
  const otherHardware = JSON.stringify(from.hardware) !== JSON.stringify(to.hardware);
  const headline = recipeHeadline(comparison);
  return (
    <>
      <h2 className="figure">
        {headline.charAt(0).toUpperCase() + headline.slice(1)}
        {otherHardware && ', and other hardware'}.{' '}
        {comparison.sameOutcome && comparison.changes.length > 0 && (
          <span className="quiet">Both make the same machine.</span>
        )}
      </h2>
      <table className="table compare-table">
        <tbody>
          {comparison.changes.map((change) => (
            <ChangeRow key={`${change.change} ${stepOf(change).id}`} change={change} />
          ))}
        </tbody>
      </table>
      <h3 className="section-title">As text</h3>
      <pre className="text-difference" tabIndex={0} aria-label="Differences as text">
        {parts.map((part, i) => {
          const sign = part.added ? '+' : part.removed ? '−' : ' ';
          const lines = part.value.replace(/\n$/, '').split('\n');
          const shown = part.added || part.removed ? lines : nearby(lines, i === 0, i === parts.length - 1);
          return (
            <span key={i} className={part.added ? 'added' : part.removed ? 'removed' : 'same'}>
              {shown.map((text) => `${sign} ${text}\n`).join('')}
            </span>
          );
        })}
      </pre>
    </>
  );
}

/** Lines around a difference, as many as tell where it is. */
const NEARBY = 3;

function nearby(lines: readonly string[], first: boolean, last: boolean): readonly string[] {
  if (lines.length <= 2 * NEARBY + 1) return lines;
  const head = first ? [] : lines.slice(0, NEARBY);
  const tail = last ? [] : lines.slice(-NEARBY);
  return [...head, '…', ...tail];
}

function stepOf(change: RecipeChange): Step {
  return 'after' in change ? change.after : change.before;
}

function ChangeRow({ change }: { readonly change: RecipeChange }) {
  const { title, detail } = describeStep(stepOf(change));
  const before = change.change === 'changed' ? describeStep(change.before).detail : '';
  const fields =
    change.change === 'changed' ? change.fields.join(', ') + (change.moved ? ', moved' : '') : '';
  return (
    <tr>
      <td className={change.change === 'removed' ? 'trouble' : 'good'} title={change.change}>
        {changeSigns[change.change]}
      </td>
      <td>
        {title} <span className="quiet">{fields}</span>
      </td>
      <td className="quiet">{before}</td>
      <td>{detail}</td>
    </tr>
  );
}
