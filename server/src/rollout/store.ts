/** Rollouts in the database. */
import { sql } from 'kysely';
import type { Blend } from '@vatline/contract/pool/blend';
import type { Plan, Rollout, RolloutRequest } from '@vatline/contract/rollout';
import type { Forecast } from '@vatline/core/rollout/forecast/forecast';
import { takesSessions } from '@vatline/core/pool/service-state';
import { planFaults, restOfRing } from '@vatline/core/rollout/forecast/plan';
import { atWork, type HostStage } from '@vatline/core/rollout/host-state';
import { wholeInstant, wholeMarks, type Marks } from '@vatline/core/rollout/progress';
import { MINUTE, type Instant } from '@vatline/core/time/instant';
import { openOrNextWindow, type WindowRule, type WindowSpan } from '@vatline/core/time/windows';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import type { BlendRow, HostRow, PoolRow } from '../pool/tables.ts';
import type { PoolStore } from '../pool/pools.ts';
import { forecastOf } from './forecasting.ts';
import { LastKnown } from './last-known.ts';
import type { Plans } from './plans.ts';
import { lastRevisions } from './revisions.ts';
import type { RolloutHostRow, RolloutRow } from './tables.ts';

/** A rollout with what it is about. */
export interface RolloutContext {
  readonly rollout: RolloutRow;
  readonly request: RolloutRequest;
  readonly pool: PoolRow;
  readonly to: BlendRow;
}

export interface StageCounts {
  readonly hosts: number;
  readonly waiting: number;
  readonly atWork: number;
  readonly done: number;
  readonly failed: number;
  readonly setAside: number;
  /** Failed, or set aside after an attempt: what a failure rule counts. One that was left out before its turn has failed nothing. */
  readonly lost: number;
}

/** What is known of a rollout besides its row. */
interface Around {
  readonly pool: string;
  readonly blends: ReadonlyMap<string, Blend>;
  readonly counts: StageCounts;
  readonly plan: Plan;
  readonly revision: number;
  /** Names of the calendars that it keeps to. */
  readonly calendars: readonly string[];
  readonly partOf: Rollout['partOf'];
}

/** What is left, as forecast now: when it is done, 9 in 10, and on the way there. */
interface Rest {
  readonly end: number | null;
  readonly hosts: number;
  readonly marks: Marks;
}

const nothingLeft: Rest = { end: null, hosts: 0, marks: [] };

export class RolloutStore {
  /** Forecasts of the rest. */
  private readonly expected: LastKnown<Rest>;

  constructor(
    private readonly parts: Parts,
    private readonly plans: Plans,
  ) {
    this.expected = new LastKnown(
      (id) => parts.journal.tell(`rollout:${id}`),
      (error) => parts.log.warn({ err: error as Error }, 'forecast of the rest failed'),
    );
  }

  private get pools(): PoolStore {
    return this.plans.pools;
  }

  async rollout(id: string): Promise<RolloutRow> {
    const row = await this.parts.db.selectFrom('rollout').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such rollout');
    return row;
  }

  async context(id: string): Promise<RolloutContext> {
    const rollout = await this.rollout(id);
    return {
      rollout,
      request: await this.requestOf(rollout, await this.plans.get(rollout.plan_id)),
      pool: await this.pools.pool(rollout.pool_id),
      to: await this.pools.blends.get(rollout.to_blend_id),
    };
  }

  /** What a person decided, put together again from its plan and the blend that it leads to. */
  async requestOf(row: RolloutRow, plan: Plan): Promise<RolloutRequest> {
    const { pool_id, to_blend_id, is_remake } = row;
    const { image_version_id } = await this.pools.blends.get(to_blend_id);
    const packageVersionIds = await this.pools.blends.packageIdsOf(to_blend_id);
    return {
      ...plan,
      poolId: pool_id,
      imageVersionId: image_version_id,
      packageVersionIds,
      isRemake: is_remake === 1,
      // Its own hosts stand in its list.
      onlyHosts: [],
    };
  }

  async set(
    id: string,
    change: Partial<Pick<RolloutRow, 'state' | 'paused_ms' | 'failures_seen' | 'plan_id' | 'told_window_ms'>>,
  ): Promise<void> {
    await this.parts.db.updateTable('rollout').set(change).where('id', '=', id).execute();
  }

  open(): Promise<RolloutRow[]> {
    return this.parts.db
      .selectFrom('rollout')
      .selectAll()
      .where('ended_ms', 'is', null)
      .orderBy('started_ms')
      .execute();
  }

  hosts(id: string): Promise<RolloutHostRow[]> {
    return this.parts.db
      .selectFrom('rollout_host')
      .selectAll()
      .where('rollout_id', '=', id)
      .orderBy('number')
      .execute();
  }

  async entry(rolloutId: string, hostId: string): Promise<RolloutHostRow> {
    const row = await this.parts.db
      .selectFrom('rollout_host')
      .selectAll()
      .where('rollout_id', '=', rolloutId)
      .where('host_id', '=', hostId)
      .executeTakeFirst();
    if (!row) throw notFound('such host in this rollout');
    return row;
  }

  async setEntry(entry: RolloutHostRow, change: Partial<RolloutHostRow>): Promise<void> {
    await this.parts.db
      .updateTable('rollout_host')
      .set(change)
      .where('rollout_id', '=', entry.rollout_id)
      .where('host_id', '=', entry.host_id)
      .execute();
  }

  /** Keeps how long the work on a host took, for the forecasts to come. */
  async learn(poolId: string, begun: Instant, finished: Instant): Promise<void> {
    await this.parts.db
      .insertInto('pool_pace')
      .values({ pool_id: poolId, finished_ms: finished, minutes: (finished - begun) / MINUTE })
      .execute();
  }

  /**
   * The hosts whose turn is next: those that failed before all others, since they are out of service
   * until then and take the place of others. The forecast does the same.
   */
  async nextWaiting(id: string, limit: number): Promise<{ entry: RolloutHostRow; host: HostRow }[]> {
    const entries = await this.parts.db
      .selectFrom('rollout_host')
      .selectAll()
      .where('rollout_id', '=', id)
      .where('stage', '=', 'waiting')
      .orderBy('attempts', 'desc')
      .orderBy('number')
      .limit(limit)
      .execute();
    const hosts = await this.pools.hosts.byId(entries.map((entry) => entry.host_id));
    return entries.flatMap((entry) => {
      const host = hosts.get(entry.host_id);
      return host ? [{ entry, host }] : [];
    });
  }

  /** All that wait and take people meanwhile, by name. */
  async waitingWithPeople(id: string): Promise<string[]> {
    const rows = await this.parts.db
      .selectFrom('rollout_host')
      .innerJoin('host', 'host.id', 'host_id')
      .select(['name', 'service'])
      .where('rollout_id', '=', id)
      .where('stage', '=', 'waiting')
      .orderBy('number')
      .execute();
    return rows.flatMap((row) => (takesSessions(row) ? [row.name] : []));
  }

  /** The numbers by which those that wait go, the first and the last of them. */
  async turns(id: string): Promise<number[]> {
    const { first, last } = await this.parts.db
      .selectFrom('rollout_host')
      .select(({ fn }) => [
        fn.min<number | null>('number').as('first'),
        fn.max<number | null>('number').as('last'),
      ])
      .where('rollout_id', '=', id)
      .where('stage', '=', 'waiting')
      .executeTakeFirstOrThrow();
    return [first, last].flatMap((number) => number ?? []);
  }

  /** Hosts at work that stay in service meanwhile. */
  async servingAtWork(id: string): Promise<number> {
    const { n } = await this.parts.db
      .selectFrom('rollout_host')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('rollout_id', '=', id)
      .where('stage', 'in', ['attaching', 'verifying'])
      .where('way', '=', 'attach in service')
      .executeTakeFirstOrThrow();
    return n;
  }

  async counts(id: string): Promise<StageCounts> {
    return (await this.countsOf([id])).get(id) ?? countStages([]);
  }

  /** How the hosts of some rollouts stand, by rollout. */
  private async countsOf(ids: readonly string[]): Promise<Map<string, StageCounts>> {
    const rows = await this.parts.db
      .selectFrom('rollout_host')
      .select(({ fn }) => [
        'rollout_id',
        'stage',
        sql<number>`attempts > 0`.as('tried'),
        fn.countAll<number>().as('n'),
      ])
      .where('rollout_id', 'in', ids)
      .groupBy(['rollout_id', 'stage', 'tried'])
      .execute();
    return new Map(ids.map((id) => [id, countStages(rows.filter((row) => row.rollout_id === id))]));
  }

  /** Those under way at some time of a stretch, the newest first. */
  async between(from: Instant, to: Instant, limit: number): Promise<Rollout[]> {
    const rows = await this.parts.db
      .selectFrom('rollout')
      .selectAll()
      .where('started_ms', '<=', to)
      .where(({ eb, or }) => or([eb('ended_ms', 'is', null), eb('ended_ms', '>=', from)]))
      .orderBy('started_ms', 'desc')
      .orderBy('id')
      .limit(limit)
      .execute();
    return this.present(rows);
  }

  async list(limit = 60): Promise<Rollout[]> {
    const rows = await this.parts.db
      .selectFrom('rollout')
      .selectAll()
      .orderBy('started_ms', 'desc')
      .orderBy('id')
      .limit(limit)
      .execute();
    return this.present(rows);
  }

  /** One as the API gives it. */
  async presented(id: string): Promise<Rollout> {
    const [rollout] = await this.present([await this.rollout(id)]);
    if (!rollout) throw notFound('such rollout');
    return rollout;
  }

  /** A fixed number of questions, however many there are. */
  private async present(rows: readonly RolloutRow[]): Promise<Rollout[]> {
    const blends = await this.pools.blends.some(rows.flatMap((row) => [row.from_blend_id, row.to_blend_id]));
    const pools = new Map((await this.pools.all()).map((pool) => [pool.id, pool.name]));
    const counts = await this.countsOf(rows.map((row) => row.id));
    const plans = await this.plans.some(rows.map((row) => row.plan_id));
    const revisions = await lastRevisions(
      this.parts,
      rows.map((row) => row.id),
    );
    const calendars = new Map((await this.plans.calendars.all()).map(({ id, name }) => [id, name]));
    const wholes = await this.wholesOf(rows.map((row) => row.id));
    return Promise.all(
      rows.map((row) => {
        const plan = plans.get(row.plan_id);
        if (!plan) throw notFound('such plan');
        return this.presentOne(row, {
          pool: pools.get(row.pool_id) ?? '',
          blends,
          counts: counts.get(row.id) ?? countStages([]),
          plan,
          revision: revisions.get(row.id) ?? 1,
          calendars: plan.calendarIds.flatMap((id) => calendars.get(id) ?? []),
          partOf: wholes.get(row.id) ?? null,
        });
      }),
    );
  }

  /** The rollouts through rings that some rollouts are parts of. */
  private async wholesOf(ids: readonly string[]): Promise<Map<string, NonNullable<Rollout['partOf']>>> {
    const rows = await this.parts.db
      .selectFrom('ring')
      .innerJoin('staged_rollout', 'staged_rollout.id', 'ring.staged_id')
      .select(['rollout_id', 'staged_rollout.id', 'staged_rollout.title', 'ring.name as ring'])
      .where('rollout_id', 'in', ids)
      .execute();
    return new Map(rows.map(({ rollout_id, ...whole }) => [rollout_id ?? '', whole]));
  }

  private async presentOne(row: RolloutRow, around: Around): Promise<Rollout> {
    const { pool, blends, counts, plan } = around;
    const [from, to] = [blends.get(row.from_blend_id), blends.get(row.to_blend_id)];
    if (!from || !to) throw notFound('such blend');
    // A paused one waits for somebody, not for a window.
    const goesOn = row.ended_ms === null && row.paused_ms === null;
    const nextWindow = goesOn ? await this.nextWindow(row, plan) : null;
    return {
      id: row.id,
      poolId: row.pool_id,
      pool,
      from,
      to,
      state: row.state,
      isReturn: row.is_return === 1,
      calendars: [...around.calendars],
      hosts: counts.hosts,
      done: counts.done,
      atWork: counts.atWork,
      failed: counts.failed,
      setAside: counts.setAside,
      startedAt: row.started_ms,
      windowsFrom: row.windows_from_ms,
      endedAt: row.ended_ms,
      nextWindow,
      promisedAt: row.promised_ms,
      pausedAt: row.ended_ms === null ? row.paused_ms : null,
      partOf: around.partOf,
      revision: around.revision,
      plan,
      expectedAt:
        goesOn && row.state !== 'stopped'
          ? (await this.expectedRest(row, plan, counts, nextWindow)).end
          : null,
    };
  }

  /** The windows of a rollout, without those on closed days. */
  windowRule({ plan, windowsFrom }: Rollout): Promise<WindowRule> {
    return this.plans.windowRule(plan, windowsFrom);
  }

  /** The window it is at work in, or goes on in: one that is open but too short for any host is over. */
  private async nextWindow(row: RolloutRow, plan: Plan): Promise<WindowSpan | null> {
    const rule = await this.plans.windowRule(plan, row.windows_from_ms);
    const now = this.parts.estate.clock.now();
    const window = openOrNextWindow(rule, row.windows_from_ms, now);
    if (!window.ok || !window.value) return null;
    const isOver = row.state === 'asleep' && window.value.start < now;
    if (!isOver) return window.value;
    const following = openOrNextWindow(rule, row.windows_from_ms, window.value.end + 1);
    return following.ok ? (following.value ?? null) : null;
  }

  /**
   * When the rest will be done. Hosts at work are counted as if they began now. Asked for
   * again and again while hosts finish, so what was last known is given at once, and listeners are
   * told when a newer answer is there.
   */
  private async expectedRest(
    row: RolloutRow,
    plan: Plan,
    counts: StageCounts,
    next: WindowSpan | null,
  ): Promise<Rest> {
    const left = counts.waiting + counts.atWork;
    if (left === 0) return nothingLeft;
    const now = this.parts.estate.clock.now();
    const key = `${row.plan_id} ${left} ${counts.failed} ${Math.floor(now / 300_000)} ${next?.start ?? 'none'}`;
    return this.expected.get(row.id, key, () => this.restOf(row, plan, left));
  }

  private async restOf(row: RolloutRow, kept: Plan, left: number): Promise<Rest> {
    const answer = await this.forecastRest(row, kept, left);
    const marks = wholeMarks(answer?.progress ?? []);
    return { end: wholeInstant(answer?.finish.p90 ?? null), hosts: left, marks };
  }

  /** What is left of a rollout as it looks now; null where it does not go on. */
  async rest(row: RolloutRow): Promise<{ hosts: number; marks: Marks[number][] } | null> {
    if (row.ended_ms !== null || row.paused_ms !== null || row.state === 'stopped') return null;
    const plan = await this.plans.get(row.plan_id);
    const next = await this.nextWindow(row, plan);
    const { hosts, marks } = await this.expectedRest(row, plan, await this.counts(row.id), next);
    return hosts === 0 ? null : { hosts, marks: [...marks] };
  }

  /** What is left, by a plan; nothing where it cannot be forecast. Hosts at work are counted as if they began now. */
  async forecastRest(row: RolloutRow, kept: Plan, left: number): Promise<Forecast | undefined> {
    const options = { seed: row.seed, from: row.windows_from_ms, runs: 200 };
    const { plan, ring } = await this.plans.forecastable(await this.requestOf(row, kept), options);
    const resumeAt = this.parts.estate.clock.now();
    const rest = { ...plan, resumeAt, rings: [restOfRing(ring, left)] };
    return planFaults(rest).length > 0 ? undefined : forecastOf(this.parts, rest);
  }
}

interface StageRow {
  readonly stage: HostStage;
  readonly tried: number;
  readonly n: number;
}

function countStages(rows: readonly StageRow[]): StageCounts {
  const sum = (test: (stage: HostStage, tried: number) => boolean) =>
    rows.filter(({ stage, tried }) => test(stage, tried)).reduce((total, { n }) => total + n, 0);
  return {
    hosts: sum(() => true),
    waiting: sum((stage) => stage === 'waiting'),
    atWork: sum(atWork),
    done: sum((stage) => stage === 'done'),
    failed: sum((stage) => stage === 'failed'),
    setAside: sum((stage) => stage === 'set aside'),
    lost: sum((stage, tried) => stage === 'failed' || (stage === 'set aside' && tried === 1)),
  };
}
