/** What attaching a version takes on a host, and trying it there for nobody. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import type { PackageVersion } from '@vatline/contract/package';
import { packagesApi } from '../../api/packages.ts';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { count, day, plural } from '../../parts/format.ts';

/** A ring to try things on, where there is one. */
const TRIAL_POOL = /pilot/;

export function AttachTrial({ version }: { version: PackageVersion }) {
  const { zone } = useEstateTime();
  const hosts = useTrialHosts();
  const [chosen, setChosen] = useState<string>();
  const [trial, { error, isLoading }] = packagesApi.useTrialMutation();
  const host = chosen ?? hosts[0];
  const { signIn } = version;
  return (
    <>
      <div>
        {signIn
          ? `${plural(signIn.operations, 'read')} on the share, ${count(signIn.mountMs)} ms to mount, ${count(signIn.registerMs)} ms to register; measured on ${signIn.host}, ${day(signIn.at, zone)}`
          : 'Not tried on a host yet; what it takes is guessed from its size.'}
      </div>
      <div className="row" style={{ marginTop: 4 }}>
        <Select
          size="small"
          showSearch
          style={{ width: 150 }}
          aria-label={`Host to try ${version.name} ${version.version} on`}
          value={host ?? null}
          onChange={(name) => setChosen(name ?? undefined)}
          options={hosts.map((name) => ({ value: name, label: name }))}
        />
        <Button
          size="small"
          disabled={!host}
          loading={isLoading || version.activeJob?.kind === 'trial'}
          onClick={() => host && void trial({ params: { id: version.id }, body: { host } })}
        >
          {signIn ? 'Try it again' : 'Try it on this host'}
        </Button>
        <span className="quiet">for nobody, then taken away again</span>
      </div>
      <ProblemNote problem={problemOf(error)} />
    </>
  );
}

/** Names of hosts of the pool that things are tried on, else of the smallest. */
function useTrialHosts(): string[] {
  const { data: pools = [] } = poolsApi.usePoolsQuery({});
  const bySize = [...pools].filter((pool) => pool.hosts > 0).sort((a, b) => a.hosts - b.hosts);
  const pool = bySize.find((row) => TRIAL_POOL.test(row.name)) ?? bySize[0];
  const { data = [] } = poolsApi.useCellsQuery({ params: { id: pool?.id ?? '' } }, { skip: !pool });
  return data.map((host) => host.name);
}
