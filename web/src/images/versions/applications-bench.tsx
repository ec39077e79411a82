/** "Which versions and hosts hold application X below version Y" over every version, container and host. */
import { Input } from 'antd';
import { useDeferredValue, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { FoundApplication, FoundApplications } from '@vatline/contract/application-search';
import { imagesApi } from '../../api/images.ts';
import { problemOf } from '../../api/problem.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { count, plural } from '../../parts/format.ts';

export function ApplicationsBench() {
  const [search, setSearch] = useSearchParams();
  // The address follows what is typed, and may be behind it.
  const [text, setText] = useState(search.get('q') ?? '');
  const ask = (next: string) => {
    setText(next);
    setSearch(next ? { q: next } : {}, { replace: true });
  };
  const asked = useDeferredValue(text.trim());
  const { data, currentData, error } = imagesApi.useApplicationsQuery({ query: { q: asked } });
  const shown = currentData ?? data;
  return (
    <section className="work" aria-label="Where is an application?">
      <h1 className="answer">{shown ? headline(asked, shown) : 'Where is an application?'}</h1>
      <p className="under-answer">
        Over every image version, every container, and the hosts that run either. Such as{' '}
        <button type="button" className="plain-button strong" onClick={() => ask('zinnet below 141')}>
          zinnet below 141
        </button>
        .
      </p>
      <Input
        autoFocus
        allowClear
        style={{ width: 340, marginBottom: 12 }}
        aria-label="Application"
        placeholder="a name, and below which version"
        value={text}
        onChange={(event) => ask(event.target.value)}
      />
      <ProblemNote problem={problemOf(error)} />
      {shown && shown.found.length > 0 && <Found rows={shown.found} />}
      {shown?.more && <p className="quiet">and more; name it more closely to see them</p>}
    </section>
  );
}

function headline(asked: string, { found, hosts, more }: FoundApplications): string {
  if (found.length === 0)
    return asked === '' ? 'No version holds anything yet.' : `Nothing holds “${asked}”.`;
  if (asked === '')
    return `${count(found.length)}${more ? ' and more' : ''} versions of applications are known.`;
  const versions = new Set(found.flatMap((row) => row.versions.map((version) => version.versionId)));
  const inImages = plural(versions.size, 'image version');
  if (hosts === 0) return `No host has it; ${inImages} ${versions.size === 1 ? 'does' : 'do'}.`;
  const have = `${plural(hosts, 'host')} ${hosts === 1 ? 'has' : 'have'} it, and ${inImages}`;
  return more ? `At least ${have}.` : `${have}.`;
}

function Found({ rows }: { readonly rows: readonly FoundApplication[] }) {
  return (
    <table className="table applications">
      <thead>
        <tr>
          <th>Application</th>
          <th className="number">Version</th>
          <th>In image versions</th>
          <th>In containers</th>
          <th>On hosts</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={`${row.publisher} ${row.name} ${row.version}`}>
            <td>
              {row.name} <span className="quiet small">{row.publisher}</span>
            </td>
            <td className="number unbroken">{row.version}</td>
            <td>
              <Versions row={row} />
            </td>
            <td>
              {row.containers.map((container) => (
                <Link key={container.packageVersionId} to={`/packages/${container.packageId}`}>
                  {container.state}
                </Link>
              ))}
            </td>
            <td className="small">
              {row.pools.map((pool) => `${pool.pool} ${count(pool.hosts)}`).join(', ') || (
                <span className="quiet">none</span>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Dyes of one line after its name, the newest first. */
const CHIPS = 5;

function Versions({ row }: { readonly row: FoundApplication }) {
  const lines = [...new Set(row.versions.map((version) => version.lineId))];
  return lines.map((lineId) => {
    const own = row.versions.filter((version) => version.lineId === lineId);
    return (
      <div key={lineId} className="row small">
        <Link to={`/images/${lineId}/versions`}>{own[0]?.line}</Link>
        {own.slice(0, CHIPS).map((version) => (
          <DyeChip key={version.versionId} name={version.dye} number={version.number} />
        ))}
        {own.length > CHIPS && <span className="quiet">and {own.length - CHIPS} older</span>}
      </div>
    );
  });
}
