/** The Pools station: what a pool's hosts run, how full it is, and making a new one. */
import './pools.css';
import { Button } from 'antd';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import { poolsApi } from '../api/pools.ts';
import { problemOf } from '../api/problem.ts';
import { Station } from '../shell/station.tsx';
import { useEstateTime } from '../shell/clock.ts';
import { DayCurve } from '../parts/day-curve.tsx';
import { DyeChip } from '../parts/dye-chip.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { count, percent, plural, time } from '../parts/format.ts';
import { JobCard } from '../parts/job.tsx';
import { BlendClashes } from '../packages/clashes/blend-clashes.tsx';
import { HealthPage } from './health-page.tsx';
import { KeptCopies } from './hosts/kept-copies.tsx';
import { HostList } from './hosts/host-list.tsx';
import { usePoolRack } from './pool-rack.tsx';
import { MoreHostsTab } from './more-hosts-tab.tsx';
import { SourceHold } from './source-hold.tsx';
import { PoolTabs } from './pool-tabs.tsx';
import { ReadinessTab } from './readiness/readiness-tab.tsx';
import { SettingsTab } from './settings/settings-tab.tsx';
import { NewPoolBench } from './new/new-pool.tsx';

export function PoolsPage() {
  const { poolId } = useParams();
  const { pools, isFetching, items, action } = usePoolRack();
  return (
    <Station items={items} action={action}>
      {poolId === 'new' ? (
        <NewPoolBench />
      ) : poolId ? (
        <PoolBench
          key={poolId}
          id={poolId}
          gone={!isFetching && pools !== undefined && !pools.some((pool) => pool.id === poolId)}
        />
      ) : pools?.length === 0 ? (
        <NewPoolBench />
      ) : (
        <HealthPage />
      )}
    </Station>
  );
}

function PoolBench({ id, gone }: { id: string; gone: boolean }) {
  const { tab } = useParams();
  // A pool whose making was undone is not asked for again at every change.
  const { data: pool, error } = poolsApi.usePoolQuery({ params: { id } }, { skip: gone });
  if (gone)
    return (
      <section className="work" aria-label="No such pool">
        <h1 className="answer">This pool does not exist.</h1>
        <p className="under-answer">
          Either its making was undone, and everything made for it was taken back, or the address is wrong.
          The journal tells which.
        </p>
      </section>
    );
  if (error) return <ProblemNote problem={problemOf(error)} />;
  if (!pool) return null;
  if (tab === 'readiness') return <ReadinessTab pool={pool} />;
  if (tab === 'more') return <MoreHostsTab pool={pool} />;
  if (tab === 'settings') return <SettingsTab pool={pool} />;
  return <OpenPool pool={pool} />;
}

function OpenPool({ pool }: { pool: PoolDetail }) {
  const [search] = useSearchParams();
  const { now, zone } = useEstateTime();
  const seats = pool.inService * pool.sessionLimit;
  const job = pool.activeJob ?? pool.jobs.find((row) => row.state === 'failed') ?? pool.jobs[0];
  return (
    <div className="bench-columns">
      <section className="work" aria-label={pool.name}>
        <h1 className="answer">
          {pool.hosts === 0
            ? `${pool.name} has no hosts yet.`
            : `${count(pool.sessions)} of ${plural(seats, 'seat')} in use; ${pool.inService === pool.hosts ? 'every host is in service' : `${pool.inService} of ${pool.hosts} hosts in service`}.`}
        </h1>
        <p className="under-answer">
          <span className="mono">{pool.name}</span>, {pool.kind},{' '}
          {pool.clone === 'network' ? 'one shared image over the network' : `${pool.clone} clones`},{' '}
          {plural(pool.sessionLimit, 'session')} a host, {percent(seats === 0 ? 0 : pool.sessions / seats)}{' '}
          full.
        </p>
        <PoolTabs pool={pool} />
        {job && (pool.activeJob || job.state === 'failed') && <JobCard job={job} open />}
        <HostList pool={pool} chosen={search.get('host')} />
        {pool.hosts > 0 && (
          <DayCurve expected={pool.expected} seats={seats} hourNow={Number(time(now, zone).slice(0, 2))} />
        )}
      </section>
      <PoolEvidence pool={pool} job={job && !pool.activeJob && job.state !== 'failed' ? job : undefined} />
    </div>
  );
}

function PoolEvidence({ pool, job }: { pool: PoolDetail; job: PoolDetail['jobs'][number] | undefined }) {
  const navigate = useNavigate();
  return (
    <aside className="evidence" aria-label="Blend and place">
      <h2>Blend</h2>
      {pool.blend && (
        <>
          <p>
            <b>Blend {pool.blend.number}</b>:{' '}
            <DyeChip name={pool.blend.dye} number={pool.blend.imageNumber} note={pool.blend.line} />
          </p>
          <ul className="plain-list">
            {pool.blend.packages.map((row) => (
              <li key={row.id}>
                {row.name} {row.version}
              </li>
            ))}
            {pool.blend.packages.length === 0 && <li className="quiet">no packages attached</li>}
          </ul>
          <BlendClashes packageVersionIds={pool.blend.packages.map((row) => row.id)} />
        </>
      )}
      {pool.nextBlend && (
        <p>
          Next: <b>blend {pool.nextBlend.number}</b>{' '}
          <DyeChip name={pool.nextBlend.dye} number={pool.nextBlend.imageNumber} />
        </p>
      )}
      <div className="row" style={{ margin: '12px 0' }}>
        <Button
          type="primary"
          disabled={pool.hosts === 0}
          onClick={() => void navigate(`/rollouts/new?pool=${pool.id}`)}
        >
          Plan a rollout
        </Button>
        <Link to={`/rollouts/blends/${pool.id}`}>all its blends</Link>
        <Link to={`/access?pool=${pool.id}`}>who may use it</Link>
      </div>
      {pool.hosts > 0 && (
        <p>
          <Link to={`/rollouts/new?pool=${pool.id}&remake`}>make all anew</Link> from what they run
        </p>
      )}
      <SourceHold pool={pool} />
      <h2>Place</h2>
      <dl className="facts narrow">
        <dt>Names</dt>
        <dd className="mono">{pool.pattern}</dd>
        <dt>Unit</dt>
        <dd className="mono">{pool.ou}</dd>
        <dt>Site</dt>
        {pool.places.map((place, i) => (
          <dd key={i}>
            {place.site}, network {place.network || 'not known'}, datastore {place.datastore}
            {place.parentDatastore && `, parent on ${place.parentDatastore}`}
            {place.dataDatastore && `, personal disks on ${place.dataDatastore}`}
            {place.atMost !== null && `; at most ${plural(place.atMost, 'host')}`}
          </dd>
        ))}
      </dl>
      <KeptCopies poolId={pool.id} />
      {job && (
        <>
          <h2>Last work on it</h2>
          <JobCard job={job} />
        </>
      )}
    </aside>
  );
}
