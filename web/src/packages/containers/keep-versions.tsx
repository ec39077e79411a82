/** Which versions of a package are kept, whether they run side by side, and what would go. */
import { Button, Checkbox } from 'antd';
import { useState } from 'react';
import type { PackageSummary } from '@vatline/contract/package';
import { planRetention, type RetentionRow } from '@vatline/core/image/retention';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { plural, size } from '../../parts/format.ts';
import { KeepNewest } from '../../parts/keep-newest.tsx';

const KEPT_AT_FIRST = 3;

export function KeepVersions({ row }: { row: PackageSummary }) {
  const params = { id: row.id };
  const [keep, setKeep] = useState(row.keepVersions ?? KEPT_AT_FIRST);
  const [change, changing] = packagesApi.useChangePackageMutation();
  const [remove, removing] = packagesApi.useDeletePackageVersionsMutation();
  // Versions come newest first; retention counts upwards.
  const kept = row.versions.map((version, place) => ({
    id: version.id,
    number: row.versions.length - place,
    sizeBytes: version.containers.reduce((sum, one) => sum + one.bytes, 0),
    neededBy: version.neededBy,
  }));
  const plan = planRetention(kept, keep);
  const name = (id: string) => row.versions.find((version) => version.id === id)?.version ?? '';
  const going = plan.rows.filter((one) => one.goes).map((one) => one.version);
  const go = async () => {
    const { error } = await change({ params, body: { keepVersions: keep } });
    if (error) return;
    await remove({ params, body: { versionIds: going.map((version) => version.id) } });
  };
  return (
    <section aria-label="Which are kept">
      <h2 className="section-title">Several versions at once</h2>
      <Checkbox
        checked={row.sideBySide}
        disabled={changing.isLoading}
        onChange={(event) => void change({ params, body: { sideBySide: event.target.checked } })}
      >
        They run side by side
      </Checkbox>
      <p className="quiet">
        {row.sideBySide
          ? 'Whoever is assigned gets every version that is attached to the pool.'
          : 'Where several are attached, people get the newest, and the others are reported.'}
      </p>
      <h2 className="section-title">What may go</h2>
      <div className="row" style={{ marginBottom: 8 }}>
        <KeepNewest keep={keep} onChange={setKeep} />
      </div>
      <WhatStays rows={plan.rows} name={name} />
      {plan.goes > 0 && (
        <Button danger loading={removing.isLoading} style={{ marginTop: 10 }} onClick={() => void go()}>
          Delete {plural(plan.goes, 'version')}, freeing {size(plan.freedBytes)}
        </Button>
      )}
      <ProblemNote problem={problemOf(changing.error ?? removing.error)} />
    </section>
  );
}

interface StaysProps {
  readonly rows: readonly RetentionRow[];
  readonly name: (id: string) => string;
}

function WhatStays({ rows, name }: StaysProps) {
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Version</th>
          <th>Then</th>
          <th>Why</th>
          <th className="number">Containers</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ version, goes, why }) => (
          <tr key={version.id}>
            <td className="strong">{name(version.id)}</td>
            <td className={goes ? 'trouble' : ''}>{goes ? 'goes' : 'stays'}</td>
            <td>{why}</td>
            <td className="number">{size(version.sizeBytes)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
