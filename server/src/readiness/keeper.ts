/**
 * Keeps pools ready by their rules: looks at each every minute, and starts, makes, rests and deletes
 * hosts as the core says. What is begun is in the database before it is begun outside; a look that
 * a stop cut short is simply looked again.
 */
import { sql, type RawBuilder } from 'kysely';
import { errands, isComing } from '@vatline/core/pool/errand';
import { nextKeeping, type KeepingMoves, type KeepingNow } from '@vatline/core/pool/keeping';
import { LOOK_MINUTES, type ReadinessFacts, type ReadinessRules } from '@vatline/core/pool/readiness';
import { HOUR, MINUTE } from '@vatline/core/time/instant';
import { actingAs } from '../platform/acting.ts';
import type { Parts } from '../platform/parts.ts';
import { Refusal } from '../platform/problem.ts';
import type { ActInput } from '../pool/act-job.ts';
import type { HostAdditions } from '../pool/add-hosts.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { HostRow, PoolRow } from '../pool/tables.ts';
import { Errands } from './errands.ts';
import { localNow, type ReadinessStore } from './store.ts';
import type { ErrandRow } from './tables.ts';

/** A host, with what is being done to it so that its pool stays ready. */
interface Standing {
  readonly hosts: readonly HostRow[];
  readonly errands: ReadonlyMap<string, ErrandRow>;
}

/** So long after a failure no host is made by itself. */
const AGAIN = HOUR;

export class Keeper {
  readonly errands: Errands;

  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
    private readonly store: ReadinessStore,
    private readonly additions: HostAdditions,
  ) {
    this.errands = new Errands(parts, pools, (poolId) => this.restRule(poolId));
    parts.estate.operations.onEnd(async (operation) => {
      if (this.errands.isOurs(operation)) await actingAs(undefined, () => this.errands.ended(operation));
    });
  }

  /** After a start: takes up what a stop cut short, and looks at every pool again. */
  async resume(): Promise<void> {
    const rows = await this.parts.db.selectFrom('host_errand').selectAll().execute();
    for (const row of rows) await actingAs(undefined, () => this.errands.takeUp(row));
    for (const poolId of await this.store.kept()) this.arm(poolId, 0);
  }

  /** Looks at a pool whose rules were set just now, at the next moment of the clock. */
  arm(poolId: string, minutes = LOOK_MINUTES): void {
    const { clock } = this.parts.estate;
    const at = Math.ceil(clock.now() / MINUTE) * MINUTE + minutes * MINUTE;
    const look = () => actingAs(undefined, () => this.look(poolId));
    clock.wakeAt(at, `ready ${poolId}`, look, 'routine');
  }

  private async look(poolId: string): Promise<void> {
    const pool = await this.parts.db
      .selectFrom('pool')
      .selectAll()
      .where('id', '=', poolId)
      .executeTakeFirst();
    if (!pool) return;
    const { facts } = await this.store.factsOf(pool);
    const { rules, isKept } = await this.store.rulesOf(poolId, facts.hosts);
    if (!isKept) return;
    try {
      await this.keep(pool, facts, rules);
    } finally {
      this.arm(poolId);
    }
  }

  private async keep(pool: PoolRow, facts: ReadinessFacts, rules: ReadinessRules): Promise<void> {
    const making = await this.making(pool.id);
    const now = await this.nowOf(pool, rules, making);
    const all = { ...facts, hosts: facts.hosts + making };
    let moves = nextKeeping(all, rules, now);
    if (moves.start > 0) {
      const { startsAtOnce } = await this.store.surroundingsOf(pool);
      moves = nextKeeping(all, rules, { ...now, startsAtOnce });
    }
    const short = moves.needed - now.serving - now.coming;
    if (short <= 0 && moves.start + moves.make + moves.rest + moves.remove === 0) return;
    const standing = await this.standingOf(pool.id);
    const back = await this.takeBack(pool, standing, short, moves);
    await this.start(pool, standing, Math.max(0, moves.start - back), moves);
    await this.make(pool, Math.max(0, moves.make - back), moves);
    await this.rest(pool, standing, moves);
    await this.remove(pool, standing, rules, moves);
  }

  /** Counted in the database: most looks find that nothing is to be done to any of ten thousand hosts. */
  private async nowOf(pool: PoolRow, rules: ReadinessRules, making: number): Promise<KeepingNow> {
    const { clock, activity } = this.parts.estate;
    const after = rules.deleteAfterMinutes;
    const unusedSince = after === null ? -1 : clock.now() - after * MINUTE;
    const resting = sql`errand is null and work = 'none' and power != 'on' and is_held = 0`;
    const count = (what: RawBuilder<unknown>) => sql<number>`coalesce(sum(${what}), 0)`;
    const { serving, starting, atRest, longUnused } = await this.parts.db
      .selectFrom('host')
      .leftJoin('host_errand', 'host_errand.host_id', 'host.id')
      .select([
        count(sql`service = 'in service'`).as('serving'),
        count(sql`coalesce(errand in (${sql.join(errands.filter(isComing))}), 0)`).as('starting'),
        count(resting).as('atRest'),
        count(sql`${resting} and coalesce(rests_since_ms <= ${unusedSince}, 0)`).as('longUnused'),
      ])
      .where('host.pool_id', '=', pool.id)
      .executeTakeFirstOrThrow();
    return {
      ...localNow(this.parts, clock.now()),
      sessions: await activity.present(pool.name),
      serving,
      coming: starting + making,
      starting,
      resting: atRest,
      longUnused,
      startsAtOnce: Infinity,
    };
  }

  private async standingOf(poolId: string): Promise<Standing> {
    const rows = await this.errands.of(poolId);
    return {
      hosts: await this.pools.hosts.of(poolId),
      errands: new Map(rows.map((row) => [row.host_id, row])),
    };
  }

  /** Hosts that a job makes at the moment. */
  private async making(poolId: string): Promise<number> {
    if (!(await this.parts.jobs.activeOn(`pool:${poolId}`))) return 0;
    const { n } = await this.parts.db
      .selectFrom('host_reserved')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('pool_id', '=', poolId)
      .executeTakeFirstOrThrow();
    return n;
  }

  /** Hosts that are being emptied are ready at once when they are wanted after all. Gives how many. */
  private async takeBack(
    pool: PoolRow,
    { hosts, errands }: Standing,
    wanted: number,
    moves: KeepingMoves,
  ): Promise<number> {
    const back: HostRow[] = [];
    for (const host of hosts) {
      const row = errands.get(host.id);
      if (back.length >= wanted) break;
      if (row?.errand !== 'draining' || host.service !== 'draining') continue;
      await this.errands.takeBack(host, row);
      back.push(host);
    }
    if (back.length > 0)
      await this.say(
        pool,
        `${named(back)} ${back.length === 1 ? 'takes' : 'take'} people again: ${ready(moves)}`,
      );
    return back.length;
  }

  private async start(
    pool: PoolRow,
    { hosts, errands }: Standing,
    count: number,
    moves: KeepingMoves,
  ): Promise<void> {
    if (count === 0) return;
    // A suspended one is ready sooner; of equal ones the one that rests longest, so that all are used.
    const chosen = hosts
      .filter((host) => mayStart(host) && !errands.has(host.id))
      .sort(
        (a, b) =>
          Number(b.power === 'suspended') - Number(a.power === 'suspended') ||
          (a.rests_since_ms ?? 0) - (b.rests_since_ms ?? 0),
      )
      .slice(0, count);
    for (const host of chosen)
      await this.errands.begin(pool, host, host.power === 'suspended' ? 'resuming' : 'starting');
    await this.say(pool, `${named(chosen)} started: ${ready(moves)}`);
  }

  /** Where they do not fit, that is said once, and looked at again each minute. */
  private async make(pool: PoolRow, count: number, moves: KeepingMoves): Promise<void> {
    if (count === 0 || (await this.parts.jobs.activeOn(`pool:${pool.id}`))) return;
    if (await this.failedLately(pool.id))
      return this.sayOnce(pool, `no host is made although ${ready(moves)}: the last one could not be made`);
    try {
      const more = { count, isAnyway: false, isHeld: false, slots: [] };
      await this.additions.add(pool.id, more, ', since people come');
      await this.say(pool, `${count === 1 ? 'a host is' : `${count} hosts are`} made: ${ready(moves)}`);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      const why = error.faults[0]?.message ?? error.message;
      await this.sayOnce(pool, `no host can be made although ${ready(moves)}: ${why}`);
    }
  }

  /** What could not be made a moment ago can hardly be made now, and each try leaves a ledger behind. */
  private async failedLately(poolId: string): Promise<boolean> {
    const row = await this.parts.db
      .selectFrom('job')
      .select('state')
      .where('kind', '=', 'add hosts')
      .where('subject', '=', `pool:${poolId}`)
      .where('ended_ms', '>', this.parts.estate.clock.now() - AGAIN)
      .orderBy('ended_ms', 'desc')
      .executeTakeFirst();
    return row?.state === 'failed';
  }

  private async rest(pool: PoolRow, { hosts, errands }: Standing, moves: KeepingMoves): Promise<void> {
    if (moves.rest === 0) return;
    const may = hosts.filter((host) => host.service === 'in service' && !errands.has(host.id));
    const counts = await this.pools.hosts.counts(pool.id);
    const names = may.map((host) => host.name);
    const sessions = await this.pools.hosts.sessionsOn(pool, counts, names);
    const chosen = may
      .sort((a, b) => (sessions.get(a.name) ?? 0) - (sessions.get(b.name) ?? 0))
      .slice(0, moves.rest);
    if (chosen.length === 0) return;
    for (const host of chosen) await this.errands.begin(pool, host, 'draining');
    const how = moves.restAs === 'off' ? 'switched off' : 'suspended';
    await this.say(pool, `${named(chosen)} emptied, to be ${how}: ${ready(moves)}`);
  }

  private async remove(
    pool: PoolRow,
    { hosts, errands }: Standing,
    rules: ReadinessRules,
    moves: KeepingMoves,
  ): Promise<void> {
    if (moves.remove === 0 || (await this.parts.jobs.activeOn(`pool:${pool.id}`))) return;
    const now = this.parts.estate.clock.now();
    const chosen = hosts
      .filter((host) => mayStart(host) && !errands.has(host.id) && isLongUnused(host, rules, now))
      .slice(-moves.remove);
    const input: ActInput = {
      poolId: pool.id,
      action: 'remove',
      hosts: chosen.map((host) => host.name),
      text: '',
      limitMinutes: rules.drainMinutes,
    };
    await this.parts.jobs.start({
      kind: 'act on hosts',
      title: `Remove ${named(chosen)} of ${pool.name}, not needed for ${rules.deleteAfterMinutes} minutes`,
      subject: `pool:${pool.id}`,
      input,
    });
    await this.say(pool, `${named(chosen)} deleted: not needed for ${rules.deleteAfterMinutes} minutes`);
  }

  private async restRule(poolId: string) {
    const { rules } = await this.store.rulesOf(poolId, 1);
    const { day, minute } = localNow(this.parts, this.parts.estate.clock.now());
    const mode = rules.week[day]?.[Math.floor(minute / 60)];
    return { restAs: mode === 'suspended' ? mode : ('off' as const), drainMinutes: rules.drainMinutes };
  }

  private async say(pool: PoolRow, text: string): Promise<void> {
    await this.store.note(pool.id, text);
    this.parts.journal.tell(`pool:${pool.id}`, 'pool');
  }

  private async sayOnce(pool: PoolRow, text: string): Promise<void> {
    const [last] = await this.store.notesOf(pool.id, 1);
    if (last?.text !== text) await this.say(pool, text);
  }
}

/** Whoever holds a host back wants it left alone. */
function mayStart(host: HostRow): boolean {
  return host.work === 'none' && host.power !== 'on' && host.is_held === 0;
}

function isLongUnused({ rests_since_ms }: HostRow, rules: ReadinessRules, now: number): boolean {
  const after = rules.deleteAfterMinutes;
  return after !== null && rests_since_ms !== null && now - rests_since_ms >= after * MINUTE;
}

function named(hosts: readonly HostRow[]): string {
  return hosts.length === 1 ? (hosts[0]?.name ?? '') : `${hosts.length} hosts`;
}

function ready({ needed }: KeepingMoves): string {
  return `${needed === 1 ? 'one is' : `${needed} are`} needed`;
}
