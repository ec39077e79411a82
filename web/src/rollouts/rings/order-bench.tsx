/** One order of rings: what would go through it and when, and the fields of each ring. */
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { canBeRolledOut } from '@vatline/core/image/version-state';
import type { LineSummary } from '@vatline/contract/image';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { RingOrder, RingsForecast } from '@vatline/contract/rings/order';
import type { PlannedRing, RolloutContents } from '@vatline/contract/rings/ring';
import { imagesApi } from '../../api/images.ts';
import { poolsApi } from '../../api/pools.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { ringsApi } from '../../api/rings.ts';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { How } from '../../parts/how.tsx';
import { KeptMeanwhile } from '../../parts/kept-meanwhile.tsx';
import { count, moment, nearDay, plural, time } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import type { AppDispatch } from '../../shell/store.ts';
import { useLiveForecast, type LiveForecast } from '../use-forecast.ts';
import { ContentsFields, contentsPaths } from './contents-fields.tsx';
import { ringOf } from './first-rings.ts';
import { plannedLanes } from './planned-lanes.ts';
import { RingFields, ringFieldPaths } from './ring-fields.tsx';
import { Lanes } from './lanes.tsx';
import { RingTable } from './ring-table.tsx';

export interface Draft {
  readonly name: string;
  readonly rings: readonly PlannedRing[];
}

interface Props {
  /** Undefined for one that is not kept yet. */
  readonly kept: RingOrder | undefined;
  readonly draft: Draft;
  /** What goes through it, where that is known already. */
  readonly contents?: RolloutContents;
}

interface Asked {
  readonly rings: readonly PlannedRing[];
  readonly contents: RolloutContents;
}

const askForRings = (dispatch: AppDispatch, request: Asked, runs?: number) =>
  dispatch(
    ringsApi.endpoints.ringsForecast.initiate({
      body: { ...request, ...(runs !== undefined && { runs }) } as never,
    }),
  );

export function OrderBench(props: Props) {
  const { data: pools } = poolsApi.usePoolsQuery({});
  const { data: lines } = imagesApi.useLinesQuery({});
  return pools && lines ? <OpenOrder {...props} pools={pools} lines={lines} /> : null;
}

interface OpenProps extends Props {
  readonly pools: readonly PoolSummary[];
  readonly lines: readonly LineSummary[];
}

function OpenOrder({ kept, draft, contents: known, pools, lines }: OpenProps) {
  const [changed, setChanged] = useState<(Draft & { readonly basedOn: number }) | undefined>();
  const [chosen, setChosen] = useState(0);
  const [given, setContents] = useState<RolloutContents | undefined>(known);
  const { name, rings } = changed ?? draft;
  const contents = given ?? likelyContents(rings, pools, lines);
  const live = useLiveForecast({ rings, contents }, askForRings);
  const basedOn = changed?.basedOn ?? kept?.revision ?? 0;
  const set = (change: Partial<Draft>) => setChanged({ name, rings, basedOn, ...change });
  const ring = rings[chosen];
  const fault = (path: string) => faultAt(live.problem, path);
  const lineIds = pools
    .filter((pool) => rings.some((one) => one.poolId === pool.id))
    .map((pool) => pool.lineId);
  const dye = lines
    .flatMap((line) => line.versions)
    .find((version) => version.id === contents.imageVersionId)?.dye;
  return (
    <div className="bench-columns">
      <section className="work" aria-label={`Order of rings ${name}`}>
        <Answer live={live} />
        <ContentsFields contents={contents} lineIds={lineIds} onChange={setContents} fault={fault} />
        <ProblemNote problem={live.problem} shown={shownPaths(rings, contents)} />
        <Lanes
          lanes={plannedLanes(rings, pools, live.answer)}
          dye={dye}
          chosen={chosen}
          onChoose={setChosen}
        />
        <AddRing
          pools={pools}
          onAdd={(pool, zone) => {
            set({ rings: [...rings, ringOf(pool, zone)] });
            setChosen(rings.length);
          }}
        />
        {live.answer && <RingTable rings={rings} answer={live.answer} />}
      </section>
      <aside className="evidence" aria-label="The ring">
        {ring && (
          <>
            <h2>
              Ring {chosen + 1} of {rings.length}
            </h2>
            <MoveRing
              rings={rings}
              chosen={chosen}
              onChange={(next, at) => {
                set({ rings: next });
                setChosen(at);
              }}
            />
            <RingFields
              ring={ring}
              isLast={chosen === rings.length - 1}
              fault={(path) => fault(`rings.${chosen}.${path}`)}
              onChange={(one) => set({ rings: rings.map((row, i) => (i === chosen ? one : row)) })}
            />
          </>
        )}
        <Keep
          kept={kept}
          name={name}
          rings={rings}
          basedOn={basedOn}
          isChanged={changed !== undefined}
          onName={(next) => set({ name: next })}
          onDrop={() => setChanged(undefined)}
        />
        {kept && !changed && <Begin order={kept} contents={contents} live={live} />}
      </aside>
    </div>
  );
}

/** The newest version of the line that the last ring's pool is made from, which that pool does not run. */
function likelyContents(
  rings: readonly PlannedRing[],
  pools: readonly PoolSummary[],
  lines: readonly LineSummary[],
): RolloutContents {
  const last = pools.find((pool) => pool.id === rings.at(-1)?.poolId);
  const line = lines.find((one) => one.id === last?.lineId);
  const newest = line?.versions.find(
    (version) => canBeRolledOut(version.state) && version.id !== last?.blend?.imageVersionId,
  );
  return { imageVersionId: newest?.id ?? last?.blend?.imageVersionId ?? null, packageVersionIds: [] };
}

function shownPaths(rings: readonly PlannedRing[], { packageVersionIds }: RolloutContents): string[] {
  return [
    ...contentsPaths,
    ...packageVersionIds.map((_id, i) => `contents.packageVersionIds.${i}`),
    // Those of the ring that is open stand beside its fields; the others are said here.
    ...rings.flatMap((_ring, i) => (i === 0 ? ringFieldPaths.map((path) => `rings.${i}.${path}`) : [])),
  ];
}

function Answer({ live: { answer, isWhole, problem } }: { readonly live: LiveForecast<RingsForecast> }) {
  const { now, zone } = useEstateTime();
  const hosts = answer?.rings.reduce((sum, ring) => sum + ring.hosts, 0) ?? 0;
  const p90 = answer?.finish.p90 ?? null;
  const says = answer
    ? p90 === null
      ? 'These rings are never all through.'
      : `Through all rings by ${time(p90, zone)} ${nearDay(p90, now, zone)} ${isWhole ? '(9 in 10)' : '(in the middle; how sure is being worked out)'}.`
    : problem
      ? 'What is to go through these rings?'
      : 'Working out the forecast';
  return (
    <>
      <h1 className="answer" aria-busy={!isWhole && !problem}>
        {says}
      </h1>
      <p className="under-answer">
        {answer && (
          <>
            {plural(hosts, 'host')} of {plural(answer.rings.length, 'ring')} change.{' '}
            <How rows={howRows(answer)} />
          </>
        )}
      </p>
    </>
  );
}

function howRows(answer: RingsForecast): [string, string][] {
  return [
    [
      'Runs',
      `${count(answer.runs)} seeded simulations of every host of every ring; the same rings give the same answer`,
    ],
    [
      'A ring opens',
      'when so many hosts of the one before it are done, and have soaked; then it begins in its own windows',
    ],
    ['An approval', `is taken to last ${answer.approvalHours} h`],
    [
      'Two rings of one pool',
      'run one after the other: the second waits for the end of the first, whatever its gate asks',
    ],
    ['A failure rule', 'stops its ring and all behind it; runs in which that happens never end'],
  ];
}

function AddRing({
  pools,
  onAdd,
}: {
  readonly pools: readonly PoolSummary[];
  readonly onAdd: (pool: PoolSummary, zone: string) => void;
}) {
  const { zone } = useEstateTime();
  return (
    <Select
      size="small"
      style={{ width: 240 }}
      aria-label="Add a ring"
      placeholder="Add a ring behind the last one"
      value={null}
      options={pools.map((pool) => ({ value: pool.id, label: `${pool.name}, ${pool.hosts} hosts` }))}
      onChange={(id: string | null) => {
        const pool = pools.find((one) => one.id === id);
        if (pool) onAdd(pool, zone);
      }}
    />
  );
}

function MoveRing({
  rings,
  chosen,
  onChange,
}: {
  readonly rings: readonly PlannedRing[];
  readonly chosen: number;
  readonly onChange: (rings: PlannedRing[], chosen: number) => void;
}) {
  const moved = (by: number) => {
    const next = [...rings];
    const [one] = next.splice(chosen, 1);
    if (one) next.splice(chosen + by, 0, one);
    onChange(next, chosen + by);
  };
  return (
    <div className="row">
      <Button size="small" disabled={chosen === 0} onClick={() => moved(-1)}>
        Earlier
      </Button>
      <Button size="small" disabled={chosen === rings.length - 1} onClick={() => moved(1)}>
        Later
      </Button>
      <Button
        size="small"
        disabled={rings.length === 1}
        onClick={() =>
          onChange(
            rings.filter((_ring, i) => i !== chosen),
            Math.max(0, chosen - 1),
          )
        }
      >
        Take out
      </Button>
    </div>
  );
}

interface KeepProps extends Draft {
  readonly kept: RingOrder | undefined;
  readonly basedOn: number;
  readonly isChanged: boolean;
  readonly onName: (name: string) => void;
  readonly onDrop: () => void;
}

function Keep({ kept, name, rings, basedOn, isChanged, onName, onDrop }: KeepProps) {
  const navigate = useNavigate();
  const [add, adding] = ringsApi.useAddRingOrderMutation();
  const [keep, keeping] = ringsApi.useKeepRingOrderMutation();
  const problem = problemOf(adding.error ?? keeping.error);
  const press = async () => {
    const body = { name, rings: rings as PlannedRing[] };
    const result = kept
      ? await keep({ params: { id: kept.id }, body: { ...body, basedOn } })
      : await add({ body });
    if (result.error) return;
    onDrop();
    if (!kept && result.data && 'id' in result.data) void navigate(`/rollouts/rings/${result.data.id}`);
  };
  return (
    <>
      <h2>The order</h2>
      <Field label="Name of the order" fault={faultAt(problem, 'name')}>
        <Input value={name} maxLength={60} onChange={(event) => onName(event.target.value)} />
      </Field>
      <ProblemNote problem={problem} shown={['name']} />
      {kept && <KeptMeanwhile problem={problem} basedOn={basedOn} kept={kept.revision} onTake={onDrop} />}
      {(isChanged || !kept) && (
        <div className="row">
          <Button type="primary" loading={adding.isLoading || keeping.isLoading} onClick={() => void press()}>
            {kept ? `Keep as revision ${kept.revision + 1}` : 'Keep this order'}
          </Button>
          {kept && <Button onClick={onDrop}>Drop the changes</Button>}
        </div>
      )}
      {kept && <LastRevisions order={kept} />}
    </>
  );
}

function LastRevisions({ order }: { readonly order: RingOrder }) {
  const { zone } = useEstateTime();
  return (
    <ul className="decisions small quiet">
      {order.revisions.slice(0, 4).map(({ number, at, by, rings }) => (
        <li key={number}>
          Revision {number}, {moment(at, zone)}, {by ?? 'with the demo'}: {plural(rings, 'ring')}
        </li>
      ))}
    </ul>
  );
}

interface BeginProps {
  readonly order: RingOrder;
  readonly contents: RolloutContents;
  readonly live: LiveForecast<RingsForecast>;
}

function Begin({ order, contents, live }: BeginProps) {
  const navigate = useNavigate();
  const [start, starting] = ringsApi.useStartStagedMutation();
  const problem = problemOf(starting.error);
  const press = async () => {
    const body = { orderId: order.id, revision: order.revision, contents: contents as never };
    const result = await start({ body });
    if (result.data) void navigate(`/rollouts/staged/${result.data.id}`);
  };
  return (
    <>
      <ProblemNote problem={problem} />
      <Button
        type="primary"
        block
        size="large"
        disabled={!live.answer || live.problem !== undefined}
        loading={starting.isLoading}
        onClick={() => void press()}
      >
        Roll out through {plural(order.rings.length, 'ring')}
      </Button>
    </>
  );
}
