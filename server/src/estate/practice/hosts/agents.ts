/** Host agents, which check every five minutes. */
import { hash32 } from '@vatline/core/random';
import { MINUTE, type Instant } from '@vatline/core/time/instant';
import { sql } from 'kysely';
import type { HeldMounts, HostAgents, Mount, WantedMount } from '../../driver/hosts.ts';
import { EstateError, type Operation } from '../../driver/operations.ts';
import { heldMounts, holdBy, mountsNow } from './holds.ts';
import { measureAttach } from './measure-attach.ts';
import type { AttachGate } from './attach-gate.ts';
import type { Streams } from '../hypervisor/streams.ts';
import type { PracticeShare } from '../share.ts';
import type { EstateDb } from '../estate-database.ts';
import type { PracticeOperations } from '../operations.ts';

const CHECK_MS = 5 * MINUTE;
/** A silent agent is given up after three checks. */
export const PATIENCE_MS = 3 * CHECK_MS;
const MOUNT_MS = 20_000;
/** An agent that is asked answers after so long. */
const ANSWER_MS = 4_000;

/** The next check of a host's agent after an instant; each host has its own second in the five minutes. */
export function nextCheckOf(host: string, after: Instant): Instant {
  const offset = (hash32(host) % 300) * 1000;
  return after - ((after - offset) % CHECK_MS) + CHECK_MS;
}

interface AttachArgument {
  readonly host: string;
  readonly mounts: readonly WantedMount[];
  /** That keep what they have; undefined where the host was drained. */
  readonly sessions?: number;
}

interface TrialArgument {
  readonly host: string;
  readonly wanted: WantedMount;
  readonly entryPoints: number;
}

export class PracticeAgents implements HostAgents {
  readonly patienceMs = PATIENCE_MS;
  readonly pace = { checkMs: CHECK_MS, mountMs: MOUNT_MS };

  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly share: PracticeShare,
    private readonly gate: AttachGate,
    private readonly streams: Streams,
  ) {
    operations.effect('attach', (a: AttachArgument) => this.endAttach(a));
    operations.effect('verify', async ({ host }: { host?: string }) => {
      if (host !== undefined) await this.needsPower(host, 'reported');
      return '';
    });
    operations.effect('run script', ({ code }: { code: number }) => Promise.resolve(String(code)));
    operations.effect('check now', () => Promise.resolve(''));
    operations.effect('trial', (a: TrialArgument) => this.endTrial(a));
  }

  async silent(): Promise<string[]> {
    return [...(await this.silentSince()).keys()];
  }

  /** Where a fault is switched on, and where nothing can be written any more. */
  private async silentSince(): Promise<Map<string, Instant>> {
    const faults = await this.db
      .selectFrom('fault')
      .select(['target', 'since_ms'])
      .where('kind', '=', 'agent silent')
      .execute();
    return new Map([
      ...(await this.streams.stuckSince()),
      ...faults.map(({ target, since_ms }): [string, Instant] => [target, since_ms]),
    ]);
  }

  /** An agent reports at each check while its machine is on and it is not silent. */
  async lastReports(hosts: readonly string[]): Promise<Map<string, Instant | null>> {
    const now = this.operations.now();
    const silent = await this.silentSince();
    const machines = await this.db
      .selectFrom('machine')
      .select(['name', 'power', 'power_since_ms'])
      .where('name', 'in', sql<string>`(select value from json_each(${JSON.stringify(hosts)}))`)
      .execute();
    const byName = new Map(machines.map((machine) => [machine.name, machine]));
    return new Map(
      hosts.map((host) => {
        const machine = byName.get(host);
        const until = Math.min(
          now,
          silent.get(host) ?? now,
          machine && machine.power !== 'on' ? machine.power_since_ms : now,
        );
        const last = nextCheckOf(host, until) - CHECK_MS;
        // Before it was switched on it reported nothing, as far as anybody remembers.
        return [host, machine?.power === 'on' && last < machine.power_since_ms ? null : last];
      }),
    );
  }

  async reporting(): Promise<number> {
    const { n } = await this.db
      .selectFrom('registration')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .executeTakeFirstOrThrow();
    return n - (await this.silent()).length;
  }

  async nextCheck(): Promise<Instant | null> {
    const now = this.operations.now();
    const rows = await this.db.selectFrom('registration').select('host').limit(500).execute();
    return rows.length === 0 ? null : Math.min(...rows.map((row) => nextCheckOf(row.host, now)));
  }

  async attach(key: string, host: string, mounts: readonly WantedMount[]): Promise<Operation> {
    return this.atCheck(key, 'attach', host, MOUNT_MS * mounts.length, { host, mounts });
  }

  async attachInService(
    key: string,
    host: string,
    mounts: readonly WantedMount[],
    sessions: number,
  ): Promise<Operation> {
    const argument: AttachArgument = { host, mounts, sessions };
    return this.atCheck(key, 'attach', host, MOUNT_MS * mounts.length, argument);
  }

  held(hosts?: readonly string[]): Promise<HeldMounts[]> {
    return heldMounts(this.db, this.operations.now(), hosts);
  }

  /** Practice hosts run nothing of a script but its last `exit N`. */
  async runScript(key: string, host: string, script: string): Promise<Operation> {
    const code = Number([...script.matchAll(/^\s*exit\s+(\d+)\s*$/gim)].at(-1)?.[1] ?? 0);
    const failure = code === 0 ? undefined : `the script on ${host} ended with exit ${code}`;
    return this.atCheck(key, 'run script', host, 0, { code }, failure);
  }

  async verify(key: string, host: string): Promise<Operation> {
    return this.atCheck(key, 'verify', host, 0, { host });
  }

  nextChecks(hosts: readonly string[]): Promise<Map<string, Instant>> {
    const now = this.operations.now();
    return Promise.resolve(new Map(hosts.map((host) => [host, nextCheckOf(host, now)])));
  }

  async mountsOn(hosts: readonly string[]): Promise<Map<string, Mount[]>> {
    const found = new Map<string, Mount[]>();
    for (const { host, ...mount } of await mountsNow(this.db, this.operations.now(), hosts)) {
      const own = found.get(host);
      if (own) own.push(mount);
      else found.set(host, [mount]);
    }
    return found;
  }

  /** What waited for the host's next check is looked at when it answers. */
  async checkNow(key: string, host: string): Promise<Operation> {
    const operation = await this.atOnce(key, 'check now', host, {});
    if (operation.error === null)
      await this.operations.bringForward(['attach', 'verify', 'run script'], host, ANSWER_MS);
    return operation;
  }

  async trial(key: string, host: string, wanted: WantedMount, entryPoints: number): Promise<Operation> {
    return this.atOnce(key, 'trial', host, { host, wanted, entryPoints } satisfies TrialArgument);
  }

  /** What every host of a fresh demo has mounted. */
  async seedMounts(host: string, mounts: readonly WantedMount[], since: Instant): Promise<void> {
    const rows = mounts.map((mount) => ({ host, ...mount, since_ms: since }));
    if (rows.length > 0) await this.db.insertInto('mount').values(rows).execute();
  }

  private async endAttach({ host, mounts, sessions }: AttachArgument): Promise<string> {
    const now = this.operations.now();
    await this.needsPower(host, 'looked');
    const there = (await this.mountsOn([host])).get(host) ?? [];
    const known = new Set(there.map((mount) => mount.digest));
    // All are looked at before any is mounted: a host has its whole blend or what it had.
    for (const mount of mounts) if (!known.has(mount.digest)) await this.gate.check(host, mount, now);
    await this.letGo(there, { host, mounts, ...(sessions !== undefined && { sessions }) });
    // What stays keeps the time since which it is there, and is given to new sessions again.
    for (const mount of mounts)
      await this.db
        .insertInto('mount')
        .values({ host, ...mount, since_ms: now })
        .onConflict((c) => c.columns(['host', 'digest']).doUpdateSet({ share: mount.share, held_json: null }))
        .execute();
    return '';
  }

  /** What is not wanted any more goes, or stays with the sessions that hold it. */
  private async letGo(there: readonly Mount[], { host, mounts, sessions }: AttachArgument): Promise<void> {
    const now = this.operations.now();
    const wanted = new Set(mounts.map((mount) => mount.digest));
    // What those of an earlier change hold, they go on holding, unless the host was drained.
    const stays = sessions === undefined ? [] : there.filter(({ heldBy }) => heldBy !== null);
    const kept = new Set([...wanted, ...stays.map(({ digest }) => digest)]);
    const hold = holdBy(sessions ?? 0, now, `${host} ${now}`);
    const { db } = this;
    for (const { digest } of there.filter((mount) => !kept.has(mount.digest))) {
      if (hold)
        await db
          .updateTable('mount')
          .set({ held_json: JSON.stringify(hold) })
          .where('host', '=', host)
          .where('digest', '=', digest)
          .execute();
      else await db.deleteFrom('mount').where('host', '=', host).where('digest', '=', digest).execute();
    }
  }

  private async needsPower(host: string, what: 'looked' | 'reported'): Promise<void> {
    const machine = await this.db
      .selectFrom('machine')
      .select('power')
      .where('name', '=', host)
      .executeTakeFirst();
    if (machine && machine.power !== 'on')
      throw new EstateError('failed', `${host} was switched off before its agent ${what}`);
  }

  private async endTrial(a: TrialArgument): Promise<string> {
    await this.gate.check(a.host, a.wanted, this.operations.now());
    const latency = await this.share.latencyMs(a.wanted.share);
    const path = await this.share.pathForHosts(a.wanted.share, a.wanted.digest);
    return JSON.stringify(await measureAttach(path, latency, a.entryPoints));
  }

  private async atOnce(
    key: string,
    call: 'check now' | 'trial',
    host: string,
    argument: object,
  ): Promise<Operation> {
    const isSilent = (await this.silent()).includes(host);
    const fails = isSilent
      ? { kind: 'timeout' as const, message: `the agent on ${host} does not answer` }
      : undefined;
    const readyAt = this.operations.now() + (isSilent ? PATIENCE_MS : ANSWER_MS);
    return this.operations.begin({ key, call, subject: host, readyAt, effect: call, argument, fails });
  }

  private async atCheck(
    key: string,
    call: 'attach' | 'verify' | 'run script',
    host: string,
    more: number,
    argument: object,
    /** Why it is known to fail. */
    failure?: string,
  ): Promise<Operation> {
    const now = this.operations.now();
    const isSilent = (await this.silent()).includes(host);
    const fails = isSilent
      ? { kind: 'timeout' as const, message: `the agent on ${host} has been silent for 15 minutes` }
      : failure === undefined
        ? undefined
        : { kind: 'failed' as const, message: failure };
    const readyAt = isSilent ? now + PATIENCE_MS : nextCheckOf(host, now) + more;
    return this.operations.begin({ key, call, subject: host, readyAt, effect: call, argument, fails });
  }
}
