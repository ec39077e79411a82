/** Drift: hosts that are not what their blends say, the worst first; mended by a rollout, or kept out of service. */
import '../rollouts.css';
import './drift.css';
import { Button } from 'antd';
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import type { DriftedHost } from '@vatline/contract/drift';
import { driftApi } from '../../api/drift.ts';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { How } from '../../parts/how.tsx';
import { plural, relative, time } from '../../parts/format.ts';
import { PagedList, rowsOf } from '../../parts/paged-list.tsx';
import { useEstateTime } from '../../shell/clock.ts';
import { Station } from '../../shell/station.tsx';
import { useRolloutRack } from '../rollout-rack.tsx';
import { driftInWords, foundInWords, mendingInWords, poolInWords, whyNotMended } from './drift-in-words.ts';

export function DriftPage() {
  const navigate = useNavigate();
  const items = useRolloutRack();
  const [search] = useSearchParams();
  const poolId = search.get('pool') ?? undefined;
  return (
    <Station
      items={items ?? []}
      action={<Button onClick={() => void navigate('/rollouts/new')}>Plan a rollout</Button>}
    >
      <Drift key={poolId ?? ''} poolId={poolId} />
    </Station>
  );
}

function Drift({ poolId }: { readonly poolId: string | undefined }) {
  const { zone } = useEstateTime();
  const { data: pools, error } = driftApi.useDriftByPoolQuery({});
  const list = driftApi.useDriftedHostsInfiniteQuery({
    query: { limit: 200, ...(poolId && { pool: poolId }) },
  });
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const rows = rowsOf(list);
  const shown = pools?.filter((pool) => poolId === undefined || pool.poolId === poolId);
  const press = (id: string) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  return (
    <div className="bench-columns">
      <section className="work" aria-label="Drift">
        <ProblemNote problem={problemOf(error)} />
        {shown && <h1 className="answer">{driftInWords(shown, zone)}</h1>}
        <p className="under-answer">
          What a host really has, as its machine and its agent report it, against the blend it is on.{' '}
          <How
            rows={[
              ['Looked', 'every hour, and when you ask; hosts that a rollout has in hand are passed over'],
              [
                'Containers',
                'those that whoever signs in is given, against those of the blend that are offered',
              ],
              [
                'Disk',
                'what it was made from, and a digest of what is on it against that of a fresh one; not of desktops that are somebody’s own, of scratch disks, or where agents installed something',
              ],
              [
                'Mended',
                'by a rollout to its own blend, which takes what drifted and does no more than is needed',
              ],
            ]}
          />
        </p>
        {shown && shown.length > 0 && shown.every(({ lookedAt }) => lookedAt === null) && (
          <LookAtAll pools={shown} />
        )}
        {rows.length > 0 && (
          <Mend chosen={rows.filter((row) => chosen.has(row.id))} done={() => setChosen(new Set())} />
        )}
        <PagedList
          list={list}
          rowHeight={46}
          maxHeight={430}
          none={null}
          row={(row) => <DriftRow row={row} isChosen={chosen.has(row.id)} onPress={() => press(row.id)} />}
        />
      </section>
      <aside className="evidence" aria-label="By pool">
        <h2>By pool</h2>
        {pools?.map((pool) => (
          <PoolLine key={pool.poolId} pool={pool} isOpen={pool.poolId === poolId} />
        ))}
        {poolId !== undefined && (
          <p style={{ marginTop: 10 }}>
            <Link to="/rollouts/drift">All pools</Link>
          </p>
        )}
      </aside>
    </div>
  );
}

interface RowProps {
  readonly row: DriftedHost;
  readonly isChosen: boolean;
  readonly onPress: () => void;
}

function DriftRow({ row, isChosen, onPress }: RowProps) {
  const { now } = useEstateTime();
  const { id, name, pool, poolId, blend, drift, state, isHeld, foundAt } = row;
  const isChanged = drift.some(({ kind }) => kind === 'changed disk');
  return (
    <div className="drift-row">
      <input type="checkbox" aria-label={`Choose ${name}`} checked={isChosen} onChange={onPress} />
      <span>
        <Link className="mono" to={`/pools/${poolId}?host=${name}`}>
          {name}
        </Link>
        <span className="quiet small">
          {pool}
          {isHeld ? ', kept out' : state === 'in service' ? '' : `, ${state}`}
        </span>
      </span>
      <DyeChip name={blend.dye} number={blend.imageNumber} />
      <span>
        <span>{drift.map(foundInWords).join('; ')}</span>
        <span className="quiet small">
          found {relative(foundAt, now)}
          {isChanged && (
            <>
              ,{' '}
              <Link to={`/images/${blend.lineId}/compare?from=version:${blend.imageVersionId}&to=host:${id}`}>
                what is another
              </Link>
            </>
          )}
        </span>
      </span>
      <span className={row.mending === 'by hand' ? 'attention' : ''}>{mendingInWords(row)}</span>
    </div>
  );
}

/** Before the first look, which comes within the hour. */
function LookAtAll({ pools }: { readonly pools: readonly { readonly poolId: string }[] }) {
  const [look, looking] = driftApi.useLookForDriftMutation();
  const all = async () => {
    for (const { poolId } of pools) await look({ body: { poolId } });
  };
  return (
    <Button type="primary" loading={looking.isLoading} onClick={() => void all()}>
      Look now
    </Button>
  );
}

interface MendProps {
  readonly chosen: readonly DriftedHost[];
  readonly done: () => void;
}

function Mend({ chosen, done }: MendProps) {
  const navigate = useNavigate();
  const [act, acting] = poolsApi.useActOnHostsMutation();
  const why = whyNotMended(chosen);
  const [first] = chosen;
  const mend = () => {
    const hosts = chosen.map(({ name }) => name).join(',');
    void navigate(`/rollouts/new?pool=${first?.poolId ?? ''}&blend=${first?.blend.id ?? ''}&hosts=${hosts}`);
  };
  const keepOut = async () => {
    for (const id of new Set(chosen.map(({ poolId }) => poolId))) {
      const hosts = chosen.filter(({ poolId, isHeld }) => poolId === id && !isHeld).map(({ name }) => name);
      if (hosts.length === 0) continue;
      const result = await act({ params: { id }, body: { action: 'hold', hosts } });
      if (result.error) return;
    }
    done();
  };
  const free = chosen.filter(({ isHeld }) => !isHeld).length;
  return (
    <div className="row drift-acts">
      <Button type="primary" disabled={why !== undefined} onClick={mend}>
        {chosen.length === 0 ? 'Mend them' : `Mend ${plural(chosen.length, 'host')}`}
      </Button>
      <Button disabled={free === 0} loading={acting.isLoading} onClick={() => void keepOut()}>
        Keep {free === 0 ? 'them' : plural(free, 'host')} out of service
      </Button>
      <span className="quiet">{why}</span>
      <ProblemNote problem={problemOf(acting.error)} />
    </div>
  );
}

interface PoolLineProps {
  readonly pool: {
    readonly poolId: string;
    readonly pool: string;
    readonly hosts: number;
    readonly drifted: number;
    readonly lookedAt: number | null;
  };
  readonly isOpen: boolean;
}

function PoolLine({ pool: { poolId, pool, hosts, drifted, lookedAt }, isOpen }: PoolLineProps) {
  const { zone } = useEstateTime();
  const [look, looking] = driftApi.useLookForDriftMutation();
  return (
    <div className={isOpen ? 'drift-pool open' : 'drift-pool'}>
      <Link className="mono" to={`/rollouts/drift?pool=${poolId}`}>
        {pool}
      </Link>
      <span className={drifted > 0 ? 'attention' : 'quiet'}>{poolInWords({ hosts, drifted, lookedAt })}</span>
      <span className="quiet small">
        {lookedAt === null ? 'never looked at' : `looked ${time(lookedAt, zone)}`}
      </span>
      <Button
        size="small"
        type="link"
        aria-label={`Look now at ${pool}`}
        loading={looking.isLoading}
        onClick={() => void look({ body: { poolId } })}
      >
        Look now
      </Button>
      <ProblemNote problem={problemOf(looking.error)} />
    </div>
  );
}
