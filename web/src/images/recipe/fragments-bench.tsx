/** Fragments: their revisions, who uses which, and the steps of the next revision as text. */
import { Input } from 'antd';
import { useState } from 'react';
import { Link, NavLink, useNavigate, useParams } from 'react-router';
import type { Fragment } from '@vatline/contract/fragment';
import { readFragmentFile, writeRecipeFile } from '@vatline/contract/recipe-file';
import { compareRecipes, recipeHeadline } from '@vatline/core/image/compare-recipes';
import { describeStep } from '@vatline/core/image/describe-step';
import { imagesApi } from '../../api/images.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { CheckedText } from '../../parts/checked-text.tsx';
import { KeepRevision } from '../../parts/keep-revision.tsx';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { day, plural } from '../../parts/format.ts';

export function FragmentsBench() {
  const { tab: name } = useParams();
  const { data: fragments, error } = imagesApi.useFragmentsQuery({});
  if (!fragments) return <ProblemNote problem={problemOf(error)} />;
  const open = fragments.find((row) => row.name === name) ?? (name === 'new' ? undefined : fragments[0]);
  const behind = fragments.flatMap((row) => row.usedBy.filter((use) => use.behind > 0));
  return (
    <section className="work" aria-label="Fragments">
      <h1 className="answer">
        {fragments.length === 0
          ? 'No steps are shared yet.'
          : behind.length === 0
            ? `${plural(fragments.length, 'fragment')}, and every line has the newest.`
            : `${plural(behind.length, 'line')} of ${fragments.reduce((sum, row) => sum + row.usedBy.length, 0)} that share steps ${behind.length === 1 ? 'is' : 'are'} behind.`}
      </h1>
      <p className="under-answer">
        A fragment is steps that several lines need, written once. A line names a revision; taking a newer one
        is a change of its recipe like any other.
      </p>
      <nav className="tabs" aria-label="Fragments">
        {fragments.map((row) => (
          <Link
            key={row.name}
            to={`/images/fragments/${encodeURIComponent(row.name)}`}
            aria-current={row === open ? 'page' : undefined}
          >
            {row.name}
          </Link>
        ))}
        <NavLink to="/images/fragments/new">New fragment</NavLink>
      </nav>
      <FragmentEditor key={open ? `${open.name} ${open.revisions.length}` : 'new'} fragment={open} />
    </section>
  );
}

const FIRST = writeRecipeFile([{ id: 'restart', kind: 'restart' }]);

function FragmentEditor({ fragment }: { readonly fragment: Fragment | undefined }) {
  const navigate = useNavigate();
  const newest = fragment?.revisions[0];
  const kept = newest ? writeRecipeFile(newest.steps) : FIRST;
  const [text, setText] = useState(kept);
  const [name, setName] = useState('');
  const [save, { error, isLoading }] = imagesApi.useKeepFragmentMutation();
  const problem = problemOf(error);
  const read = readFragmentFile(text);
  const changed = text !== kept;
  const keep = async (note: string) => {
    if (!read.ok) return;
    const params = { name: fragment?.name ?? name };
    const result = await save({
      params,
      body: { steps: read.value, note, basedOn: newest?.revision ?? 0 },
    });
    if (!('error' in result)) void navigate(`/images/fragments/${encodeURIComponent(params.name)}`);
  };
  return (
    <>
      {!fragment && (
        <Field label="Name" fault={faultAt(problem, 'name')}>
          <Input
            style={{ width: 260 }}
            placeholder="such as Quiet first start"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
      )}
      <div className="recipe-text">
        <div>
          <CheckedText
            label="Steps of the fragment"
            height="300px"
            text={text}
            faults={read.ok ? [] : read.error}
            onChange={setText}
          />
          {(changed || !fragment) && (
            <KeepRevision
              revision={(newest?.revision ?? 0) + 1}
              isKeeping={isLoading}
              disabled={!read.ok || (!fragment && name.trim() === '')}
              onKeep={(note) => void keep(note)}
              onDrop={fragment && (() => setText(kept))}
            />
          )}
          <ProblemNote problem={problem} shown={['name']} />
        </div>
        <div>
          {fragment && <Uses fragment={fragment} />}
          {fragment && <Revisions fragment={fragment} />}
        </div>
      </div>
    </>
  );
}

function Uses({ fragment }: { readonly fragment: Fragment }) {
  return (
    <section aria-label="Used by">
      <h2 className="section-title">Used by {plural(fragment.usedBy.length, 'line')}</h2>
      {fragment.usedBy.length === 0 && (
        <p className="quiet">No recipe names it. Add a step of the kind “fragment” to one.</p>
      )}
      {fragment.usedBy.map((use) => (
        <div key={`${use.lineId} ${use.revision}`} className="spread version-row">
          <Link to={`/images/${use.lineId}`}>{use.line}</Link>
          <span className={use.behind > 0 ? 'attention small' : 'quiet small'}>
            revision {use.revision}
            {use.behind > 0 ? `, behind by ${use.behind}` : ', the newest'}
          </span>
        </div>
      ))}
    </section>
  );
}

function Revisions({ fragment }: { readonly fragment: Fragment }) {
  const { zone } = useEstateTime();
  return (
    <section aria-label="Revisions">
      <h2 className="section-title">Revisions</h2>
      {fragment.revisions.map((row, i) => {
        const before = fragment.revisions[i + 1];
        const steps = row.steps.map((step) => describeStep(step).title).join(', ');
        return (
          <div key={row.revision} className="fragment-revision small" title={steps}>
            <b>{row.revision}</b> {day(row.createdAt, zone)}:{' '}
            {before
              ? recipeHeadline(compareRecipes(before.steps, row.steps))
              : plural(row.steps.length, 'step')}
            {row.note && <div className="quiet">{row.note}</div>}
          </div>
        );
      })}
    </section>
  );
}
