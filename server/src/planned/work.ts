/** Everything that is planned, over rollouts, rings and cut schedules, as windows in a stretch of time. */
import type { Planned } from '@vatline/contract/planned';
import type { Rollout } from '@vatline/contract/rollout';
import { planCuts } from '@vatline/core/image/cut-plan';
import { wavesEnd, workAfterCut } from '@vatline/core/rollout/usual-work';
import { DAY, MINUTE, type Instant } from '@vatline/core/time/instant';
import { nextOccurrences } from '@vatline/core/time/occurrences';
import { windowsFrom } from '@vatline/core/time/windows';
import type { CutSchedules } from '../image/cut-schedules.ts';
import type { ImageStore } from '../image/store.ts';
import type { Parts } from '../platform/parts.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { StagedPresenter } from '../rollout/rings/present.ts';
import type { RecurringRollouts } from '../rollout/recurring/recurring.ts';
import type { RolloutStore } from '../rollout/store.ts';
import { poolsAtWork, type PoolAtWork } from './pools-at-work.ts';

export interface PlannedStores {
  readonly images: ImageStore;
  readonly pools: PoolStore;
  readonly rollouts: RolloutStore;
  readonly stagedPresenter: Pick<StagedPresenter, 'ahead'>;
  readonly schedules: CutSchedules;
  readonly recurring: Pick<RecurringRollouts, 'ahead'>;
}

/** Rollouts that one stretch may hold; a pool has one at a time. */
const MOST_ROLLOUTS = 2_000;
/** Of one schedule: a year of weekly ones. */
const MOST_CUTS = 60;
/** So long after a cut what follows it may begin, with some nights for it. */
const LONGEST_AFTER = 40 * DAY;
/** What is drawn of a window in which little was done. */
const LEAST_SHOWN = 30 * MINUTE;

/** By their beginning; rollouts that are over are among them as they were. */
export async function plannedWork(
  parts: Parts,
  stores: PlannedStores,
  from: Instant,
  to: Instant,
): Promise<Planned[]> {
  const pools = await poolsAtWork(parts, stores.pools);
  const groups = await Promise.all([
    rolloutWork(parts, stores, pools, [from, to]),
    ringWork(stores, pools, [from, to]),
    scheduledWork(parts, stores, pools, [from, to]),
    recurringWork(stores, pools, [from, to]),
  ]);
  return groups.flat().sort((a, b) => a.start - b.start || a.label.localeCompare(b.label));
}

type Stretch = readonly [from: Instant, to: Instant];
type Pools = ReadonlyMap<string, PoolAtWork>;

async function rolloutWork(
  { db, estate }: Parts,
  { rollouts }: PlannedStores,
  pools: Pools,
  [from, to]: Stretch,
): Promise<Planned[]> {
  const list = await rollouts.between(from, to, MOST_ROLLOUTS);
  const versions = await db
    .selectFrom('image_version')
    .select(['id', 'line_id'])
    .where('id', 'in', [...new Set(list.map((row) => row.to.imageVersionId))])
    .execute();
  const lineOf = new Map(versions.map((row) => [row.id, row.line_id]));
  const found: Planned[] = [];
  for (const rollout of list) {
    const rule = await rollouts.windowRule(rollout);
    const windows = windowsFrom(rule, rollout.windowsFrom);
    if (!windows.ok) continue;
    const about = aboutRollout(rollout, lineOf.get(rollout.to.imageVersionId) ?? null, pools);
    // While it is paused it takes no window that is still to come.
    const until = rollout.endedAt ?? rollout.pausedAt ?? rollout.expectedAt ?? to;
    for (const { start, end, minutes } of windows.value) {
      if (start > Math.min(to, until)) break;
      if (end < Math.max(from, rollout.startedAt) || minutes === 0) continue;
      const worksUntil = Math.min(end, Math.max(until, start + LEAST_SHOWN));
      const when = { id: `${rollout.id}-${start}`, start, end, worksUntil };
      found.push({ ...about, ...(end <= estate.clock.now() && past), ...when });
    }
  }
  return found;
}

/** Of a window that is over, how many hosts were left is not known any more. */
const past: Pick<Planned, 'isOver' | 'loads' | 'hosts' | 'moves' | 'fixed'> = {
  isOver: true,
  loads: [],
  hosts: null,
  moves: null,
  fixed: 'it is over',
};

type About = Omit<Planned, 'id' | 'start' | 'end' | 'worksUntil'>;

function aboutRollout(rollout: Rollout, lineId: string | null, pools: Pools): About {
  const { id, pool, poolId, to, from, plan, hosts, done, setAside, endedAt, partOf } = rollout;
  const isOver = endedAt !== null;
  const attaches = from.imageVersionId === to.imageVersionId;
  const fixed = isOver ? 'it is over' : rollout.state === 'stopped' ? 'it was stopped' : '';
  return {
    kind: 'rollout',
    of: id,
    partOf: partOf?.id ?? null,
    label: partOf ? `${pool}, ${partOf.ring}` : pool,
    poolId,
    lineId,
    isEnough: true,
    // Containers are attached to hosts that run.
    loads: attaches || isOver ? [] : [...(pools.get(poolId)?.loadsOf(plan.batch) ?? [])],
    hosts: isOver ? hosts : hosts - done - setAside,
    batch: plan.batch,
    version: { dye: to.dye, number: to.imageNumber },
    isOver,
    to: `/rollouts/${id}`,
    moves: fixed === '' ? 'rollout' : null,
    fixed,
    place: null,
  };
}

/** Rings that wait for the ones before them. */
async function ringWork(
  { stagedPresenter }: PlannedStores,
  pools: Pools,
  [from, to]: Stretch,
): Promise<Planned[]> {
  return (await stagedPresenter.ahead())
    .filter(({ start, end }) => start <= to && end >= from)
    .map(({ id, stagedId, pool, poolId, lineId, version, batch, start, end, windowEnd }): Planned => ({
      id,
      kind: 'ring',
      of: id,
      partOf: stagedId,
      label: pool,
      poolId,
      lineId,
      start,
      end: windowEnd,
      worksUntil: end,
      isEnough: true,
      loads: version === null ? [] : [...(pools.get(poolId)?.loadsOf(batch) ?? [])],
      // A share of its pool, perhaps; which hosts it takes is known when it begins.
      hosts: null,
      batch,
      version,
      isOver: false,
      to: `/rollouts/staged/${stagedId}`,
      moves: null,
      fixed: 'a ring begins when the ones before it are well; its windows are those of its order',
      place: null,
    }));
}

/** Rollouts that come again: of a version its next window, of hosts made anew each. */
async function recurringWork(
  { recurring }: PlannedStores,
  pools: Pools,
  [from, to]: Stretch,
): Promise<Planned[]> {
  return (await recurring.ahead(to)).flatMap(({ poolId, plan, window, brings }): Planned[] => {
    const pool = pools.get(poolId);
    const { start, end } = window;
    if (!pool || end < from) return [];
    return [
      {
        id: `again-${poolId}-${start}`,
        kind: 'rollout',
        of: `again-${poolId}-${start}`,
        partOf: null,
        label: `${pool.name}, again`,
        poolId,
        // Nothing is behind a cut that has brought the newest version by then.
        lineId: null,
        start,
        end,
        worksUntil: Math.min(end, wavesEnd(start, workAfterCut(pool, plan.batch))),
        isEnough: true,
        loads: [...pool.loadsOf(plan.batch)],
        hosts: pool.hosts,
        batch: plan.batch,
        version: brings && { dye: brings.dye, number: brings.number },
        isOver: false,
        to: `/rollouts/new?pool=${poolId}`,
        moves: null,
        fixed: 'it comes again by itself; its plan stands with its pool',
        place: null,
      },
    ];
  });
}

/** What schedules will do: cuts to come, and the windows of the rollouts that follow each. */
async function scheduledWork(
  parts: Parts,
  { images, schedules }: PlannedStores,
  pools: Pools,
  [from, to]: Stretch,
): Promise<Planned[]> {
  const names = new Map((await images.lines.all()).map(({ id, name }) => [id, name]));
  const first = Math.max(from - LONGEST_AFTER, parts.estate.clock.now());
  return (await schedules.all()).flatMap(({ lineId, schedule, after }) => {
    const rollouts = schedule.rollouts.map((row) => {
      const pool = pools.get(row.poolId);
      return { ...row, work: pool && workAfterCut(pool, row.batch) };
    });
    const begin = Math.max(after, first);
    // Only those that are shown are planned with what follows them.
    const cuts = nextOccurrences(schedule, begin, MOST_CUTS);
    const count = cuts.ok ? cuts.value.filter((at) => at <= to).length : 0;
    const plan = planCuts({ ...schedule, rollouts }, begin, count);
    const link = { lineId, to: `/images/${lineId}/schedule`, version: null, isOver: false } as const;
    return (plan.ok ? plan.value : []).flatMap(({ cutAt, rollouts: following }): Planned[] => {
      const cut: Planned = {
        ...link,
        id: `cut-${lineId}-${cutAt}`,
        kind: 'cut',
        of: `cut-${lineId}-${cutAt}`,
        partOf: null,
        label: `cut ${names.get(lineId) ?? ''}`,
        poolId: null,
        start: cutAt,
        end: cutAt,
        worksUntil: cutAt,
        isEnough: true,
        loads: [],
        hosts: null,
        batch: null,
        moves: 'schedule',
        fixed: '',
        place: null,
      };
      const after = following.flatMap(({ poolId, windows, doneIn }, place) => {
        const pool = pools.get(poolId);
        const batch = schedule.rollouts[place]?.batch ?? 1;
        return windows.map(({ span, worksUntil }): Planned => ({
          ...link,
          id: `after-${lineId}-${cutAt}-${place}-${span.start}`,
          kind: 'after a cut',
          of: `after-${lineId}-${cutAt}-${place}`,
          partOf: `after-${lineId}-${cutAt}`,
          label: pool?.name ?? '',
          poolId,
          start: span.start,
          end: span.end,
          worksUntil,
          isEnough: doneIn !== undefined,
          loads: [...(pool?.loadsOf(batch) ?? [])],
          hosts: pool?.hosts ?? null,
          batch,
          moves: 'schedule',
          fixed: '',
          place,
        }));
      });
      return [cut, ...after].filter(({ start, end }) => start <= to && end >= from);
    });
  });
}
