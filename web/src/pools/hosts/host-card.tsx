/** One host: how it stands, who is on it, whose it is, its disks, what it has mounted. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import { dye } from '@vatline/core/dye/dyes';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { Host } from '@vatline/contract/pool/host';
import { estateApi } from '../../api/estate.ts';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { moment, plural, relative, size } from '../../parts/format.ts';
import { rowsOf } from '../../parts/paged-list.tsx';
import { useEstateTime } from '../../shell/clock.ts';
import { HostDisks } from '../storage/host-disks.tsx';
import { HostMounts } from './host-mounts.tsx';

interface Props {
  readonly host: Host;
  readonly pool: PoolDetail;
  /** Chooses it, to act on. */
  pick(): void;
}

export function HostCard({ host, pool, pick }: Props) {
  return (
    <section className="container-card" aria-label={host.name}>
      <div className="spread">
        <b className="mono">{host.name}</b>
        <Button size="small" onClick={pick}>
          Act on it
        </Button>
      </div>
      <p>
        {host.state}, blend {host.blend} ({dye(host.dye).letters}), {host.sessions} of{' '}
        {plural(pool.sessionLimit, 'session')}
        {host.nextDye && `, to run ${dye(host.nextDye).letters}`}
      </p>
      <Standing host={host} />
      {host.note && <p className="attention">{host.note}</p>}
      {pool.kind === 'dedicated' && <Owner host={host} />}
      {host.sessions > 0 && <People name={host.name} />}
      <HostMounts name={host.name} />
      <HostDisks name={host.name} />
    </section>
  );
}

function Standing({ host }: { host: Host }) {
  const { now, zone } = useEstateTime();
  const agent =
    host.lastReport === null
      ? 'its agent never reported'
      : `its agent reported ${moment(host.lastReport, zone)}`;
  const up = host.upSince === null ? 'off' : `on for ${relative(host.upSince, now).replace(' ago', '')}`;
  const grows = host.growsBytesPerDay > 0 ? `, growing by ${size(host.growsBytesPerDay)} a day` : '';
  const disks =
    host.scratchBytes === null
      ? `${size(host.ownBytes)} of disks`
      : `${size(host.ownBytes)} of its scratch disk of ${size(host.scratchBytes)} used`;
  return (
    <p className={host.isSilent ? 'trouble' : 'quiet'}>
      On {host.site}; {up}; {agent}; {disks}
      {grows}.
    </p>
  );
}

function People({ name }: { name: string }) {
  const { zone } = useEstateTime();
  const { data: people = [] } = poolsApi.useHostPeopleQuery({ params: { name } });
  return (
    <p>
      On it:{' '}
      {people.map((person, i) => (
        <span key={person.account} title={person.account}>
          {i > 0 && ', '}
          {person.name} <span className="quiet">since {moment(person.since, zone)}</span>
        </span>
      ))}
    </p>
  );
}

/** Whose a dedicated host is, and handing it to somebody else. */
function Owner({ host }: { host: Host }) {
  const [sought, setSought] = useState('');
  const list = estateApi.useUsersInfiniteQuery({ query: { q: sought } });
  const [handOver, handing] = poolsApi.useHandOverMutation();
  const give = (account: string | null) => void handOver({ params: { name: host.name }, body: { account } });
  return (
    <>
      <div className="row">
        <span>{host.owner === null ? 'It is nobody’s yet.' : `It is ${host.owner}’s.`}</span>
        <Select
          showSearch
          filterOption={false}
          onSearch={setSought}
          aria-label="Hand it to"
          placeholder="hand it to …"
          style={{ width: 240 }}
          value={null}
          onChange={(account: string | null) => account && give(account)}
          options={rowsOf(list).map((person) => ({
            value: person.account,
            label: `${person.name}, ${person.role}`,
          }))}
        />
        {host.owner !== null && (
          <Button size="small" onClick={() => give(null)}>
            Take it back
          </Button>
        )}
      </div>
      <ProblemNote problem={problemOf(handing.error)} />
    </>
  );
}
