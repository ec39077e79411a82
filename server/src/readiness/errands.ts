/**
 * What is done to single hosts so that their pool stays ready. An errand is a row before anything is
 * begun outside, and gone when the host stands as it should: after a kill at any point it is begun
 * again under the same key, or what came of it is read.
 */
import { afterErrand, isComing, isStillOn, type Errand } from '@vatline/core/pool/errand';
import { standingIn, type HoldableHost } from '@vatline/core/pool/service-state';
import { EstateError, type Operation } from '../estate/driver/operations.ts';
import type { Parts } from '../platform/parts.ts';
import { noteLeadTime } from '../pool/lead-times.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { HostRow, PoolRow } from '../pool/tables.ts';
import type { ErrandRow } from './tables.ts';

const PREFIX = 'ready';

/** What the rules say at the moment of hosts that are not needed, and how long people may stay. */
export interface RestRule {
  readonly restAs: 'off' | 'suspended';
  readonly drainMinutes: number;
}

export class Errands {
  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
    private readonly ruleOf: (poolId: string) => Promise<RestRule>,
  ) {}

  isOurs({ key }: Operation): boolean {
    return key.startsWith(`${PREFIX}/`);
  }

  of(poolId: string): Promise<ErrandRow[]> {
    return this.parts.db.selectFrom('host_errand').selectAll().where('pool_id', '=', poolId).execute();
  }

  /** Begins one; a host that is to be emptied takes nobody new from now on. */
  async begin(pool: PoolRow, host: HostRow, errand: Errand): Promise<void> {
    const { db, estate } = this.parts;
    const row: ErrandRow = { host_id: host.id, pool_id: pool.id, errand, begun_ms: estate.clock.now() };
    const sessions = errand === 'draining' ? await this.sessionsOn(pool, host) : 0;
    await db.transact(async () => {
      await db.insertInto('host_errand').values(row).execute();
      if (errand === 'draining') await this.pools.hosts.set(host.id, standingIn('draining'));
    });
    await this.run(pool, host, row, sessions);
  }

  /** Lets a host that is being emptied take people again. */
  async takeBack(host: HostRow, row: ErrandRow): Promise<void> {
    await this.parts.estate.operations.callOff(keyOf(row));
    await this.parts.db.transact(async () => {
      await this.drop(row);
      if (isStillOn('draining', holdable(host)))
        await this.pools.hosts.set(host.id, standingIn('in service'));
    });
  }

  /** After a stop: begins again what was not begun, and reads what has ended meanwhile. */
  async takeUp(row: ErrandRow): Promise<void> {
    const operation = await this.parts.estate.operations.get(keyOf(row));
    if (operation && operation.state !== 'running') return this.ended(operation);
    if (operation) return;
    const host = await this.pools.hosts.get(row.host_id);
    await this.run(await this.pools.pool(row.pool_id), host, row, 0);
  }

  /** Takes the host of an operation that has ended to where its errand leads. */
  async ended(operation: Operation): Promise<void> {
    const [, hostId = '', begun = ''] = operation.key.split('/');
    const row = await this.parts.db
      .selectFrom('host_errand')
      .selectAll()
      .where('host_id', '=', hostId)
      .executeTakeFirst();
    if (!row || String(row.begun_ms) !== begun || keyOf(row) !== operation.key) return;
    const host = await this.pools.hosts.get(hostId);
    const pool = await this.pools.pool(row.pool_id);
    if (operation.state === 'failed')
      await this.failed(pool, host, row, operation.error?.message ?? 'it failed');
    else await this.next(pool, host, row);
    this.parts.journal.tell(`pool:${pool.id}`, 'estate');
  }

  private async next(pool: PoolRow, host: HostRow, row: ErrandRow): Promise<void> {
    const standing = holdable(host);
    if (!isStillOn(row.errand, standing) || (await this.isInRollout(host))) return this.drop(row);
    const { restAs } = await this.ruleOf(pool.id);
    const end = afterErrand(row.errand, standing, restAs);
    if (end.then === 'goes on') {
      const after = { ...row, errand: end.errand };
      await this.parts.db.transact(async () => {
        await this.pools.hosts.set(host.id, standingIn('held'));
        await this.parts.db
          .updateTable('host_errand')
          .set({ errand: end.errand })
          .where('host_id', '=', host.id)
          .execute();
      });
      return this.run(pool, host, after, 0);
    }
    await this.parts.db.transact(async () => {
      if (row.errand === 'starting') await noteLeadTime(this.parts, pool.id, 'start', row.begun_ms);
      if (row.errand === 'resuming') await noteLeadTime(this.parts, pool.id, 'resume', row.begun_ms);
      await this.pools.hosts.set(host.id, standingIn(end.state));
      await this.drop(row);
    });
  }

  /** Begins the outside work; the same key does nothing twice. */
  private async run(pool: PoolRow, host: HostRow, row: ErrandRow, sessions: number): Promise<void> {
    const { hypervisor, activity } = this.parts.estate;
    const key = keyOf(row);
    const machine = host.machine_id ?? '';
    try {
      switch (row.errand) {
        case 'starting':
        case 'resuming':
          await hypervisor.power(key, machine, 'on');
          return;
        case 'draining': {
          const { drainMinutes } = await this.ruleOf(pool.id);
          await activity.drain(key, pool.name, host.name, sessions, drainMinutes);
          return;
        }
        case 'stopping':
          await hypervisor.power(key, machine, 'off');
          return;
        case 'suspending':
          await hypervisor.power(key, machine, 'suspend');
          return;
      }
    } catch (error) {
      if (!(error instanceof EstateError)) throw error;
      await this.failed(pool, host, row, error.message);
    }
  }

  /** One that does not come up is out of service until somebody looks; one that does not go to rest stays on. */
  private async failed(pool: PoolRow, host: HostRow, row: ErrandRow, why: string): Promise<void> {
    const { db, journal, estate } = this.parts;
    await db.transact(async () => {
      await this.drop(row);
      if (isStillOn(row.errand, holdable(host)) && !(await this.isInRollout(host))) {
        const state = isComing(row.errand) ? 'failed' : host.is_held === 1 ? 'held' : 'in service';
        await this.pools.hosts.set(host.id, { ...standingIn(state), note: why });
      }
      await journal.note({
        at: estate.clock.now(),
        kind: 'pool',
        subject: `pool:${pool.id}`,
        text: `${host.name} failed ${row.errand}: ${why}`,
        link: `/pools/${pool.id}?host=${host.name}`,
      });
    });
  }

  /** A rollout that has begun with a host switches it on and lets people in again by itself. */
  private async isInRollout({ id }: HostRow): Promise<boolean> {
    const row = await this.parts.db
      .selectFrom('rollout_host')
      .innerJoin('rollout', 'rollout.id', 'rollout_host.rollout_id')
      .select('host_id')
      .where('host_id', '=', id)
      .where('rollout.ended_ms', 'is', null)
      .where('stage', 'not in', ['waiting', 'done', 'set aside'])
      .executeTakeFirst();
    return row !== undefined;
  }

  private async drop({ host_id }: ErrandRow): Promise<void> {
    await this.parts.db.deleteFrom('host_errand').where('host_id', '=', host_id).execute();
  }

  private async sessionsOn(pool: PoolRow, host: HostRow): Promise<number> {
    const counts = await this.pools.hosts.counts(pool.id);
    return (await this.pools.hosts.sessionsOn(pool, counts, [host.name])).get(host.name) ?? 0;
  }
}

function keyOf({ host_id, begun_ms, errand }: ErrandRow): string {
  return `${PREFIX}/${host_id}/${begun_ms}/${errand}`;
}

function holdable({ service, work, power, is_held }: HostRow): HoldableHost {
  return { service, work, power, isHeld: is_held === 1 };
}
