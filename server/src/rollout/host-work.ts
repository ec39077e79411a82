/**
 * One host's way through a rollout: drain, rebuild or attach, join, verify, back in service. Every
 * call to the outside has a key made from rollout, host, attempt and stage, so that after a crash a
 * host is taken up where it was and nothing is done twice.
 */
import {
  standingIn,
  stateAfterWork,
  stateOf,
  takesSessions,
  type HostState,
} from '@vatline/core/pool/service-state';
import { transition } from '@vatline/core/rollout/host-state';
import { isTriedAgain } from '@vatline/core/rollout/usual-failures';
import type { HostWay } from '@vatline/core/rollout/blends/way';
import type { WantedMount } from '../estate/driver/hosts.ts';
import { type Operation, EstateError } from '../estate/driver/operations.ts';
import type { Parts } from '../platform/parts.ts';
import { Refusal } from '../platform/problem.ts';
import { mountsFor } from '../pool/mounts.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { BlendRow, HostRow } from '../pool/tables.ts';
import { forgetDrift } from './drift/mending.ts';
import type { Notices } from './notices.ts';
import type { RolloutStore } from './store.ts';
import { type RolloutContext } from './store.ts';
import type { RolloutHostRow, RolloutRow } from './tables.ts';

/** How a host begins. */
interface Begun {
  readonly way: HostWay;
  readonly sessions: number;
  /** Of all hosts that begin at the same look, so that ten thousand ask once. */
  readonly mounts: () => Promise<readonly WantedMount[]>;
}

/** Whether an operation that ended was begun by a rollout. */
export function isOfRollout(operation: Operation): boolean {
  return operation.key.startsWith('rollout/');
}

export class HostWork {
  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
    private readonly store: RolloutStore,
    private readonly notices: Notices,
  ) {}

  /** Begins the first stage of a host; unless it is attached in service, it is taken out of service. */
  async start(
    context: RolloutContext,
    entry: RolloutHostRow,
    host: HostRow,
    { way, sessions, mounts }: Begun,
  ): Promise<void> {
    const now = this.parts.estate.clock.now();
    const serves = way === 'attach in service';
    const begun = {
      stage: serves ? ('attaching' as const) : ('draining' as const),
      way,
      attempts: entry.attempts + 1,
      started_ms: entry.started_ms ?? now,
      work_ms: serves ? now : null,
      error: null,
    };
    await this.parts.db.transact(async () => {
      if (!serves) await this.move(host, 'draining');
      await this.store.setEntry(entry, begun);
      const left = sessions > 0 ? `, ${sessions} sessions left` : '';
      const says = serves ? 'is attached at the next check of its agent' : `drains${left}`;
      await this.note(context.rollout, `${host.name} ${says}`);
    });
    await this.begin(context, { ...entry, ...begun }, host, { sessions, mounts });
  }

  /** The containers that hosts of a rollout are to have, looked up and judged when it is first asked, and once. */
  mountsOf({ request, pool }: RolloutContext): () => Promise<readonly WantedMount[]> {
    let asked: Promise<readonly WantedMount[]> | undefined;
    return () => (asked ??= mountsFor(this.parts, request.packageVersionIds, pool.name));
  }

  /** Begins the outside operation of the stage an entry is in; the same key does nothing twice. */
  private async begin(
    context: RolloutContext,
    entry: RolloutHostRow,
    host: HostRow,
    { sessions, mounts }: Omit<Begun, 'way'> = { sessions: 0, mounts: this.mountsOf(context) },
  ): Promise<void> {
    const { pool, request, to } = context;
    const { hypervisor, directory, agents, activity } = this.parts.estate;
    const key = keyOf(entry);
    try {
      switch (entry.stage) {
        case 'draining':
          await this.switchOn(key, host);
          // Before anybody is waited for, they know what they are waited for.
          if (sessions > 0) await this.notices.atDrain(context, `${key}/told`, host.name);
          await activity.drain(key, pool.name, host.name, sessions, request.drainLimitMinutes);
          return;
        case 'rebuilding':
          await hypervisor.rebuild(key, machineOf(host), await this.imageOf(to));
          return;
        case 'joining':
          await directory.join(key, host.name);
          return;
        case 'attaching':
          await this.attach(key, host, { way: entry.way, sessions }, await mounts());
          return;
        case 'verifying':
          await agents.verify(key, host.name);
          return;
        default:
          return;
      }
    } catch (error) {
      if (!(error instanceof EstateError) && !(error instanceof Refusal)) throw error;
      await this.failed(context, entry, host, error.message);
    }
  }

  private async attach(
    key: string,
    host: HostRow,
    { way, sessions }: { readonly way: HostWay | null; readonly sessions: number },
    mounts: readonly WantedMount[],
  ): Promise<Operation> {
    const { agents } = this.parts.estate;
    if (way !== 'attach in service') return agents.attach(key, host.name, mounts);
    // Whoever switched it off did so behind our back.
    await this.switchOn(key, host);
    return agents.attachInService(key, host.name, mounts, sessions);
  }

  /** A machine that was switched off can neither be made anew nor attach anything. */
  private async switchOn(key: string, { machine_id }: HostRow): Promise<void> {
    const { hypervisor } = this.parts.estate;
    if (machine_id === null) return;
    const machine = await hypervisor.machine(machine_id);
    if (machine && machine.power !== 'on') await hypervisor.power(`${key}/power`, machine_id, 'on');
  }

  private async imageOf(blend: BlendRow): Promise<string> {
    const version = await this.parts.db
      .selectFrom('image_version')
      .select('image_id')
      .where('id', '=', blend.image_version_id)
      .executeTakeFirstOrThrow();
    return version.image_id;
  }

  /** After a restart: begins the operation of the stage again, or reads what came of it. */
  async takeUp(rollout: RolloutRow, entry: RolloutHostRow): Promise<void> {
    const operation = await this.parts.estate.operations.get(keyOf(entry));
    if (operation && operation.state !== 'running') await this.ended(operation);
    if (operation) return;
    const context = await this.store.context(rollout.id);
    const host = await this.pools.hosts.get(entry.host_id);
    await this.begin(context, entry, host, {
      sessions: await this.sessionsLeft(context, host),
      mounts: this.mountsOf(context),
    });
  }

  /** People who are on a host that was to be drained, or attached, when the server ended. */
  private async sessionsLeft({ pool }: RolloutContext, host: HostRow): Promise<number> {
    if (host.service === 'out of service') return 0;
    const counts = await this.pools.hosts.counts(pool.id);
    // One that drains took sessions until a moment ago, and had its share of them.
    const taking = { ...counts, taking: counts.taking + (host.service === 'draining' ? 1 : 0) };
    return (await this.pools.hosts.sessionsOn(pool, taking, [host.name])).get(host.name) ?? 0;
  }

  /** Takes the host of an ended operation on to its next stage. Returns the rollout to look at. */
  async ended(operation: Operation): Promise<string | undefined> {
    const [, rolloutId = '', hostId = '', attempt = '', stage = ''] = operation.key.split('/');
    const entry = await this.store.entry(rolloutId, hostId);
    if (entry.stage !== stage || String(entry.attempts) !== attempt) return undefined;
    const context = await this.store.context(rolloutId);
    const host = await this.pools.hosts.get(hostId);
    if (operation.state === 'failed')
      await this.failed(context, entry, host, operation.error?.message ?? 'failed');
    else await this.nextStage(context, entry, host);
    return rolloutId;
  }

  /** A host from which people have yet to leave goes back to them, in a transaction of the caller's. */
  async letGo(rollout: RolloutRow, entry: RolloutHostRow): Promise<void> {
    const host = await this.pools.hosts.get(entry.host_id);
    const after = stateAfterWork({ isHeld: host.is_held === 1 });
    await this.move(host, after);
    await this.store.setEntry(entry, {
      stage: 'waiting',
      way: null,
      attempts: entry.attempts - 1,
      started_ms: entry.attempts > 1 ? entry.started_ms : null,
    });
    await this.note(rollout, `${host.name} goes back ${after === 'held' ? 'and is held' : 'into service'}`);
  }

  /** The outside operation of the stage that an entry was in. */
  callOff(entry: RolloutHostRow): Promise<void> {
    return this.parts.estate.operations.callOff(keyOf(entry));
  }

  private async nextStage(context: RolloutContext, entry: RolloutHostRow, host: HostRow): Promise<void> {
    const now = this.parts.estate.clock.now();
    const stage = stageAfter(entry, context.request.packageVersionIds.length > 0);
    if (stage === 'done') return this.done(context, entry, host);
    const work_ms = entry.stage === 'draining' ? now : entry.work_ms;
    await this.parts.db.transact(async () => {
      if (!serves(entry)) await this.move(host, stage);
      await this.store.setEntry(entry, { stage, work_ms });
    });
    await this.begin(context, { ...entry, stage, work_ms }, host);
  }

  private async done({ rollout, to }: RolloutContext, entry: RolloutHostRow, host: HostRow): Promise<void> {
    const finished_ms = this.parts.estate.clock.now();
    await this.parts.db.transact(async () => {
      const after = stateAfterWork({ isHeld: host.is_held === 1 });
      if (!serves(entry)) await this.move(host, after);
      await this.pools.hosts.set(host.id, {
        blend_id: to.id,
        next_blend_id: null,
        note: '',
        contents_known: 1,
      });
      await forgetDrift(this.parts, host.id);
      const back = `is back ${after === 'held' ? 'and held' : 'in service'} on blend ${to.number}`;
      const says = serves(entry) ? `gives blend ${to.number} to whoever signs in` : back;
      await this.note(rollout, `${host.name} ${says}`);
      await this.store.setEntry(entry, { stage: 'done', finished_ms, error: null });
      // What agents attach says nothing of how long it takes to make a host.
      if (entry.way === 'rebuild' && entry.work_ms !== null)
        await this.store.learn(rollout.pool_id, entry.work_ms, finished_ms);
    });
    // Versions and packages say where they are used.
    this.parts.journal.tell('line', 'package');
  }

  /** Tries again by itself while retries are left; then waits for a person. */
  private async failed(
    { rollout }: RolloutContext,
    entry: RolloutHostRow,
    host: HostRow,
    error: string,
  ): Promise<void> {
    const again = isTriedAgain(entry.attempts);
    const known = isSureOfContents(entry, again) ? host.contents_known : 0;
    await this.parts.db.transact(async () => {
      if (!serves(entry)) await this.move(host, 'failed');
      await this.pools.hosts.set(host.id, { note: error, contents_known: known });
      const next = again ? '; it is tried again' : '';
      await this.note(rollout, `${host.name} failed ${entry.stage}: ${error}${next}`);
      await this.store.setEntry(entry, { stage: again ? 'waiting' : 'failed', error });
    });
  }

  private async move(host: HostRow, to: HostState): Promise<void> {
    const current = await this.pools.hosts.get(host.id);
    const from = stateOf(current);
    if (from === to) return;
    const result = transition(from, to);
    if (!result.ok) throw new Error(`${host.name}: ${result.error[0]?.message ?? 'bad transition'}`);
    const standing = standingIn(to);
    await this.pools.hosts.set(host.id, standing);
    if (takesSessions(standing) !== takesSessions(current)) this.parts.journal.tell(`pool:${host.pool_id}`);
  }

  note(rollout: RolloutRow, text: string): Promise<void> {
    return this.parts.journal.note({
      at: this.parts.estate.clock.now(),
      kind: 'rollout',
      subject: `rollout:${rollout.id}`,
      text,
      link: `/rollouts/${rollout.id}`,
    });
  }
}

/** Whether people work on a host while it is changed. */
function serves({ way }: Pick<RolloutHostRow, 'way'>): boolean {
  return way === 'attach in service';
}

/**
 * Draining changes nothing on a host; everything after it does. One in service has all that is new or
 * what it had: only when its agent says nothing any more does nobody know which.
 */
function isSureOfContents(entry: RolloutHostRow, isTriedAgain: boolean): boolean {
  if (!serves(entry)) return entry.stage === 'draining';
  return entry.stage === 'attaching' || isTriedAgain;
}

function stageAfter(
  { stage, way }: Pick<RolloutHostRow, 'stage' | 'way'>,
  hasPackages: boolean,
): Exclude<HostState, 'held' | 'off' | 'suspended'> | 'done' {
  switch (stage) {
    case 'draining':
      return way === 'rebuild' ? 'rebuilding' : 'attaching';
    case 'rebuilding':
      return 'joining';
    case 'joining':
      return hasPackages ? 'attaching' : 'verifying';
    case 'attaching':
      return 'verifying';
    default:
      return 'done';
  }
}

/** Throws for a host that is no machine of the hypervisor: there is nothing to make anew. */
function machineOf({ name, machine_id }: HostRow): string {
  if (machine_id === null)
    throw new EstateError('failed', `${name} is no virtual machine; it cannot be rebuilt`);
  return machine_id;
}

function keyOf(entry: Pick<RolloutHostRow, 'rollout_id' | 'host_id' | 'attempts' | 'stage'>): string {
  return `rollout/${entry.rollout_id}/${entry.host_id}/${entry.attempts}/${entry.stage}`;
}
