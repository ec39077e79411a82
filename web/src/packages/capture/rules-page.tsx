/** Noise rules: the sets there are, what a change would do to every capture so far, and keeping it. */
import '../packages.css';
import { Button, Input } from 'antd';
import { useEffect, useState } from 'react';
import { Link, NavLink, useNavigate, useParams } from 'react-router';
import type { RuleSet, RuleTrial } from '@vatline/contract/noise-rules';
import { readRuleFile, writeRuleFile } from '@vatline/contract/rule-file';
import { builtInNoise, type NoiseRule } from '@vatline/core/package/noise';
import { packagesApi } from '../../api/packages.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { Station } from '../../shell/station.tsx';
import { CheckedText } from '../../parts/checked-text.tsx';
import { KeepRevision } from '../../parts/keep-revision.tsx';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { day, plural } from '../../parts/format.ts';
import { CapturePackage, usePackageRack } from '../packages-page.tsx';

const FIRST = writeRuleFile([
  {
    id: 'own downloads',
    action: 'drop',
    kinds: ['file'],
    glob: 'Users/*/Downloads/**',
    reason: 'what the packager fetched',
  },
]);

export function RulesPage() {
  const { items } = usePackageRack();
  const { name } = useParams();
  const { data: sets, error } = packagesApi.useNoiseRulesQuery({});
  const open = sets?.find((set) => set.name === name) ?? (name === 'new' ? undefined : sets?.[0]);
  return (
    <Station items={items} action={<CapturePackage />}>
      <ProblemNote problem={problemOf(error)} />
      {sets && (
        <section className="work" aria-label="Noise rules">
          <h1 className="answer">{headline(open)}</h1>
          <p className="under-answer">
            The first rule that matches decides whether a row is noise. Rules of your own are asked before the{' '}
            {builtInNoise.length} built-in ones; new captures are judged by “House rules”.
          </p>
          <nav className="tabs" aria-label="Rule sets">
            {sets.map((set) => (
              <Link
                key={set.name}
                to={`/packages/rules/${encodeURIComponent(set.name)}`}
                aria-current={set === open ? 'page' : undefined}
              >
                {set.name}
              </Link>
            ))}
            <NavLink to="/packages/rules/new">New set</NavLink>
          </nav>
          <RuleEditor key={open ? `${open.name} ${open.revisions.length}` : 'new'} set={open} />
        </section>
      )}
    </Station>
  );
}

function headline(set: RuleSet | undefined): string {
  const [newest] = set?.revisions ?? [];
  if (!set || !newest) return 'What is noise here and nowhere else?';
  const captures = set.revisions.reduce((sum, row) => sum + row.captures, 0);
  return `${set.name}: ${plural(newest.rules.length, 'rule')}, which ${captures === 0 ? 'judged no capture yet' : `judged ${plural(captures, 'capture')}`}.`;
}

function RuleEditor({ set }: { readonly set: RuleSet | undefined }) {
  const navigate = useNavigate();
  const newest = set?.revisions[0];
  const kept = newest ? writeRuleFile(newest.rules as readonly NoiseRule[]) : FIRST;
  const [text, setText] = useState(kept);
  const [name, setName] = useState('');
  const [save, { error, isLoading }] = packagesApi.useKeepNoiseRulesMutation();
  const problem = problemOf(error);
  const read = readRuleFile(text);
  const isChanged = text !== kept || !set;
  const keep = async (note: string) => {
    if (!read.ok) return;
    const params = { name: set?.name ?? name };
    const body = { rules: read.value, note, basedOn: newest?.revision ?? 0 };
    const result = await save({ params, body });
    if (!('error' in result)) void navigate(`/packages/rules/${encodeURIComponent(params.name)}`);
  };
  return (
    <div className="rule-bench">
      <div>
        {!set && (
          <Field label="Name" fault={faultAt(problem, 'name')}>
            <Input
              style={{ width: 260 }}
              placeholder="such as Old installers"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          </Field>
        )}
        <CheckedText
          label="Rules"
          height="330px"
          text={text}
          faults={read.ok ? [] : read.error}
          onChange={setText}
        />
        {isChanged && (
          <KeepRevision
            revision={(newest?.revision ?? 0) + 1}
            isKeeping={isLoading}
            disabled={!read.ok || (!set && name.trim() === '')}
            onKeep={(note) => void keep(note)}
            onDrop={set && (() => setText(kept))}
          />
        )}
        <ProblemNote problem={problem} shown={['name']} />
        <BuiltIn />
      </div>
      <div>
        <Trial rules={read.ok ? read.value : undefined} />
        {set && <Revisions set={set} />}
      </div>
    </div>
  );
}

const TRY_AFTER_MS = 400;

/** What the rules as they are written now would do to every capture there is. */
function Trial({ rules }: { readonly rules: readonly NoiseRule[] | undefined }) {
  const [tryRules, { data, error, isLoading }] = packagesApi.useTryNoiseRulesMutation();
  const asked = rules && JSON.stringify(rules);
  useEffect(() => {
    if (asked === undefined) return;
    const timer = setTimeout(
      () => void tryRules({ body: { rules: JSON.parse(asked) as NoiseRule[] } }),
      TRY_AFTER_MS,
    );
    return () => clearTimeout(timer);
  }, [asked, tryRules]);
  const changed = (rules ? (data ?? []) : []).filter((row) => row.dropped + row.kept > 0);
  return (
    <section aria-label="What they would change">
      <h2 className="section-title">What they would change</h2>
      <ProblemNote problem={problemOf(error)} />
      {rules === undefined && <p className="quiet">The text has faults; mend them to see.</p>}
      {rules && data && !error && (
        <p aria-busy={isLoading}>
          {data.length === 0
            ? 'There is no capture yet to try them on.'
            : changed.length === 0
              ? `Nothing about the ${plural(data.length, 'capture')} so far.`
              : `They would have changed ${changed.length} of ${plural(data.length, 'earlier capture')}, ${plural(changed.filter((row) => row.isPackaged).length, 'package')} among them.`}
        </p>
      )}
      {changed.map((row) => (
        <TrialRow key={row.captureId} row={row} />
      ))}
    </section>
  );
}

function TrialRow({ row }: { readonly row: RuleTrial }) {
  return (
    <div className="trial">
      <Link to={`/packages/capture/${row.captureId}/capture`}>
        {row.name} {row.version}
      </Link>{' '}
      {row.dropped > 0 && <span>{plural(row.dropped, 'row')} dropped</span>}
      {row.dropped > 0 && row.kept > 0 && ', '}
      {row.kept > 0 && <span>{plural(row.kept, 'row')} kept again</span>}
      {row.isPackaged && <span className="attention"> packaged</span>}
      {row.examples.map((example) => (
        <div key={example} className="mono quiet clip" title={example}>
          {example}
        </div>
      ))}
    </div>
  );
}

function Revisions({ set }: { readonly set: RuleSet }) {
  const { zone } = useEstateTime();
  const [remove, { error }] = packagesApi.useRemoveNoiseRulesMutation();
  const navigate = useNavigate();
  const isUsed = set.revisions.some((row) => row.captures > 0);
  const drop = async () => {
    const result = await remove({ params: { name: set.name } });
    if (!('error' in result)) void navigate('/packages/rules');
  };
  return (
    <section aria-label="Revisions">
      <h2 className="section-title">Revisions</h2>
      {set.revisions.map((row) => (
        <div key={row.revision} className="trial">
          <b>{row.revision}</b> {day(row.createdAt, zone)}, {plural(row.rules.length, 'rule')}, judged{' '}
          {plural(row.captures, 'capture')}
          {row.note && <div className="quiet">{row.note}</div>}
        </div>
      ))}
      {!isUsed && (
        <Button size="small" onClick={() => void drop()}>
          Delete {set.name}
        </Button>
      )}
      <ProblemNote problem={problemOf(error)} />
    </section>
  );
}

function BuiltIn() {
  return (
    <details className="built-in">
      <summary>The {builtInNoise.length} built-in rules</summary>
      <table className="table">
        <tbody>
          {builtInNoise.map((rule) => (
            <tr key={rule.id}>
              <td>{rule.id}</td>
              <td className="mono">{rule.glob}</td>
              <td className="quiet">{rule.reason}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
