/** Plans: as they are kept, and from what a person decided and the estate knows to one that can be forecast. */
import type { Plan, RolloutRequest } from '@vatline/contract/rollout';
import type { FailureRule } from '@vatline/core/rollout/failure-rule';
import { openGate, type RingPlan, type RolloutPlan } from '@vatline/core/rollout/forecast/plan';
import { hostsTaken } from '@vatline/core/rollout/hosts-taken';
import { workByChecks, type AgentChecks } from '@vatline/core/rollout/agent-checks';
import { needOf, type BlendContents, type HostNeed, type Mending } from '@vatline/core/rollout/blends/need';
import { wayOf, type HostWay } from '@vatline/core/rollout/blends/way';
import { usualFailures } from '@vatline/core/rollout/usual-failures';
import { workTime, type WorkTime } from '@vatline/core/rollout/usual-work';
import { MINUTE, type Instant } from '@vatline/core/time/instant';
import type { WindowRule } from '@vatline/core/time/windows';
import type { CalendarStore } from '../calendar/store.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { HostRow, PoolRow } from '../pool/tables.ts';
import { mendings } from './drift/mending.ts';
import { SharedLimits } from './shared-limits.ts';
import type { PlanRow } from './tables.ts';

export interface PlannedRollout {
  readonly plan: RolloutPlan;
  /** The only ring of the plan. */
  readonly ring: RingPlan;
  readonly pool: PoolRow;
  /** The hosts that do not run the wanted blend. */
  readonly hosts: readonly HostRow[];
  readonly work: WorkTime;
  readonly expected: readonly number[];
  /** How many hosts go which way. */
  readonly ways: Readonly<Record<HostWay, number>>;
  readonly checks: AgentChecks;
}

/** A host with what it needs, and how it gets there. */
export interface PlannedHost {
  readonly row: HostRow;
  readonly need: HostNeed;
  readonly way: HostWay;
}

export class Plans {
  readonly sharedLimits: SharedLimits;

  constructor(
    private readonly parts: Parts,
    readonly pools: PoolStore,
    readonly calendars: CalendarStore,
  ) {
    this.sharedLimits = new SharedLimits(parts, pools);
  }

  /** Writes a plan down, in a transaction of the caller's. */
  async add({ window, zone, calendarIds, batch, maxUnavailable, ...plan }: Plan): Promise<string> {
    const { db } = this.parts;
    const id = newId('plan');
    await db
      .insertInto('plan')
      .values({
        id,
        window_rule: window.rule,
        window_start: window.start,
        window_end: window.end,
        zone,
        batch,
        max_unavailable: maxUnavailable,
        drain_limit_minutes: plan.drainLimitMinutes,
        reserve: plan.reserve,
        stop_failures: plan.stop?.failures ?? null,
        stop_share: plan.stop?.share ?? null,
        stop_after: plan.stop?.after ?? 0,
        notice_text: plan.notice?.text ?? null,
        notice_minutes: plan.notice?.minutesBefore ?? 0,
      })
      .execute();
    const rows = [...new Set(calendarIds)].map((calendar_id) => ({ plan_id: id, calendar_id }));
    if (rows.length > 0) await db.insertInto('plan_calendar').values(rows).execute();
    return id;
  }

  async get(id: string): Promise<Plan> {
    const plan = (await this.some([id])).get(id);
    if (!plan) throw new Error(`there is no plan ${id}`);
    return plan;
  }

  /** Some plans, by id, in two questions. */
  async some(ids: readonly string[]): Promise<Map<string, Plan>> {
    const { db } = this.parts;
    const rows = await db.selectFrom('plan').selectAll().where('id', 'in', ids).execute();
    const calendars = await db.selectFrom('plan_calendar').selectAll().where('plan_id', 'in', ids).execute();
    return new Map(
      rows.map((row) => [
        row.id,
        planOf(
          row,
          calendars.filter(({ plan_id }) => plan_id === row.id).map(({ calendar_id }) => calendar_id),
        ),
      ]),
    );
  }

  /** The windows of a plan from an instant on, without those on closed days. */
  async windowRule(
    { window, zone, calendarIds }: Pick<Plan, 'window' | 'zone' | 'calendarIds'>,
    from: Instant,
  ): Promise<WindowRule> {
    const closed = await this.calendars.closed(calendarIds, zone, from);
    return { ...window, zone, ...(closed ? { closed } : {}) };
  }

  async forecastable(
    request: RolloutRequest,
    options: { readonly seed: number; readonly from: Instant; readonly runs: number },
  ): Promise<PlannedRollout> {
    const { parts, pools } = this;
    const pool = await pools.pool(request.poolId);
    const all = await pools.hosts.of(pool.id);
    const taken = await this.hostsToChange(request, all);
    const hosts = taken.map(({ row }) => row);
    const ways = countWays(taken);
    const checks = this.checks(request.packageVersionIds.length);
    const work =
      ways.rebuild > 0
        ? await this.rebuildTime(pool, request.packageVersionIds.length)
        : workByChecks(checks);
    const serving = taken.filter(({ way }) => way === 'attach in service').map(({ row }) => row.name);
    const expected = await parts.estate.activity.expected(pool.name, all.length, pool.session_limit);
    const ring: RingPlan = {
      name: pool.name,
      window: await this.windowRule(request, options.from),
      hosts: hosts.map(({ name }) => name),
      batch: request.batch,
      maxUnavailable: request.maxUnavailable,
      work: { medianMinutes: work.medianMinutes, p90Minutes: work.p90Minutes },
      drain: {
        limitMinutes: request.drainLimitMinutes,
        session: await parts.estate.activity.sessionLength(pool.name),
      },
      inService: { checks, ...(serving.length < taken.length && { hosts: serving }) },
      failure: usualFailures,
      ...(request.stop && { gate: { ...openGate, stop: request.stop } }),
      // Without a reserve seats are counted but hold nothing back: a reserve of -1 keeps none.
      seats: {
        hosts: all.length,
        perHost: pool.session_limit,
        expected,
        reserve: request.reserve ?? -1,
        zone: request.zone,
      },
    };
    const limits = await this.sharedLimits.ofPool(pool.id);
    const plan = { ...options, rings: [ring], limits };
    return { plan, ring, pool, hosts, work, expected, ways, checks };
  }

  /** Minutes of work on a host of a pool that needs something. */
  workTime(pool: PoolRow, need: HostNeed, packages: number): Promise<WorkTime> {
    if (need === 'rebuild') return this.rebuildTime(pool, packages);
    return Promise.resolve(workByChecks(this.checks(packages)));
  }

  /** How agents attach so many containers. */
  checks(packages: number): AgentChecks {
    const { checkMs, mountMs } = this.parts.estate.agents.pace;
    return { everyMinutes: checkMs / MINUTE, attachMinutes: (packages * mountMs) / MINUTE };
  }

  /** What hosts need to hold what is wanted, and how they get there. */
  async planned(
    { imageVersionId, packageVersionIds, isRemake }: Wanted,
    hosts: readonly HostRow[],
  ): Promise<PlannedHost[]> {
    const to = { imageVersionId, packageVersionIds, baselineRevisionId: null };
    const held = await this.pools.blends.contents([...new Set(hosts.map((row) => row.blend_id))]);
    const mending = await mendings(
      this.parts,
      hosts.map((row) => row.id),
    );
    return hosts.map((row) => {
      const need = needOfRow(row, held.get(row.blend_id), mending.get(row.id), to);
      return { row, need, way: wayOf(need, row, isRemake) };
    });
  }

  /** The hosts that it takes. */
  private async hostsToChange(request: RolloutRequest, all: readonly HostRow[]): Promise<PlannedHost[]> {
    const planned = await this.planned(request, all);
    const judged = planned.map((host) => ({
      ...host,
      name: host.row.name,
      isAsWanted: host.need === 'nothing',
    }));
    return hostsTaken(judged, request);
  }

  private async rebuildTime({ id, clone }: PoolRow, packages: number): Promise<WorkTime> {
    const attaching = packages === 0 ? this.checks(0).everyMinutes : 0;
    return workTime(clone, await this.pastWork(id), attaching);
  }

  /** Minutes of work on hosts of this pool that were rebuilt, newest first. */
  private async pastWork(poolId: string): Promise<number[]> {
    const rows = await this.parts.db
      .selectFrom('pool_pace')
      .select('minutes')
      .where('pool_id', '=', poolId)
      .orderBy('finished_ms', 'desc')
      .limit(500)
      .execute();
    return rows.map((row) => row.minutes);
  }
}

interface Wanted {
  readonly imageVersionId: string;
  readonly packageVersionIds: readonly string[];
  readonly isRemake: boolean;
}

function needOfRow(
  row: HostRow,
  blend: BlendContents | undefined,
  mending: Mending | undefined,
  to: BlendContents,
): HostNeed {
  if (!blend) return 'rebuild';
  const host = { blend, isKnown: row.contents_known === 1, hasFailed: row.work === 'failed' };
  return needOf({ ...host, ...(mending && { mending }) }, to);
}

function countWays(hosts: readonly PlannedHost[]): Record<HostWay, number> {
  const counts: Record<HostWay, number> = { rebuild: 0, attach: 0, 'attach in service': 0 };
  for (const { way } of hosts) counts[way]++;
  return counts;
}

function stopOf({ stop_failures, stop_share, stop_after }: PlanRow): FailureRule | null {
  if (stop_failures === null && stop_share === null) return null;
  return { failures: stop_failures, share: stop_share, after: stop_after };
}

function planOf(row: PlanRow, calendarIds: readonly string[]): Plan {
  return {
    window: { rule: row.window_rule, start: row.window_start, end: row.window_end },
    zone: row.zone,
    calendarIds: [...calendarIds],
    batch: row.batch,
    maxUnavailable: row.max_unavailable,
    drainLimitMinutes: row.drain_limit_minutes,
    reserve: row.reserve,
    stop: stopOf(row),
    notice: row.notice_text === null ? null : { text: row.notice_text, minutesBefore: row.notice_minutes },
  };
}
