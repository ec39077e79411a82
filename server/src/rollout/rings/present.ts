/** Rollouts through rings as the API gives them, with what is left of them forecast. */
import type { PlannedRing } from '@vatline/contract/rings/ring';
import type { StagedRing, StagedRollout, StagedSummary } from '@vatline/contract/rings/staged';
import type { DyeName } from '@vatline/core/dye/dyes';
import type { Forecast, Percentiles } from '@vatline/core/rollout/forecast/forecast';
import { planFaults, type RolloutPlan } from '@vatline/core/rollout/forecast/plan';
import { restOfChain, type RingUnderWay } from '@vatline/core/rollout/rings/chain';
import type { Instant } from '@vatline/core/time/instant';
import { listWindows, openOrNextWindow } from '@vatline/core/time/windows';
import type { Parts } from '../../platform/parts.ts';
import { Refusal } from '../../platform/problem.ts';
import { forecastOf } from '../forecasting.ts';
import { LastKnown } from '../last-known.ts';
import type { RolloutStore } from '../store.ts';
import { chainRing, type PlannedPart, type RingPlanner } from './planner.ts';
import type { RingNow, StagedNow, StagedStore } from './staged-store.ts';
import type { StagedRow } from './tables.ts';

const RUNS = 200;
const LISTED = 60;
/** Enough for a month of weekly windows, and for three weeks of nights. */
export const WINDOWS_SHOWN = 21;

/** What is forecast of the rings that are left, by number. */
type Rest = ReadonlyMap<number, Forecast['rings'][number]>;

export interface RingAhead {
  readonly id: string;
  readonly stagedId: string;
  readonly title: string;
  readonly pool: string;
  readonly poolId: string;
  readonly lineId: string | null;
  readonly batch: number;
  readonly version: { readonly dye: DyeName; readonly number: number } | null;
  readonly start: Instant;
  readonly end: Instant;
  /** The end of the window in which it begins. */
  readonly windowEnd: Instant;
}

export class StagedPresenter {
  private readonly expected: LastKnown<readonly [number, Forecast['rings'][number]][]>;

  constructor(
    private readonly parts: Parts,
    private readonly planner: RingPlanner,
    private readonly store: StagedStore,
    private readonly rollouts: RolloutStore,
  ) {
    this.expected = new LastKnown(
      (id) => parts.journal.tell(`staged:${id}`),
      (error) => parts.log.warn({ err: error as Error }, 'forecast of the rest of the rings failed'),
    );
  }

  /** Newest first, in a fixed number of questions. */
  async list(): Promise<StagedSummary[]> {
    const rows = await this.store.newest(LISTED);
    const counts = await this.parts.db
      .selectFrom('ring')
      .select(({ fn, eb }) => [
        'staged_id as id',
        fn.countAll<number>().as('rings'),
        fn.sum<number>(eb.case().when('state', '!=', 'waiting').then(1).else(0).end()).as('begun'),
      ])
      .where(
        'staged_id',
        'in',
        rows.map((row) => row.id),
      )
      .groupBy('staged_id')
      .execute();
    const images = await this.imagesOf(rows);
    return rows.map((row) => {
      const { rings = 0, begun = 0 } = counts.find(({ id }) => id === row.id) ?? {};
      return { ...headOf(row), image: images.get(row.image_version_id ?? '') ?? null, rings, begun };
    });
  }

  /** Rings that have not begun, with the window in which each does, as promised or as soon as it may. */
  async ahead(): Promise<RingAhead[]> {
    const now = this.parts.estate.clock.now();
    const rows = await this.parts.db
      .selectFrom('ring')
      .innerJoin('staged_rollout as staged', 'staged.id', 'ring.staged_id')
      .innerJoin('pool', 'pool.id', 'ring.pool_id')
      .leftJoin('image_version', 'image_version.id', 'staged.image_version_id')
      .select([
        'ring.id',
        'staged.id as stagedId',
        'staged.title',
        'pool.name as pool',
        'ring.pool_id as poolId',
      ])
      .select(['dye', 'image_version.number as versionNumber', 'image_version.line_id as lineId'])
      .select(['plan_id', 'not_before_ms', 'promised_opens_ms', 'promised_p50_ms'])
      .where('ring.state', '=', 'waiting')
      .where('staged.ended_ms', 'is', null)
      .execute();
    const plans = await this.planner.plans.some(rows.map((row) => row.plan_id));
    const ahead = rows.map(async ({ plan_id, not_before_ms, promised_opens_ms, promised_p50_ms, ...row }) => {
      const plan = plans.get(plan_id);
      if (!plan) return [];
      const rule = await this.planner.plans.windowRule(plan, not_before_ms);
      const opens = Math.max(now, promised_opens_ms ?? not_before_ms);
      const window = openOrNextWindow(rule, not_before_ms, opens);
      if (!window.ok || !window.value) return [];
      const start = Math.max(opens, window.value.start);
      const windowEnd = window.value.end;
      // Of several nights the first.
      const isFirst = promised_p50_ms !== null && promised_p50_ms > start;
      const end = isFirst ? Math.min(promised_p50_ms, windowEnd) : windowEnd;
      const { id, stagedId, title, pool, poolId, lineId, dye, versionNumber: number } = row;
      const version = dye === null || number === null ? null : { dye, number };
      return [
        { id, stagedId, title, pool, poolId, lineId, version, batch: plan.batch, start, end, windowEnd },
      ];
    });
    return (await Promise.all(ahead)).flat();
  }

  async get(id: string): Promise<StagedRollout> {
    const staged = await this.store.now(await this.store.staged(id));
    const { row, rings } = staged;
    const waiting = await this.waitingParts(staged);
    const rest = await this.restOf(staged, waiting);
    const presented = await Promise.all(
      rings.map((ring) => this.ring(row, ring, waiting.get(ring.row.number), rest)),
    );
    const last = Math.max(...rest.keys());
    const sum = (of: (ring: StagedRing) => number) => presented.reduce((total, ring) => total + of(ring), 0);
    return {
      ...headOf(row),
      order: row.order_id === null ? null : { id: row.order_id, revision: row.order_revision ?? 0 },
      image: (await this.imagesOf([row])).get(row.image_version_id ?? '') ?? null,
      packages: await this.packageNames(staged.contents.packageVersionIds),
      by: row.by_role,
      promisedAt: row.promised_ms,
      expectedAt: rounded(rest.get(last)?.finish.p90 ?? null),
      hosts: sum((ring) => ring.hosts),
      done: sum((ring) => ring.done),
      rings: presented,
    };
  }

  private async ring(
    staged: StagedRow,
    now: RingNow,
    waiting: PlannedPart | undefined,
    rest: Rest,
  ): Promise<StagedRing> {
    const { row, planned, rollout, counts, verdict, decisions, health } = now;
    const pool = await this.planner.plans.pools.pool(row.pool_id);
    const expected = rest.get(row.number);
    return {
      number: row.number,
      pool: pool.name,
      planned,
      state: row.state,
      note: row.note,
      rolloutId: rollout?.id ?? null,
      rolloutState: rollout?.state ?? null,
      isPaused: now.standing.isPaused,
      hosts: waiting ? waiting.planned.hosts.length : counts.hosts,
      done: counts.done,
      failed: counts.failed,
      setAside: counts.setAside,
      beganAt: row.began_ms,
      workedFrom: await this.workedFrom(row.rollout_id),
      windows: await this.windowsOf(planned, staged.not_before_ms),
      endedAt: rollout?.ended_ms ?? (row.state === 'done' ? row.began_ms : null),
      promised: {
        opens: row.promised_opens_ms,
        finish: { p10: row.promised_p10_ms, p50: row.promised_p50_ms, p90: row.promised_p90_ms },
      },
      expected: expected ? { opens: inWhole(expected.opens), finish: inWhole(expected.finish) } : null,
      gate: {
        does: verdict.do,
        for: verdict.do === 'wait' ? verdict.for : null,
        why: verdict.why,
        until: verdict.do === 'wait' ? verdict.until : null,
        decisions: decisions.map(({ what, by_role, at_ms, why }) => ({ what, by: by_role, at: at_ms, why })),
        health,
      },
    };
  }

  private async workedFrom(rolloutId: string | null): Promise<Instant | null> {
    const { db } = this.parts;
    const first = await db
      .selectFrom('rollout_host')
      .select(({ fn }) => fn.min('started_ms').as('at'))
      .where('rollout_id', '=', rolloutId ?? '')
      .executeTakeFirst();
    return first?.at ?? null;
  }

  private async windowsOf({ plan }: PlannedRing, from: Instant): Promise<StagedRing['windows']> {
    const windows = listWindows(await this.planner.plans.windowRule(plan, from), from, WINDOWS_SHOWN);
    return windows.ok ? windows.value.map(({ start, end }) => ({ start, end })) : [];
  }

  /** The rings that have not begun, as they would begin now; those that could not are left out. */
  private async waitingParts({ row, contents, rings }: StagedNow): Promise<Map<number, PlannedPart>> {
    const planned = rings.map((ring) => ring.planned);
    const numbers = rings.flatMap(({ row: ring }) => (ring.state === 'waiting' ? [ring.number] : []));
    if (numbers.length === 0) return new Map();
    const options = { seed: row.seed, from: row.not_before_ms };
    try {
      return await this.planner.begin(planned, numbers, contents, options);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      return new Map();
    }
  }

  /** What is left, as it looks now; nothing while it waits for somebody, or has ended. */
  private async restOf(staged: StagedNow, waiting: ReadonlyMap<number, PlannedPart>): Promise<Rest> {
    const { row, rings } = staged;
    const isHeld = row.state !== 'under way' || rings.some((ring) => ring.standing.isPaused);
    if (row.ended_ms !== null || isHeld) return new Map();
    const now = this.parts.estate.clock.now();
    const standing = rings.map(({ counts, verdict }) => [counts, verdict.do === 'wait' && verdict.for]);
    const left = [...waiting.values()].map((part) => part.planned.hosts.length);
    const key = JSON.stringify([standing, left, Math.floor(now / 300_000)]);
    const list = await this.expected.get(row.id, key, async () => [
      ...(await this.forecastRest(staged, waiting)),
    ]);
    return new Map(list);
  }

  private async forecastRest(staged: StagedNow, waiting: ReadonlyMap<number, PlannedPart>): Promise<Rest> {
    const { row, rings } = staged;
    const now = this.parts.estate.clock.now();
    const underWay = await Promise.all(
      rings.map((ring) => this.underWay(ring, waiting.get(ring.row.number))),
    );
    const rest = restOfChain(underWay, now, row.not_before_ms);
    const numbers = rest.flatMap((plan, number) => (plan ? [number] : []));
    const plan: RolloutPlan = {
      from: row.not_before_ms,
      resumeAt: Math.max(now, row.not_before_ms),
      rings: rest.flatMap((one) => one ?? []),
      runs: RUNS,
      seed: row.seed,
    };
    if (planFaults(plan).length > 0) return new Map();
    const { rings: answers } = await forecastOf(this.parts, plan);
    return new Map(numbers.flatMap((number, i) => (answers[i] ? [[number, answers[i]] as const] : [])));
  }

  private async underWay(ring: RingNow, waiting: PlannedPart | undefined): Promise<RingUnderWay> {
    const { standing, planned, counts } = ring;
    const part = waiting ?? (await this.started(ring));
    const left = waiting ? waiting.planned.hosts.length : counts.waiting + counts.atWork;
    return { plan: part && chainRing(part).plan, rules: planned.gate, standing, left };
  }

  /** The rollout of a ring that is under way. */
  private async started({ planned: ring, rollout }: RingNow): Promise<PlannedPart | undefined> {
    if (!rollout || rollout.ended_ms !== null) return undefined;
    const { plans } = this.planner;
    const request = await this.rollouts.requestOf(rollout, await plans.get(rollout.plan_id));
    const options = { seed: rollout.seed, from: rollout.windows_from_ms, runs: 1 };
    return { ring, request, planned: await plans.forecastable(request, options) };
  }

  private async imagesOf(
    rows: readonly StagedRow[],
  ): Promise<Map<string, NonNullable<StagedRollout['image']>>> {
    const found = await this.parts.db
      .selectFrom('image_version')
      .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
      .select(['image_version.id', 'line_id as lineId', 'image_line.name as line', 'number', 'dye'])
      .where(
        'image_version.id',
        'in',
        rows.flatMap((row) => row.image_version_id ?? []),
      )
      .execute();
    return new Map(found.map((image) => [image.id, image]));
  }

  private async packageNames(ids: readonly string[]): Promise<string[]> {
    const rows = await this.parts.db
      .selectFrom('package_version')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .select(['package.name', 'version'])
      .where('package_version.id', 'in', ids)
      .orderBy('package.name')
      .execute();
    return rows.map(({ name, version }) => `${name} ${version}`);
  }
}

function headOf({ id, title, state, held_why, asks_ms, started_ms, ended_ms }: StagedRow) {
  return {
    id,
    title,
    state,
    heldWhy: held_why,
    asksSince: asks_ms,
    startedAt: started_ms,
    endedAt: ended_ms,
  };
}

function rounded(at: Instant | null): Instant | null {
  return at === null ? null : Math.round(at);
}

function inWhole({ p10, p50, p90 }: Percentiles<Instant | null>): Percentiles<Instant | null> {
  return { p10: rounded(p10), p50: rounded(p50), p90: rounded(p90) };
}
