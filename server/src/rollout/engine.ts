/**
 * Runs rollouts by the estate's clock: sleeps, wakes in the window, drains, rebuilds, stops
 * starting what cannot finish, goes on the next night. Which hosts may start is decided
 * here; what happens to one of them stands in `host-work.ts`. Everything it knows is in the
 * database, and it reads no more of a pool than the hosts that may start now: at 10,000 hosts a
 * look costs what it costs at 100.
 */
import { admit, PASSED_OVER, type Binding } from '@vatline/core/rollout/admission';
import { p90Length, servingLength, type RingPlan } from '@vatline/core/rollout/forecast/plan';
import { isBroken, takesSessions } from '@vatline/core/pool/service-state';
import { stopsFor } from '@vatline/core/rollout/failure-rule';
import { decisionRefusal, turnNumber, type HostDecision } from '@vatline/core/rollout/host-decision';
import { atWork } from '@vatline/core/rollout/host-state';
import { nextMove, standingAfter, type RolloutSituation } from '@vatline/core/rollout/next-move';
import { seatsToSpare, type SeatPlan } from '@vatline/core/rollout/seats';
import { openOrNextWindow } from '@vatline/core/time/windows';
import { must } from '@vatline/core/result';
import { actingAs } from '../platform/acting.ts';
import { turnsForOthers } from '../platform/turns.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, Refusal } from '../platform/problem.ts';
import type { HostCounts } from '../pool/hosts.ts';
import type { PoolStore } from '../pool/pools.ts';
import { isOfRollout, type HostWork } from './host-work.ts';
import type { Notices } from './notices.ts';
import type { Plans } from './plans.ts';
import { noteRevision } from './revisions.ts';
import { keepRollout, prepareReturn, type PreparedRollout } from './start.ts';
import type { RolloutContext, RolloutStore } from './store.ts';
import type { RolloutHostRow, RolloutRow } from './tables.ts';

type Pace = Pick<RingPlan, 'work' | 'drain'>;

/** As the journal tells it. */
const decided: Record<HostDecision, string> = {
  retry: 'is tried again',
  'set aside': 'was set aside',
  first: 'is to be the next',
  last: 'is to be the last',
};

interface StopOptions {
  readonly letsGo?: boolean;
  /** Of the way back which is to follow; 0 keeps the batch. */
  readonly returnBatch?: number;
}

export class RolloutEngine {
  /** One thing at a time: the clock, the routes and the start-up all ask for work. */
  private turn: Promise<unknown> = Promise.resolve();
  /** Work and drain of each open rollout, as they were when it was first looked at. */
  private readonly pace = new Map<string, Pace>();
  private readonly listeners: ((rollout: RolloutRow) => void)[] = [];

  constructor(
    private readonly parts: Parts,
    private readonly plans: Plans,
    private readonly store: RolloutStore,
    private readonly work: HostWork,
    private readonly notices: Notices,
  ) {
    parts.estate.operations.onEnd(async (operation) => {
      if (!isOfRollout(operation)) return;
      await this.inTurn(async () => {
        const rolloutId = await this.work.ended(operation);
        if (rolloutId) await this.stepAround(rolloutId);
      });
    });
  }

  /** Tells of every rollout that was looked at: hosts may be through, or all of it. */
  onLook(listener: (rollout: RolloutRow) => void): void {
    this.listeners.push(listener);
  }

  private get pools(): PoolStore {
    return this.plans.pools;
  }

  /** Takes up every open rollout after a start. */
  async resume(): Promise<void> {
    for (const rollout of await this.store.open()) {
      await this.inTurn(async () => {
        for (const entry of await this.store.hosts(rollout.id)) {
          if (atWork(entry.stage)) await this.work.takeUp(rollout, entry);
        }
        await this.step(rollout.id);
      });
    }
  }

  /** Looks whether hosts can be started, and when to look again. */
  advance(rolloutId: string): Promise<void> {
    return this.inTurn(() => this.step(rolloutId));
  }

  /**
   * Starts no more hosts; those at work are finished. With `letsGo` those from which people have yet to
   * leave go back to them, since nothing on such a host was changed.
   */
  async stop(rolloutId: string, { letsGo = false, returnBatch }: StopOptions = {}): Promise<void> {
    await this.inTurn(async () => {
      const { rollout, pool } = await this.store.context(rolloutId);
      if (rollout.ended_ms !== null) throw conflict('This rollout has ended already');
      const draining = letsGo
        ? (await this.store.hosts(rolloutId)).filter(({ stage }) => stage === 'draining')
        : [];
      await this.parts.db.transact(async () => {
        await this.pools.hosts.wantNothingNew(pool.id);
        await this.work.note(
          rollout,
          `${pool.name}: stopped; hosts at work are finished, no more are started`,
        );
        for (const entry of draining) await this.work.letGo(rollout, entry);
        const goesBack = returnBatch === undefined ? {} : { return_batch: returnBatch };
        await this.parts.db
          .updateTable('rollout')
          .set({ state: 'stopped', ...goesBack })
          .where('id', '=', rolloutId)
          .execute();
      });
      // What ends before it is called off finds its host gone on.
      for (const entry of draining) await this.work.callOff(entry);
      await this.stepAround(rolloutId);
    });
  }

  /**
   * Takes the pool back to the blend the rollout began from. Hosts at work are finished first;
   * then the way back begins by itself. Gives the rollout to look at.
   */
  async goBack(rolloutId: string, batch: number | undefined): Promise<string> {
    const row = await this.store.rollout(rolloutId);
    if (row.ended_ms === null) {
      await this.stop(rolloutId, { returnBatch: batch ?? 0 });
      const open = await this.parts.db
        .selectFrom('rollout')
        .select('id')
        .where('pool_id', '=', row.pool_id)
        .where('ended_ms', 'is', null)
        .executeTakeFirst();
      return open?.id ?? rolloutId;
    }
    return this.inTurn(() => this.beginReturn(row, batch));
  }

  /** Writes a change of a rollout under way while nothing else happens to it, and goes on by what it is then. */
  async change(rolloutId: string, write: (context: RolloutContext) => Promise<void>): Promise<void> {
    await this.inTurn(async () => {
      const context = await this.store.context(rolloutId);
      await this.parts.db.transact(() => write(context));
      this.pace.delete(rolloutId);
      await this.step(rolloutId);
    });
  }

  /** What a person decided about one host. Throws a refusal where it stands elsewhere by then. */
  async decide(rolloutId: string, hostId: string, decision: HostDecision): Promise<void> {
    await this.inTurn(async () => {
      const entry = await this.store.entry(rolloutId, hostId);
      const { rollout } = await this.store.context(rolloutId);
      const hasEnded = rollout.ended_ms !== null;
      const isStopped = rollout.state === 'stopped';
      const refusal = decisionRefusal(decision, { stage: entry.stage, hasEnded, isStopped });
      if (refusal !== undefined) throw conflict(refusal);
      const { name } = await this.pools.hosts.get(hostId);
      await this.parts.db.transact(async () => {
        if (decision === 'retry') await this.store.setEntry(entry, { stage: 'waiting', error: null });
        else if (decision === 'set aside') await this.setAside(entry);
        else {
          const number = turnNumber(decision, await this.store.turns(rolloutId));
          await this.store.setEntry(entry, { number });
        }
        await this.work.note(rollout, `${name} ${decided[decision]}`);
      });
      await this.step(rolloutId);
    });
  }

  /** One that has failed stays out of service, one that waits stays as it is. */
  private async setAside(entry: RolloutHostRow): Promise<void> {
    const note = entry.stage === 'failed' ? { note: `set aside: ${entry.error ?? 'failed'}` } : {};
    await this.pools.hosts.set(entry.host_id, { next_blend_id: null, ...note });
    await this.store.setEntry(entry, { stage: 'set aside' });
  }

  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const release = this.parts.estate.clock.hold();
    // Inside the clock's own step the hold costs nothing: the clock looks for holds between events.
    const result = this.turn.then(work).finally(release);
    this.turn = result.catch((error: unknown) => {
      if (!(error instanceof Refusal) && !this.parts.trouble.notice(error))
        this.parts.log.error({ err: error as Error }, 'rollout engine failed');
    });
    return result;
  }

  /** What it does now is nobody's doing, also where somebody asked it to look. */
  private step(rolloutId: string): Promise<void> {
    return actingAs(undefined, () => this.look(rolloutId));
  }

  /** A rollout of which a host has ended, and those that wait for the hypervisor; of all the one that began first goes first. */
  private async stepAround(rolloutId: string): Promise<void> {
    const { held } = this.plans.sharedLimits;
    if (held.length === 0) return this.step(rolloutId);
    const among = new Set([rolloutId, ...held]);
    for (const { id } of await this.store.open()) if (among.has(id)) await this.step(id);
  }

  private async look(rolloutId: string): Promise<void> {
    const context = await this.store.context(rolloutId);
    const { rollout } = context;
    if (rollout.ended_ms !== null) return;
    if (await this.pausedByRule(context)) return this.look(rolloutId);
    const situation = await this.situation(context);
    await this.tellBefore(context, situation);
    const move = nextMove(situation);
    if (move.do === 'end') return this.finish(context);
    if (move.do === 'finish hosts') return this.tell(rollout);
    const { started, held } =
      move.do === 'start'
        ? await this.startHosts(context, situation, move.atMost)
        : { started: 0, held: move.held };
    this.plans.sharedLimits.note(rolloutId, held === 'shared limit');
    const { state, wakeAt } = standingAfter(situation, started, held);
    await this.store.set(rolloutId, { state });
    if (wakeAt !== undefined)
      this.parts.estate.clock.wakeAt(wakeAt, `rollout ${rolloutId}`, () => this.advance(rolloutId));
    this.tell(rollout);
  }

  /** Has people told of the window that comes, or is woken to do it. */
  private async tellBefore(context: RolloutContext, situation: RolloutSituation): Promise<void> {
    const { id } = context.rollout;
    const at = await this.notices.beforeWindow(context, situation);
    if (at !== undefined) this.parts.estate.clock.wakeAt(at, `notice ${id}`, () => this.advance(id));
  }

  /** Whether too much of it has failed, more than when somebody let it go on last; then it is paused. */
  private async pausedByRule({ rollout, request, pool }: RolloutContext): Promise<boolean> {
    const isRunning = rollout.state !== 'stopped' && rollout.paused_ms === null;
    if (!request.stop || !isRunning) return false;
    const { done, lost } = await this.store.counts(rollout.id);
    const why = stopsFor({ done, failed: lost }, request.stop);
    if (why === undefined || lost <= rollout.failures_seen) return false;
    const at = this.parts.estate.clock.now();
    await this.parts.db.transact(async () => {
      await this.store.set(rollout.id, { paused_ms: at });
      const { id: rollout_id, plan_id } = rollout;
      const revision = { rollout_id, plan_id, at_ms: at, says: 'paused by itself', why, expected_ms: null };
      await noteRevision(this.parts, pool.name, revision);
    });
    return true;
  }

  private async situation({ rollout, request }: RolloutContext): Promise<RolloutSituation> {
    const now = this.parts.estate.clock.now();
    const { waiting, atWork, failed } = await this.store.counts(rollout.id);
    const rule = await this.plans.windowRule(request, rollout.windows_from_ms);
    const window = must(openOrNextWindow(rule, rollout.windows_from_ms, now));
    return {
      isStopped: rollout.state === 'stopped',
      isPaused: rollout.paused_ms !== null,
      now,
      window,
      batch: request.batch,
      waiting,
      atWork,
      failed,
    };
  }

  /** Starts hosts until none waits or one is held back; tells how many, and what held the next one. */
  private async startHosts(
    context: RolloutContext,
    { now, window, waiting, atWork }: RolloutSituation,
    atMost: number,
  ): Promise<{ started: number; held: Binding | undefined }> {
    const { rollout, request, pool } = context;
    const states = await this.pools.hosts.counts(pool.id);
    const seats = await this.seatPlan(context, states.hosts);
    const pace = await this.paceOf(context);
    const checks = this.plans.checks(request.packageVersionIds.length);
    const queue = await this.queue(context, states, atMost + PASSED_OVER);
    const { start, held } = admit(
      queue,
      {
        now,
        windowEnd: window?.end ?? now,
        atWork,
        servingAtWork: await this.store.servingAtWork(rollout.id),
        out: states.broken,
        seatsPerHost: pool.session_limit,
        slots: await this.plans.sharedLimits.slotsFor(pool.id),
        p90Length: { ...p90Length(pace), inService: servingLength(checks) },
        seatsToSpare: (out, until) => (seats ? seatsToSpare(seats, out, now, until) : Infinity),
      },
      request,
    );
    const mounts = this.work.mountsOf(context);
    const others = turnsForOthers();
    for (const { entry, host, way, sessions } of start) {
      await this.work.start(context, entry, host, { way, sessions, mounts });
      await others();
    }
    return { started: start.length, held: held ?? (waiting > start.length ? 'batch' : undefined) };
  }

  /** The hosts whose turn is next, with the people on them now, and how each gets to its blend. */
  private async queue({ rollout, pool, request }: RolloutContext, states: HostCounts, limit: number) {
    const next = await this.store.nextWaiting(rollout.id, limit);
    const planned = await this.plans.planned(
      request,
      next.map(({ host }) => host),
    );
    const names = next.flatMap(({ host }) => (takesSessions(host) ? [host.name] : []));
    const sessions = await this.pools.hosts.sessionsOn(pool, states, names);
    return next.map(({ entry, host }, i) => {
      const way = planned[i]?.way ?? 'rebuild';
      return {
        entry,
        host,
        way,
        sessions: sessions.get(host.name) ?? 0,
        isOut: isBroken(host),
        staysInService: way === 'attach in service',
      };
    });
  }

  private async seatPlan({ pool, request }: RolloutContext, hosts: number): Promise<SeatPlan | undefined> {
    if (request.reserve === null) return undefined;
    const expected = await this.parts.estate.activity.expected(pool.name, hosts, pool.session_limit);
    return { hosts, perHost: pool.session_limit, expected, reserve: request.reserve, zone: request.zone };
  }

  /** What may begin does not change while the rollout runs, though its own hosts add to the history. */
  private async paceOf({ rollout, request }: RolloutContext): Promise<Pace> {
    const known = this.pace.get(rollout.id);
    if (known) return known;
    const options = { seed: 1, from: rollout.windows_from_ms, runs: 1 };
    const { ring } = await this.plans.forecastable(request, options);
    this.pace.set(rollout.id, ring);
    return ring;
  }

  /**
   * Ends a rollout: the pool's blend, the way back where one was asked for, and that it has ended
   * are one change, so that after a kill at any point all of it is there or all is done again.
   */
  private async finish({ rollout, pool, to }: RolloutContext): Promise<void> {
    const now = this.parts.estate.clock.now();
    const counts = await this.store.counts(rollout.id);
    const complete = rollout.state !== 'stopped';
    const way = await this.wayBack(rollout);
    const aside = counts.setAside > 0 ? `, ${counts.setAside} set aside` : '';
    const came = complete
      ? `done, ${counts.done} hosts on blend ${to.number}${aside}`
      : `ended after ${counts.done} of ${counts.hosts} hosts`;
    let returnId: string | undefined;
    await this.parts.db.transact(async () => {
      await this.pools.hosts.wantNothingNew(pool.id);
      if (complete && rollout.is_part === 0) await this.pools.setBlend(pool.id, to.id);
      await this.work.note(rollout, `${pool.name}: ${came}${way.refused}`);
      await this.parts.db
        .updateTable('rollout')
        .set({ state: complete ? 'done' : 'stopped', ended_ms: now })
        .where('id', '=', rollout.id)
        .execute();
      if (way.prepared) returnId = await keepRollout(this.parts, this.plans, way.prepared);
    });
    this.pace.delete(rollout.id);
    this.plans.sharedLimits.note(rollout.id, false);
    this.tell(rollout);
    // What nothing is on its way to any more can be deleted there.
    this.parts.journal.tell('line', 'package');
    if (returnId !== undefined) await this.step(returnId);
  }

  /** The way back that was asked for when the rollout was stopped; or why there is none. */
  private async wayBack(rollout: RolloutRow): Promise<{ prepared?: PreparedRollout; refused: string }> {
    if (rollout.return_batch === null) return { refused: '' };
    try {
      const batch = rollout.return_batch || undefined;
      return { prepared: await prepareReturn(this.parts, this.plans, rollout, batch), refused: '' };
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      return { refused: `; there is no way back: ${error.message}` };
    }
  }

  private async beginReturn(rollout: RolloutRow, batch: number | undefined): Promise<string> {
    const prepared = await prepareReturn(this.parts, this.plans, rollout, batch);
    const id = await this.parts.db.transact(() => keepRollout(this.parts, this.plans, prepared));
    await this.step(id);
    return id;
  }

  private tell(rollout: RolloutRow): void {
    this.parts.journal.tell(`rollout:${rollout.id}`, `pool:${rollout.pool_id}`);
    for (const listener of this.listeners) listener(rollout);
  }
}
