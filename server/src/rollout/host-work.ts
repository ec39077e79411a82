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
import { needsRebuild } from '@vatline/core/rollout/needs-rebuild';
import { type Operation, EstateError } from '../estate/driver/operations.ts';
import type { Parts } from '../platform/parts.ts';
import { Refusal } from '../platform/problem.ts';
import { mountsFor } from '../pool/mounts.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { BlendRow, HostRow } from '../pool/tables.ts';
import type { RolloutStore } from './store.ts';
import { type RolloutContext } from './store.ts';
import type { RolloutHostRow, RolloutRow } from './tables.ts';

/** Whether an operation that ended was begun by a rollout. */
export function isOfRollout(operation: Operation): boolean {
  return operation.key.startsWith('rollout/');
}

export class HostWork {
  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
    private readonly store: RolloutStore,
  ) {}

  /** Takes a host out of service and begins its first stage. */
  async start(
    context: RolloutContext,
    entry: RolloutHostRow,
    host: HostRow,
    sessions: number,
  ): Promise<void> {
    const now = this.parts.estate.clock.now();
    const attempts = entry.attempts + 1;
    await this.parts.db.transact(async () => {
      await this.move(host, 'draining');
      await this.store.setEntry(entry, {
        stage: 'draining',
        attempts,
        started_ms: entry.started_ms ?? now,
        work_ms: null,
        error: null,
      });
      const left = sessions > 0 ? `, ${sessions} sessions left` : '';
      await this.note(context.rollout, `${host.name} drains${left}`);
    });
    await this.begin(context, { ...entry, attempts, stage: 'draining' }, host, sessions);
  }

  /** Begins the outside operation of the stage an entry is in; the same key does nothing twice. */
  private async begin(
    context: RolloutContext,
    entry: RolloutHostRow,
    host: HostRow,
    sessions = 0,
  ): Promise<void> {
    const { pool, request, to } = context;
    const { hypervisor, directory, agents, activity } = this.parts.estate;
    const key = keyOf(entry);
    const packages = request.packageVersionIds;
    try {
      switch (entry.stage) {
        case 'draining':
          await this.switchOn(key, host);
          await activity.drain(key, pool.name, host.name, sessions, request.drainLimitMinutes);
          return;
        case 'rebuilding':
          await hypervisor.rebuild(key, machineOf(host), await this.imageOf(to));
          return;
        case 'joining':
          await directory.join(key, host.name);
          return;
        case 'attaching':
          await agents.attach(key, host.name, await mountsFor(this.parts, packages, pool.name));
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
    await this.begin(context, entry, host, await this.sessionsLeft(context, host));
  }

  /** People who are on a host that was to be drained when the server ended. */
  private async sessionsLeft({ pool }: RolloutContext, host: HostRow): Promise<number> {
    if (host.service !== 'draining') return 0;
    const counts = await this.pools.hosts.counts(pool.id);
    // Taking sessions until a moment ago, it had its share of them.
    const taking = { ...counts, taking: counts.taking + 1 };
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

  private async nextStage(context: RolloutContext, entry: RolloutHostRow, host: HostRow): Promise<void> {
    const now = this.parts.estate.clock.now();
    const stage = await this.stageAfter(context, entry, host);
    if (stage === 'done') return this.done(context, entry, host);
    const work_ms = entry.stage === 'draining' ? now : entry.work_ms;
    await this.parts.db.transact(async () => {
      await this.move(host, stage);
      await this.store.setEntry(entry, { stage, work_ms });
    });
    await this.begin(context, { ...entry, stage, work_ms }, host);
  }

  private async stageAfter(
    { rollout, to, request }: RolloutContext,
    entry: RolloutHostRow,
    host: HostRow,
  ): Promise<Exclude<HostState, 'held' | 'off' | 'suspended'> | 'done'> {
    const packages = request.packageVersionIds.length > 0;
    switch (entry.stage) {
      case 'draining': {
        if (rollout.is_remake === 1) return 'rebuilding';
        const current = await this.parts.db
          .selectFrom('blend')
          .select('image_version_id')
          .where('id', '=', host.blend_id)
          .executeTakeFirst();
        const contents = {
          imageVersionId: current?.image_version_id ?? '',
          isKnown: host.contents_known === 1,
        };
        return needsRebuild(contents, to.image_version_id) ? 'rebuilding' : 'attaching';
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

  private async done({ rollout, to }: RolloutContext, entry: RolloutHostRow, host: HostRow): Promise<void> {
    const finished_ms = this.parts.estate.clock.now();
    await this.parts.db.transact(async () => {
      const after = stateAfterWork({ isHeld: host.is_held === 1 });
      await this.move(host, after);
      await this.pools.hosts.set(host.id, {
        blend_id: to.id,
        next_blend_id: null,
        note: '',
        contents_known: 1,
      });
      await this.note(
        rollout,
        `${host.name} is back ${after === 'held' ? 'and held' : 'in service'} on blend ${to.number}`,
      );
      await this.store.setEntry(entry, { stage: 'done', finished_ms, error: null });
      if (entry.work_ms !== null) await this.store.learn(rollout.pool_id, entry.work_ms, finished_ms);
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
    // Draining changes nothing on a host; everything after it does.
    const known = entry.stage === 'draining' ? host.contents_known : 0;
    await this.parts.db.transact(async () => {
      await this.move(host, 'failed');
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

/** Throws for a host that is no machine of the hypervisor: there is nothing to make anew. */
function machineOf({ name, machine_id }: HostRow): string {
  if (machine_id === null)
    throw new EstateError('failed', `${name} is no virtual machine; it cannot be rebuilt`);
  return machine_id;
}

function keyOf(entry: Pick<RolloutHostRow, 'rollout_id' | 'host_id' | 'attempts' | 'stage'>): string {
  return `rollout/${entry.rollout_id}/${entry.host_id}/${entry.attempts}/${entry.stage}`;
}
