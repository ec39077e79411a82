/**
 * Runs rollouts by the estate's clock: sleeps, wakes in the window, drains, rebuilds, stops
 * starting what cannot finish, goes on the next night. Everything it knows is in the database and
 * every call to the outside has a key made from rollout, host, attempt and stage, so that after a
 * crash it takes up each host where it was.
 */
import type { RolloutRequest } from '@vatline/contract/rollout';
import { heldBackBy, type Binding } from '@vatline/core/rollout/admission';
import { p90Length, type RolloutPlan } from '@vatline/core/rollout/forecast';
import { atWork, takesSessions, transition, type HostState } from '@vatline/core/rollout/host-state';
import { seatsToSpare, type SeatPlan } from '@vatline/core/rollout/seats';
import { openOrNextWindow, type WindowSpan } from '@vatline/core/rollout/windows';
import { MINUTE } from '@vatline/core/time/instant';
import { must } from '@vatline/core/result';
import type { Operation } from '../estate/driver.ts';
import { EstateError } from '../estate/driver.ts';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, notFound } from '../platform/problem.ts';
import type { BlendRow, HostRow, PoolRow, PoolStore } from '../pool/store.ts';
import { planFor, RETRIES } from './plan.ts';
import { startReturn } from './start.ts';
import type { RolloutHostRow, RolloutRow, RolloutStore } from './store.ts';

const SEAT_CHECK_MS = 15 * MINUTE;

interface Context {
  readonly rollout: RolloutRow;
  readonly request: RolloutRequest;
  readonly pool: PoolRow;
  readonly from: BlendRow;
  readonly to: BlendRow;
}

export class RolloutEngine {
  /** One thing at a time: the clock, the routes and the start-up all ask for work. */
  private turn: Promise<unknown> = Promise.resolve();
  /** Work and drain of each open rollout, as they were when it was first looked at. */
  private readonly pace = new Map<string, Pick<RolloutPlan, 'work' | 'drain'>>();

  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
    private readonly store: RolloutStore,
  ) {
    parts.estate.operations.onEnd((operation) =>
      operation.key.startsWith('rollout/')
        ? this.inTurn(() => this.operationEnded(operation))
        : Promise.resolve(),
    );
  }

  /** Takes up every open rollout after a start. */
  async resume(): Promise<void> {
    for (const rollout of await this.store.open()) {
      await this.inTurn(async () => {
        for (const entry of await this.store.hosts(rollout.id)) {
          if (atWork(entry.stage as HostState)) await this.takeUp(rollout, entry);
        }
        await this.step(rollout.id);
      });
    }
  }

  /** Looks whether hosts can be started, and when to look again. */
  advance(rolloutId: string): Promise<void> {
    return this.inTurn(() => this.step(rolloutId));
  }

  async stop(rolloutId: string): Promise<void> {
    await this.inTurn(async () => {
      const { rollout, pool } = await this.context(rolloutId);
      if (rollout.ended_ms !== null) throw conflict('This rollout has ended already');
      await this.setState(rolloutId, 'stopped');
      await this.parts.db
        .updateTable('host')
        .set({ next_blend_id: null })
        .where('pool_id', '=', pool.id)
        .where('state', '=', 'in service')
        .execute();
      await this.note(rollout, `${pool.name}: stopped; hosts at work are finished, no more are started`);
      await this.step(rolloutId);
    });
  }

  /**
   * Takes the pool back to the blend the rollout began from. Hosts at work are finished first;
   * then the way back begins by itself. Gives the rollout to look at.
   */
  async goBack(rolloutId: string, batch: number | undefined): Promise<string> {
    const row = await this.store.rollout(rolloutId);
    if (row.ended_ms === null) {
      await this.parts.db
        .updateTable('rollout')
        .set({ return_batch: batch ?? 0 })
        .where('id', '=', rolloutId)
        .execute();
      await this.stop(rolloutId);
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

  async retry(rolloutId: string, hostId: string): Promise<void> {
    await this.inTurn(async () => {
      const entry = await this.entry(rolloutId, hostId);
      if (entry.stage !== 'failed') throw conflict('This host has not failed');
      await this.setEntry(entry, { stage: 'waiting', error: null });
      await this.step(rolloutId);
    });
  }

  async setAside(rolloutId: string, hostId: string): Promise<void> {
    await this.inTurn(async () => {
      const entry = await this.entry(rolloutId, hostId);
      if (entry.stage !== 'failed') throw conflict('Only a failed host can be set aside');
      await this.setEntry(entry, { stage: 'set aside' });
      await this.setHost(hostId, { next_blend_id: null, note: `set aside: ${entry.error ?? 'failed'}` });
      const { rollout } = await this.context(rolloutId);
      await this.note(rollout, `${(await this.host(hostId)).name} was set aside`);
      await this.step(rolloutId);
    });
  }

  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const release = this.parts.estate.clock.hold();
    // Inside the clock's own step the hold costs nothing: the clock looks for holds between events.
    const result = this.turn.then(work).finally(release);
    this.turn = result.catch((error: unknown) => {
      if ((error as Error).name !== 'Refusal')
        this.parts.log.error({ err: error as Error }, 'rollout engine failed');
    });
    return result;
  }

  private async context(rolloutId: string): Promise<Context> {
    const rollout = await this.store.rollout(rolloutId);
    const blend = (id: string) =>
      this.parts.db.selectFrom('blend').selectAll().where('id', '=', id).executeTakeFirstOrThrow();
    return {
      rollout,
      request: fromJson<RolloutRequest>(rollout.request_json),
      pool: await this.pools.pool(rollout.pool_id),
      from: await blend(rollout.from_blend_id),
      to: await blend(rollout.to_blend_id),
    };
  }

  private async step(rolloutId: string): Promise<void> {
    const context = await this.context(rolloutId);
    const { rollout, request } = context;
    if (rollout.ended_ms !== null) return;
    const now = this.parts.estate.clock.now();
    const counts = await this.store.counts(rolloutId);
    const nothingLeft =
      counts.atWork === 0 && (rollout.state === 'stopped' || counts.waiting + counts.failed === 0);
    if (nothingLeft) return this.finish(context);
    if (rollout.state === 'stopped') return;
    const window = must(openOrNextWindow({ ...request.window, zone: request.zone }, rollout.started_ms, now));
    const open = window !== undefined && window.start <= now;
    const held = open && counts.waiting > 0 ? await this.startHosts(context, window) : undefined;
    const working = (await this.store.counts(rolloutId)).atWork > 0;
    await this.setState(
      rolloutId,
      working || (open && held !== 'window' && counts.waiting > 0) ? 'at work' : 'asleep',
    );
    this.sleep(rolloutId, window, open, held, counts.waiting);
    this.tell();
  }

  /** Sets the alarm for the next moment at which something can change by itself. */
  private sleep(
    rolloutId: string,
    window: WindowSpan | undefined,
    open: boolean,
    held: Binding | undefined,
    waiting: number,
  ): void {
    if (!window || waiting === 0) return;
    const now = this.parts.estate.clock.now();
    const at = !open
      ? window.start
      : held === 'seats' || held === 'max unavailable'
        ? Math.min(window.end, now + SEAT_CHECK_MS)
        : window.end;
    this.parts.estate.clock.wakeAt(at, `rollout ${rolloutId}`, () => this.advance(rolloutId));
  }

  /** Starts hosts until none waits or one is held back; returns what held it. */
  private async startHosts(context: Context, window: WindowSpan): Promise<Binding | undefined> {
    const { rollout, request, pool } = context;
    const now = this.parts.estate.clock.now();
    const hosts = await this.pools.hosts(pool.id);
    const byId = new Map(hosts.map((host) => [host.id, host]));
    const sessions = await this.pools.sessions(pool, hosts);
    const seats = await this.seatPlan(context, hosts.length);
    const pace = await this.paceOf(context);
    const entries = await this.store.hosts(rollout.id);
    const waiting = entries
      .filter((entry) => entry.stage === 'waiting')
      .sort((a, b) => a.attempts - b.attempts || a.number - b.number);
    let working = entries.filter((entry) => atWork(entry.stage as HostState)).length;
    let broken = hosts.filter((host) => host.state === 'failed' || host.state === 'held').length;
    for (const entry of waiting) {
      const host = byId.get(entry.host_id);
      if (!host) continue;
      const out = host.state === 'failed' ? 1 : 0;
      const left = sessions.get(host.name) ?? 0;
      const length = p90Length(pace, left);
      const held = heldBackBy(
        {
          now,
          windowEnd: window.end,
          p90Length: length,
          atWork: working,
          failed: broken - out,
          seatsPerHost: out ? 0 : pool.session_limit,
          seatsToSpare: seats ? seatsToSpare(seats, working + broken, now, now + length) : Infinity,
        },
        request,
      );
      if (held) return held;
      await this.startHost(context, entry, host, left);
      working++;
      broken -= out;
    }
    return undefined;
  }

  private async seatPlan({ pool, request }: Context, hosts: number): Promise<SeatPlan | undefined> {
    if (request.reserve === null) return undefined;
    const expected = await this.parts.estate.activity.expected(pool.name, hosts, pool.session_limit);
    return { hosts, perHost: pool.session_limit, expected, reserve: request.reserve, zone: request.zone };
  }

  /** What may begin does not change while the rollout runs, though its own hosts add to the history. */
  private async paceOf({ rollout, request }: Context): Promise<Pick<RolloutPlan, 'work' | 'drain'>> {
    const known = this.pace.get(rollout.id);
    if (known) return known;
    const { plan } = await planFor(this.parts, this.pools, request, {
      seed: 1,
      from: rollout.started_ms,
      runs: 1,
    });
    this.pace.set(rollout.id, plan);
    return plan;
  }

  private async startHost(
    context: Context,
    entry: RolloutHostRow,
    host: HostRow,
    sessions: number,
  ): Promise<void> {
    const now = this.parts.estate.clock.now();
    const attempts = entry.attempts + 1;
    await this.move(host, 'draining');
    await this.setEntry(entry, {
      stage: 'draining',
      attempts,
      started_ms: entry.started_ms ?? now,
      work_ms: null,
      error: null,
    });
    await this.note(
      context.rollout,
      `${host.name} drains${sessions > 0 ? `, ${sessions} sessions left` : ''}`,
    );
    await this.begin(context, { ...entry, attempts, stage: 'draining' }, host, sessions);
  }

  /** Begins the outside operation of the stage an entry is in; the same key does nothing twice. */
  private async begin(context: Context, entry: RolloutHostRow, host: HostRow, sessions = 0): Promise<void> {
    const { pool, request, to } = context;
    const { hypervisor, directory, agents, activity } = this.parts.estate;
    const key = keyOf(entry);
    const packages = fromJson<string[]>(to.packages_json);
    try {
      switch (entry.stage as HostState) {
        case 'draining':
          await activity.drain(key, pool.name, host.name, sessions, request.drainLimitMinutes);
          return;
        case 'rebuilding':
          await hypervisor.rebuild(key, host.machine_id, await this.imageOf(to));
          return;
        case 'joining':
          await directory.join(key, host.name);
          return;
        case 'attaching':
          await agents.attach(key, host.name, await this.digestsOf(packages));
          return;
        case 'verifying':
          await agents.verify(key, host.name);
          return;
        default:
          return;
      }
    } catch (error) {
      if (!(error instanceof EstateError)) throw error;
      await this.failed(context, entry, host, error.message);
    }
  }

  private async imageOf(blend: BlendRow): Promise<string> {
    const version = await this.parts.db
      .selectFrom('image_version')
      .select('image_id')
      .where('id', '=', blend.image_version_id)
      .executeTakeFirstOrThrow();
    return version.image_id;
  }

  private async digestsOf(packageVersionIds: readonly string[]): Promise<string[]> {
    if (packageVersionIds.length === 0) return [];
    const rows = await this.parts.db
      .selectFrom('package_version')
      .select('digest')
      .where('id', 'in', packageVersionIds)
      .execute();
    return rows.map((row) => row.digest);
  }

  /** After a restart: begins the operation of the stage again, or reads what came of it. */
  private async takeUp(rollout: RolloutRow, entry: RolloutHostRow): Promise<void> {
    const operation = await this.parts.estate.operations.get(keyOf(entry));
    if (operation && operation.state !== 'running') return this.operationEnded(operation);
    if (operation) return;
    await this.begin(await this.context(rollout.id), entry, await this.host(entry.host_id));
  }

  private async operationEnded(operation: Operation): Promise<void> {
    const [, rolloutId = '', hostId = '', attempt = '', stage = ''] = operation.key.split('/');
    const entry = await this.entry(rolloutId, hostId);
    if (entry.stage !== stage || String(entry.attempts) !== attempt) return;
    const context = await this.context(rolloutId);
    const host = await this.host(hostId);
    if (operation.state === 'failed')
      await this.failed(context, entry, host, operation.error?.message ?? 'failed');
    else await this.nextStage(context, entry, host);
    await this.step(rolloutId);
  }

  private async nextStage(context: Context, entry: RolloutHostRow, host: HostRow): Promise<void> {
    const now = this.parts.estate.clock.now();
    const stage = await this.stageAfter(context, entry, host);
    if (stage === 'done') return this.done(context, entry, host);
    await this.move(host, stage);
    const work_ms = entry.stage === 'draining' ? now : entry.work_ms;
    await this.setEntry(entry, { stage, work_ms });
    await this.begin(context, { ...entry, stage, work_ms }, host);
  }

  private async stageAfter(
    { to }: Context,
    entry: RolloutHostRow,
    host: HostRow,
  ): Promise<HostState | 'done'> {
    const packages = fromJson<string[]>(to.packages_json).length > 0;
    switch (entry.stage as HostState) {
      case 'draining': {
        const current = await this.parts.db
          .selectFrom('blend')
          .select('image_version_id')
          .where('id', '=', host.blend_id)
          .executeTakeFirst();
        // A host that failed before may hold anything: it is rebuilt whatever its blend was.
        return entry.attempts > 1 || host.note !== '' || current?.image_version_id !== to.image_version_id
          ? 'rebuilding'
          : 'attaching';
      }
      case 'rebuilding':
        return 'joining';
      case 'joining':
        return packages ? 'attaching' : 'verifying';
      case 'attaching':
        return 'verifying';
      default:
        return 'done';
    }
  }

  private async done({ rollout, to }: Context, entry: RolloutHostRow, host: HostRow): Promise<void> {
    await this.move(host, 'in service');
    await this.setHost(host.id, { blend_id: to.id, next_blend_id: null, note: '' });
    await this.setEntry(entry, { stage: 'done', finished_ms: this.parts.estate.clock.now(), error: null });
    await this.note(rollout, `${host.name} is back in service on blend ${to.number}`);
  }

  /** Tries again by itself while retries are left; then waits for a person. */
  private async failed(
    { rollout }: Context,
    entry: RolloutHostRow,
    host: HostRow,
    error: string,
  ): Promise<void> {
    await this.move(host, 'failed');
    await this.setHost(host.id, { note: error });
    const again = entry.attempts <= RETRIES;
    await this.setEntry(entry, { stage: again ? 'waiting' : 'failed', error });
    await this.note(
      rollout,
      `${host.name} failed ${entry.stage}: ${error}${again ? '; it is tried again' : ''}`,
    );
  }

  private async finish({ rollout, pool, to }: Context): Promise<void> {
    const now = this.parts.estate.clock.now();
    const counts = await this.store.counts(rollout.id);
    const complete = rollout.state !== 'stopped';
    await this.parts.db
      .updateTable('rollout')
      .set({ state: complete ? 'done' : 'stopped', ended_ms: now })
      .where('id', '=', rollout.id)
      .execute();
    await this.parts.db
      .updateTable('host')
      .set({ next_blend_id: null })
      .where('pool_id', '=', pool.id)
      .where('state', '=', 'in service')
      .execute();
    if (complete)
      await this.parts.db.updateTable('pool').set({ blend_id: to.id }).where('id', '=', pool.id).execute();
    const aside = counts.setAside > 0 ? `, ${counts.setAside} set aside` : '';
    await this.note(
      rollout,
      `${pool.name}: ${complete ? `done, ${counts.done} hosts on blend ${to.number}${aside}` : `ended after ${counts.done} of ${counts.hosts} hosts`}`,
    );
    this.pace.delete(rollout.id);
    this.tell();
    if (rollout.return_batch !== null) await this.beginReturn(rollout, rollout.return_batch || undefined);
  }

  private async beginReturn(rollout: RolloutRow, batch: number | undefined): Promise<string> {
    const id = await startReturn(this.parts, this.pools, rollout, batch);
    await this.step(id);
    return id;
  }

  private async move(host: HostRow, to: HostState): Promise<void> {
    const current = await this.host(host.id);
    if (current.state === to) return;
    const result = transition(current.state as HostState, to);
    if (!result.ok) throw new Error(`${host.name}: ${result.error[0]?.message ?? 'bad transition'}`);
    await this.setHost(host.id, { state: to });
    if (takesSessions(to) !== takesSessions(current.state as HostState)) this.parts.journal.tell('pools');
  }

  private async host(id: string): Promise<HostRow> {
    const row = await this.parts.db.selectFrom('host').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such host');
    return row;
  }

  private async entry(rolloutId: string, hostId: string): Promise<RolloutHostRow> {
    const row = await this.parts.db
      .selectFrom('rollout_host')
      .selectAll()
      .where('rollout_id', '=', rolloutId)
      .where('host_id', '=', hostId)
      .executeTakeFirst();
    if (!row) throw notFound('such host in this rollout');
    return row;
  }

  private async setHost(id: string, change: Partial<HostRow>): Promise<void> {
    await this.parts.db.updateTable('host').set(change).where('id', '=', id).execute();
  }

  private async setEntry(entry: RolloutHostRow, change: Partial<RolloutHostRow>): Promise<void> {
    await this.parts.db
      .updateTable('rollout_host')
      .set(change)
      .where('rollout_id', '=', entry.rollout_id)
      .where('host_id', '=', entry.host_id)
      .execute();
  }

  private async setState(id: string, state: string): Promise<void> {
    await this.parts.db.updateTable('rollout').set({ state }).where('id', '=', id).execute();
  }

  private note(rollout: RolloutRow, text: string): Promise<void> {
    return this.parts.journal.note({
      at: this.parts.estate.clock.now(),
      kind: 'rollout',
      subject: `rollout:${rollout.id}`,
      text,
      link: `/rollouts/${rollout.id}`,
    });
  }

  private tell(): void {
    this.parts.journal.tell('rollouts', 'pools');
  }
}

function keyOf(entry: Pick<RolloutHostRow, 'rollout_id' | 'host_id' | 'attempts' | 'stage'>): string {
  return `rollout/${entry.rollout_id}/${entry.host_id}/${entry.attempts}/${entry.stage}`;
}
