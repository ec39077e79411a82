/** What lies between two versions of a package, and what updating hosts costs. */
import { Select } from 'antd';
import { useState } from 'react';
import type { PackageSummary, VersionComparison as Comparison } from '@vatline/contract/package';
import { entryName, type Entry } from '@vatline/core/inventory/entry';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { changeSigns } from '../../parts/change-signs.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { How } from '../../parts/how.tsx';
import { count, plural, size } from '../../parts/format.ts';

export function CompareVersions({ row }: { row: PackageSummary }) {
  const [newest, second] = row.versions;
  const [from, setFrom] = useState(second?.id);
  const [to, setTo] = useState(newest?.id);
  if (!second) return <p className="quiet">There is one version only; nothing to compare it with yet.</p>;
  const options = row.versions.map((version) => ({ value: version.id, label: version.version }));
  return (
    <section aria-label="What changed">
      <div className="row" style={{ marginBottom: 10 }}>
        <span>From</span>
        <Select
          aria-label="Earlier version"
          style={{ width: 120 }}
          value={from ?? null}
          onChange={(id) => setFrom(id ?? undefined)}
          options={options}
        />
        <span>to</span>
        <Select
          aria-label="Later version"
          style={{ width: 120 }}
          value={to ?? null}
          onChange={(id) => setTo(id ?? undefined)}
          options={options}
        />
      </div>
      {!from || !to || from === to ? (
        <p className="quiet">Choose two versions.</p>
      ) : (
        <VersionDifference from={from} to={to} />
      )}
    </section>
  );
}

/** Down to files, settings and what people open. */
export function VersionDifference({ from, to }: { readonly from: string; readonly to: string }) {
  const { data, error } = packagesApi.usePackageComparisonQuery({
    params: { id: to },
    query: { with: from },
  });
  return (
    <>
      <ProblemNote problem={problemOf(error)} />
      {data && <Answer comparison={data} />}
    </>
  );
}

function Answer({ comparison }: { comparison: Comparison }) {
  const { counts, update, entryPoints } = comparison;
  return (
    <>
      <p className="strong">
        {counts.added} added, {counts.removed} removed, {counts.changed} changed, {counts.moved} moved;{' '}
        {plural(counts.same, 'file or value', 'files and values')} the same.
      </p>
      <table className="table container-sizes">
        <tbody>
          <UpdateRow
            label="The container, whole"
            bytes={update.wholeBytes}
            most={update.wholeBytes}
            hosts={update.hosts}
          />
          <UpdateRow
            label="Only files that are new"
            bytes={update.deltaBytes}
            most={update.wholeBytes}
            hosts={update.hosts}
          />
        </tbody>
      </table>
      <p className="quiet">
        {update.hosts === 0
          ? `No host has ${comparison.before} attached now.`
          : `${plural(update.hosts, 'host')} would read that in full; attached, they read only what is opened.`}{' '}
        <How
          rows={[
            [
              'New files',
              `${size(update.newBytes)} of content that ${comparison.before} has under no name, each content once`,
            ],
            ['Compressed', 'as the container of the later version compresses on average'],
            ['Hosts', `those that have ${comparison.before} attached now`],
          ]}
        />
      </p>
      <EntryPointChanges entryPoints={entryPoints} />
      <Rows comparison={comparison} />
    </>
  );
}

interface UpdateProps {
  readonly label: string;
  readonly bytes: number;
  readonly most: number;
  readonly hosts: number;
}

function UpdateRow({ label, bytes, most, hosts }: UpdateProps) {
  return (
    <tr>
      <td>{label}</td>
      <td className="size-cell">
        <span className="size-bar" style={{ width: `${(100 * bytes) / Math.max(1, most)}%` }} aria-hidden />
      </td>
      <td className="number" title={`${count(bytes)} bytes`}>
        {size(bytes)}
      </td>
      <td className="number">{hosts === 0 ? '' : `${size(bytes * hosts)} for ${plural(hosts, 'host')}`}</td>
    </tr>
  );
}

function EntryPointChanges({ entryPoints }: Pick<Comparison, 'entryPoints'>) {
  const parts = [
    ...entryPoints.added.map((name) => `${name} is new`),
    ...entryPoints.removed.map((name) => `${name} is gone`),
    ...entryPoints.changed.map((name) => `${name} opens otherwise`),
  ];
  return <p>{parts.length === 0 ? 'People open the same as before.' : `For people: ${parts.join(', ')}.`}</p>;
}

const SHOWN = 200;

function Rows({ comparison }: { comparison: Comparison }) {
  const rows = [
    ...comparison.changed.map((row) => ['changed', row.after, row.fields.join(', ')] as const),
    ...comparison.added.map((entry) => ['added', entry, ''] as const),
    ...comparison.removed.map((entry) => ['removed', entry, ''] as const),
    ...comparison.moved.map((row) => ['moved', row.to, `from ${nameOf(row.from)}`] as const),
  ];
  const { added, removed, changed, moved } = comparison.counts;
  const all = added + removed + changed + moved;
  return (
    <>
      {rows.slice(0, SHOWN).map(([change, entry, note]) => (
        <div key={`${change} ${entry.kind} ${nameOf(entry)}`} className="tree-row">
          <span className="tree-name mono" title={nameOf(entry)}>
            <b className={change === 'removed' ? 'trouble' : 'good'}>{changeSigns[change]}</b> {nameOf(entry)}
          </span>
          <span className="quiet tree-note">{note}</span>
          <span className="number">
            {typeof entry['size'] === 'number' ? size(entry['size']) : entry.kind}
          </span>
        </div>
      ))}
      {all > SHOWN && (
        <p className="quiet">
          and {count(all - Math.min(SHOWN, rows.length))} more; the bills of materials list all.
        </p>
      )}
    </>
  );
}

function nameOf(entry: { readonly kind: string }): string {
  return entryName(entry as unknown as Entry);
}
