/** Plans a rollout: what is to run, when and how fast; the forecast stands beside it. */
import { Button } from 'antd';
import { lazy, Suspense, useDeferredValue, type ReactNode } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import type { HostChoice } from '@vatline/core/rollout/hosts-taken';
import { canBeRolledOut } from '@vatline/core/image/version-state';
import type { KeptPlan } from '@vatline/contract/kept-plan';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { ForecastAnswer, RolloutRequest } from '@vatline/contract/rollout';
import { imagesApi } from '../api/images.ts';
import { keptPlansApi } from '../api/kept-plans.ts';
import { poolsApi } from '../api/pools.ts';
import { rolloutsApi } from '../api/rollouts.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { useEstateTime } from '../shell/clock.ts';
import { useAppDispatch, useAppSelector } from '../shell/store.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { How } from '../parts/how.tsx';
import { count, moment, nearDay, percent, plural, time } from '../parts/format.ts';
import { waysInWords } from './blends/needs-in-words.ts';
import { choicePaths } from './host-choice.tsx';
import { firstPlan } from './first-plan.ts';
import { PlanFields, planFieldPaths } from './plan-fields.tsx';
import { KeptPlansBar } from './plans/kept-plans-bar.tsx';
import { planChanged, planDraftOf, planDropped } from './plans/plan-drafts.ts';
import { SideBySide } from './plans/side-by-side.tsx';
import { RecurringBox } from './recurring/recurring-box.tsx';
import { PoolChoice } from './pool-choice.tsx';
import { usePlanForecast } from './use-forecast.ts';

const TideChart = lazy(async () => ({ default: (await import('./tide-chart.tsx')).TideChart }));

export function PlanBench() {
  const [search] = useSearchParams();
  const poolId = search.get('pool');
  const { data: pool } = poolsApi.usePoolQuery({ params: { id: poolId ?? '' } }, { skip: !poolId });
  if (!poolId) return <PoolChoice />;
  return pool ? <PoolPlans pool={pool} /> : null;
}

/** What is most likely wanted: the blend that was named, or the newest version of the line; by the usual plan. */
function useFirstRequest(
  pool: PoolDetail,
  choice: HostChoice,
  blendId: string | null,
): RolloutRequest | undefined {
  const { data: lines } = imagesApi.useLinesQuery({});
  const { zone, now } = useEstateTime();
  if (!lines || now === 0) return undefined;
  const line = lines.find((row) => row.id === pool.lineId);
  const blend = pool.blends.find((one) => one.id === blendId);
  // What is made anew stays what it was.
  const current = choice.isRemake ? pool.blend?.imageVersionId : undefined;
  const wanted = line?.versions.find(
    (version) => canBeRolledOut(version.state) && version.number > (pool.blend?.imageNumber ?? 0),
  );
  const taken = choice.onlyHosts.length > 0 ? choice.onlyHosts.length : pool.hosts;
  return {
    poolId: pool.id,
    imageVersionId: blend?.imageVersionId ?? current ?? wanted?.id ?? pool.blend?.imageVersionId ?? '',
    packageVersionIds: (blend ?? pool.blend)?.packages.map((row) => row.id) ?? [],
    ...firstPlan(taken, zone),
    isRemake: choice.isRemake,
    onlyHosts: [...choice.onlyHosts],
  };
}

/** Of a pool the plan that is open, or all that are kept side by side. */
function PoolPlans({ pool }: { pool: PoolDetail }) {
  const [search] = useSearchParams();
  const { data: kept } = keptPlansApi.useKeptPlansQuery({ query: { pool: pool.id } });
  if (!kept) return null;
  if (search.has('side') && kept.length > 0) return <SideBySide pool={pool} kept={kept} />;
  return <OpenPlan key={search.toString()} pool={pool} kept={kept} />;
}

function OpenPlan({ pool, kept }: { pool: PoolDetail; kept: readonly KeptPlan[] }) {
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const [search] = useSearchParams();
  const choice = {
    isRemake: search.has('remake'),
    onlyHosts: (search.get('hosts') ?? '').split(',').filter((name) => name !== ''),
  };
  const of = search.toString();
  const open = kept.find(({ id }) => id === search.get('plan'));
  const usual = useFirstRequest(pool, choice, search.get('blend'));
  const first = open?.request ?? usual;
  const changed = useAppSelector((state) => planDraftOf(state, of));
  const request = changed ?? first;
  if (!request) return null;
  const forget = () => dispatch(planDropped(of));
  const bar = (
    <KeptPlansBar
      poolId={pool.id}
      kept={kept}
      open={open}
      request={request}
      isChanged={JSON.stringify(request) !== JSON.stringify(first)}
      onKept={(id) => {
        forget();
        void navigate(`/rollouts/new?pool=${pool.id}&plan=${id}`);
      }}
    />
  );
  return (
    <Plan
      pool={pool}
      request={request}
      bar={bar}
      onChange={(to) => dispatch(planChanged({ of, request: to }))}
      onBegun={forget}
    />
  );
}

function Plan({
  pool,
  request,
  bar,
  onChange,
  onBegun,
}: {
  pool: PoolDetail;
  request: RolloutRequest;
  /** Of the plans that are kept. */
  bar: ReactNode;
  onChange: (request: RolloutRequest) => void;
  onBegun: () => void;
}) {
  const navigate = useNavigate();
  const { answer, isWhole, problem: refusedPlan } = usePlanForecast(request);
  const [start, starting] = rolloutsApi.useStartRolloutMutation();
  const refused = problemOf(starting.error);
  const begin = async () => {
    const result = await start({ body: request });
    if (!result.data) return;
    onBegun();
    void navigate(`/rollouts/${result.data.id}`);
  };
  return (
    <div className="bench-columns">
      <section className="work" aria-label={`Plan for ${pool.name}`}>
        {bar}
        <Answer
          pool={pool}
          request={request}
          answer={answer}
          isFetching={!isWhole}
          isRefused={refusedPlan !== undefined}
        />
        <ProblemNote problem={refusedPlan} shown={[...planFieldPaths, ...choicePaths(request.onlyHosts)]} />
        {answer && (
          <Suspense fallback={<div style={{ height: 380 }} />}>
            <TideChart answer={answer} pool={pool} request={request} />
          </Suspense>
        )}
        {answer && <Windows answer={answer} />}
      </section>
      <aside className="evidence" aria-label="How it runs">
        <PlanFields
          pool={pool}
          request={request}
          attachesAt={answer?.nextWindows[0]?.start ?? null}
          onChange={onChange}
          fault={(path) => faultAt(refusedPlan, path) ?? faultAt(refused, path)}
        />
        {answer && <Others request={request} onChange={onChange} />}
        <ProblemNote problem={refused} />
        <Button
          type="primary"
          block
          size="large"
          disabled={!answer}
          loading={starting.isLoading}
          onClick={() => void begin()}
        >
          {request.isRemake
            ? `Make ${plural(answer?.hosts ?? 0, 'host')} anew`
            : `Roll out ${plural(answer?.hosts ?? 0, 'host')}`}
        </Button>
        {request.onlyHosts.length === 0 && <RecurringBox pool={pool} request={request} />}
      </aside>
    </div>
  );
}

function Answer({
  pool,
  request,
  answer,
  isFetching,
  isRefused,
}: {
  pool: PoolDetail;
  request: RolloutRequest;
  answer: ForecastAnswer | undefined;
  isFetching: boolean;
  isRefused: boolean;
}) {
  const { now, zone } = useEstateTime();
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  const to = lines.flatMap((line) => line.versions).find((version) => version.id === request.imageVersionId);
  return (
    <>
      <h1 className="answer" aria-busy={isFetching}>
        {answer
          ? headline(answer, !isFetching, now, zone)
          : isFetching && !isRefused
            ? 'Working out the forecast'
            : `What is ${pool.name} to run?`}
      </h1>
      <p className="under-answer">
        <span className="mono">{pool.name}</span>
        {answer && `, ${answer.hosts} of ${plural(pool.hosts, 'host')}`}
        {pool.blend && (
          <>
            , {to?.id === pool.blend.imageVersionId ? 'which stay on' : 'from'}{' '}
            <DyeChip name={pool.blend.dye} number={pool.blend.imageNumber} />
          </>
        )}
        {to && to.id !== pool.blend?.imageVersionId && (
          <>
            {' '}
            to <DyeChip name={to.dye} number={to.number} />
          </>
        )}
        . {answer && waysInWords(answer.ways)} {answer && <How rows={howRows(answer)} />}
      </p>
    </>
  );
}

function headline(answer: ForecastAnswer, isWhole: boolean, now: number, zone: string): string {
  const { p90 } = answer.finish;
  if (p90 === null) return 'This plan does not finish.';
  const seats = answer.minSeatsLeft.p10;
  const how = isWhole ? '(9 in 10)' : '(in the middle; how sure is being worked out)';
  const when = `Done by ${time(p90, zone)} ${nearDay(p90, now, zone)} ${how}`;
  return seats >= 0
    ? `${when}, never fewer than ${plural(seats, 'seat')} free.`
    : `${when}, but ${plural(-seats, 'seat')} short at the worst moment.`;
}

/** `1 in 100 attempts fails and is tried once more`. */
function failuresInWords({ rate, retries }: ForecastAnswer['failure']): string {
  if (rate === 0) return 'no attempt is expected to fail';
  const again =
    retries === 0 ? 'waits for a person' : `is tried ${retries === 1 ? 'once' : `${retries} times`} more`;
  return `1 in ${Math.round(1 / rate)} attempts fails and ${again}`;
}

function howRows(answer: ForecastAnswer): [string, string][] {
  const { work, ways, checks } = answer;
  const outOfService = ways.rebuild + ways.attach > 0;
  return [
    ['Runs', `${count(answer.runs)} seeded simulations of every host; the same plan gives the same answer`],
    ...(ways['attach in service'] > 0 ? [inServiceRow(checks)] : []),
    ...(outOfService ? outOfServiceRows(work) : []),
    ['Failures', failuresInWords(answer.failure)],
    ['Finishes in the first window', percent(answer.finishesInFirstWindow)],
    [
      'Held back by',
      answer.binding.map((row) => `${row.constraint} ${row.minutes} min`).join(', ') || 'nothing',
    ],
  ];
}

function inServiceRow({ everyMinutes, attachMinutes }: ForecastAnswer['checks']): [string, string] {
  return [
    'Attached in service',
    `an agent looks every ${everyMinutes} min, at a second of its own, attaches in ${Math.round(attachMinutes * 60)} s, and reports at the check after; sessions from before keep what they have`,
  ];
}

function outOfServiceRows(work: ForecastAnswer['work']): [string, string][] {
  return [
    [
      'Work on one host',
      `median ${work.medianMinutes} min, 90th percentile ${work.p90Minutes} min, ${work.learnedFrom > 0 ? `learned from ${work.learnedFrom} hosts of this pool` : 'usual for this kind of clone'}`,
    ],
    [
      'Draining',
      'until the last session on the host ends, drawn from what is left of a session here, at most the limit; a host starts only if it is finished before the window closes in 9 of 10 cases',
    ],
  ];
}

function Windows({ answer }: { answer: ForecastAnswer }) {
  const { zone } = useEstateTime();
  const used = new Set(answer.windows.map((window) => window.start));
  return (
    <>
      <h2 className="section-title">Windows</h2>
      <p>
        {answer.windowsUsed.p50 === 0
          ? 'No window lets a host start.'
          : `Uses ${plural(answer.windowsUsed.p50, 'window')}${answer.windowsUsed.p90 > answer.windowsUsed.p50 ? `, ${answer.windowsUsed.p90} in 1 of 10 cases` : ''}.`}
      </p>
      <ul className="windows">
        {answer.nextWindows.map((window) => (
          <li key={window.start} className={used.has(window.start) ? 'strong' : 'quiet'}>
            {moment(window.start, zone)} to {time(window.end, zone)}
            {window.clockChange !== 0 && (
              <span className="attention">
                {' '}
                {window.minutes / 60} h, clocks go {window.clockChange < 0 ? 'forward' : 'back'}
              </span>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}

function Others({
  request,
  onChange,
}: {
  request: RolloutRequest;
  onChange: (request: RolloutRequest) => void;
}) {
  const { now, zone } = useEstateTime();
  const asked = useDeferredValue(request);
  const { data = [], isFetching } = rolloutsApi.useSuggestionsQuery({ body: asked });
  if (data.length === 0) return isFetching ? <p className="quiet">Looking for what else would work</p> : null;
  return (
    <>
      <h2>What else would work</h2>
      {data.map((row) => (
        <div key={row.kind} className="spread suggestion">
          <span>
            <b>{row.kind === 'longer window' ? `Until ${row.windowEnd}` : `Batch ${row.batch}`}</b>
            <span className="quiet small">
              {row.finish === null
                ? 'never done'
                : `done ${nearDay(row.finish, now, zone)} ${time(row.finish, zone)}`}
              ,{' '}
              {row.minSeatsLeft >= 0 ? (
                `${plural(row.minSeatsLeft, 'seat')} free`
              ) : (
                <em className="trouble">{plural(-row.minSeatsLeft, 'seat')} short</em>
              )}
            </span>
          </span>
          <Button
            size="small"
            onClick={() =>
              onChange({
                ...request,
                batch: row.batch,
                maxUnavailable: Math.max(request.maxUnavailable, row.batch),
                window: { ...request.window, end: row.windowEnd },
              })
            }
          >
            Use
          </Button>
        </div>
      ))}
    </>
  );
}
