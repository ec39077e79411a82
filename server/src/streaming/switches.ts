/**
 * Takes all hosts of a streamed pool to another image at their next start. That it is to be is written
 * down before any store is told; then it is looked each minute who has started with it, until all have.
 */
import { sql } from 'kysely';
import { sourceRefusal } from '@vatline/core/pool/source-hold';
import { switchFaults } from '@vatline/core/pool/streaming';
import { takesSessions } from '@vatline/core/pool/service-state';
import { MINUTE } from '@vatline/core/time/instant';
import { EstateError } from '../estate/driver/operations.ts';
import type { StreamingStoreReport } from '../estate/driver/streaming.ts';
import { actingAs } from '../platform/acting.ts';
import { OneAtATime } from '../platform/one-at-a-time.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { hasAgent } from '../pool/agent-in-image.ts';
import { roomFor } from '../pool/choices.ts';
import { beginAction } from '../pool/host-actions.ts';
import { settingsIn, type PoolStore } from '../pool/pools.ts';
import type { BlendRow, HostRow, PoolRow, SwitchRow } from '../pool/tables.ts';
import { imageOfBlend, versionFacts, type VersionFacts } from './versions.ts';

export class Switches {
  /** One at a time: what one writes the next one reads. */
  private readonly turns = new OneAtATime();

  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
  ) {}

  /** Throws a refusal with everything that stands in the way. Gives the hosts that wait for their next start. */
  begin(poolId: string, versionId: string): Promise<number> {
    return this.inTurn(() => this.accept(poolId, versionId));
  }

  /** Restarts those that wait and that nobody is on, as a job. */
  async restartIdle(poolId: string): Promise<{ jobId: string; hosts: number }> {
    const pool = await this.pools.pool(poolId);
    const row = await this.pools.switchOf(poolId);
    const waiting = row ? await this.idle(pool, await this.waitingFor(row)) : [];
    if (waiting.length === 0)
      throw conflict(`no host of ${pool.name} waits for another image with nobody on it`);
    const hosts = waiting.map((host) => host.name);
    const { jobId } = await beginAction(this.parts, this.pools, pool, {
      action: 'restart',
      hosts,
      text: '',
      limitMinutes: 1,
      losesData: false,
    });
    return { jobId: jobId ?? '', hosts: hosts.length };
  }

  /** After a start: the next look tells the stores again, where a stop came before they were told. */
  async resume(): Promise<void> {
    for (const { pool_id } of await this.parts.db.selectFrom('stream_switch').select('pool_id').execute())
      this.arm(pool_id);
  }

  /** What stands in the way of each version. */
  async faultsFor(pool: PoolRow, versions: readonly VersionFacts[]): Promise<Map<string, string>> {
    const common = await this.surroundings(pool);
    const found = new Map<string, string>();
    for (const version of versions) {
      const [first] = await this.faults(pool, version, common);
      found.set(version.id, first?.message ?? '');
    }
    return found;
  }

  /** Those on which nobody has a session. */
  async idle(pool: PoolRow, hosts: readonly HostRow[]): Promise<HostRow[]> {
    const on = hosts.filter((host) => host.power === 'on' && host.work === 'none');
    const names = on.filter(takesSessions).map((host) => host.name);
    const counts = await this.pools.hosts.counts(pool.id);
    const sessions = await this.pools.hosts.sessionsOn(pool, counts, names);
    return on.filter((host) => (sessions.get(host.name) ?? 0) === 0);
  }

  /** Hosts that have not started with it yet. */
  waitingFor({ pool_id, to_blend_id }: SwitchRow): Promise<HostRow[]> {
    return this.parts.db
      .selectFrom('host')
      .selectAll()
      .where('pool_id', '=', pool_id)
      .where('next_blend_id', '=', to_blend_id)
      .orderBy('name')
      .execute();
  }

  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    return this.turns.run(work);
  }

  private async accept(poolId: string, versionId: string): Promise<number> {
    const { db, estate, journal } = this.parts;
    const pool = await this.pools.pool(poolId);
    const version = await versionFacts(db, versionId);
    if (!version) throw invalid([{ path: 'imageVersionId', message: 'there is no such image version' }]);
    const faults = await this.faults(pool, version, await this.surroundings(pool));
    if (faults.length > 0) throw invalid([...faults]);
    const before = await this.pools.switchOf(poolId);
    const at = estate.clock.now();
    const row = await db.transact(async () => {
      // A rollout may have been started since it was looked.
      if (await this.hasOpenRollout(poolId))
        throw conflict(`a rollout of ${pool.name} is under way`, 'imageVersionId');
      const blend = await this.blendWith(pool, versionId, at);
      const switched: SwitchRow = { pool_id: poolId, to_blend_id: blend.id, begun_ms: at };
      await this.write(switched);
      await journal.note({
        at,
        kind: 'pool',
        subject: `pool:${poolId}`,
        text: `the hosts of ${pool.name} are to stream version ${version.number} from their next start on`,
        link: '/pools/streaming',
      });
      return switched;
    });
    try {
      await this.tellStores(row);
    } catch (error) {
      if (!(error instanceof EstateError)) throw error;
      await this.takeBack(pool, before, error.message);
      throw conflict(error.message, 'imageVersionId');
    }
    this.arm(poolId);
    await this.settle(poolId);
    return (await this.waitingFor(row)).length;
  }

  /** The pool's own packages with the image; an earlier blend that is just that is taken again. */
  private async blendWith(pool: PoolRow, imageVersionId: string, at: number): Promise<BlendRow> {
    const { blends } = this.pools;
    const packageVersionIds = pool.blend_id === null ? [] : await blends.packageIdsOf(pool.blend_id);
    const [same] = await blends.sameAs(pool.id, { imageVersionId, packageVersionIds });
    return same ?? (await blends.add(pool.id, imageVersionId, packageVersionIds, at));
  }

  private async write({ pool_id, to_blend_id, begun_ms }: SwitchRow): Promise<void> {
    const { db } = this.parts;
    await db
      .insertInto('stream_switch')
      .values({ pool_id, to_blend_id, begun_ms })
      .onConflict((c) => c.column('pool_id').doUpdateSet({ to_blend_id, begun_ms }))
      .execute();
    await db
      .updateTable('host')
      .set({ next_blend_id: sql<string | null>`iif(blend_id = ${to_blend_id}, null, ${to_blend_id})` })
      .where('pool_id', '=', pool_id)
      .execute();
  }

  private async takeBack(pool: PoolRow, before: SwitchRow | undefined, why: string): Promise<void> {
    const { db, journal, estate } = this.parts;
    await db.transact(async () => {
      if (before) await this.write(before);
      else await this.end(pool.id);
      await journal.note({
        at: estate.clock.now(),
        kind: 'pool',
        subject: `pool:${pool.id}`,
        text: `the hosts of ${pool.name} stream what they did: ${why}`,
        link: '/pools/streaming',
      });
    });
  }

  private async end(poolId: string): Promise<void> {
    const { db } = this.parts;
    await db.updateTable('host').set({ next_blend_id: null }).where('pool_id', '=', poolId).execute();
    await db.deleteFrom('stream_switch').where('pool_id', '=', poolId).execute();
  }

  private async tellStores({ pool_id, to_blend_id, begun_ms }: SwitchRow): Promise<void> {
    const { db, estate } = this.parts;
    const names = (await this.pools.hosts.of(pool_id)).map((host) => host.name);
    const image = await imageOfBlend(db, to_blend_id);
    await estate.streaming.assign(`switch/${pool_id}/${begun_ms}`, names, image);
  }

  private async tellAgain(row: SwitchRow): Promise<void> {
    try {
      await this.tellStores(row);
    } catch (error) {
      if (!(error instanceof EstateError)) throw error;
      this.parts.log.warn(`stores cannot be told of a switch yet: ${error.message}`);
    }
  }

  private arm(poolId: string): void {
    const { clock } = this.parts.estate;
    const look = () =>
      actingAs(undefined, () =>
        this.inTurn(async () => {
          if (await this.settle(poolId)) this.arm(poolId);
        }),
      );
    clock.wakeAt(clock.now() + MINUTE, `switch ${poolId}`, look, 'routine');
  }

  /** Notes who has started with it. With the last one the pool is on it, and it is over; gives whether it goes on. */
  private async settle(poolId: string): Promise<boolean> {
    const { db, estate, journal } = this.parts;
    const row = await this.pools.switchOf(poolId);
    if (!row) return false;
    const waiting = await this.waitingFor(row);
    const image = await imageOfBlend(db, row.to_blend_id);
    const streams = await estate.streaming.of(waiting.map((host) => host.name));
    // Where a stop came before the stores were told, or they did not answer then, they are told again.
    if (waiting.some((host) => streams.get(host.name)?.next !== image)) await this.tellAgain(row);
    const started = waiting.filter((host) => streams.get(host.name)?.now === image);
    if (started.length === 0 && waiting.length > 0) return true;
    const ids = JSON.stringify(started.map((host) => host.id));
    const isOver = started.length === waiting.length;
    await db.transact(async () => {
      await db
        .updateTable('host')
        .set({ blend_id: row.to_blend_id, next_blend_id: null })
        .where('id', 'in', sql<string>`(select value from json_each(${ids}))`)
        .execute();
      if (isOver) await this.finish(row);
    });
    journal.tell(`pool:${poolId}`, 'pool', 'line', 'estate');
    return !isOver;
  }

  private async finish({ pool_id, to_blend_id }: SwitchRow): Promise<void> {
    const pool = await this.pools.pool(pool_id);
    const { number } = await this.pools.blends.get(to_blend_id);
    await this.pools.setBlend(pool_id, to_blend_id);
    await this.end(pool_id);
    await this.parts.journal.note({
      at: this.parts.estate.clock.now(),
      kind: 'pool',
      subject: `pool:${pool_id}`,
      text: `all hosts of ${pool.name} have started with blend ${number}`,
      link: '/pools/streaming',
    });
  }

  private async hasOpenRollout(poolId: string): Promise<boolean> {
    const open = await this.parts.db
      .selectFrom('rollout')
      .select('id')
      .where('pool_id', '=', poolId)
      .where('ended_ms', 'is', null)
      .executeTakeFirst();
    return open !== undefined;
  }

  private async surroundings(pool: PoolRow): Promise<Surroundings> {
    const stores = await this.parts.estate.streaming.stores();
    const { hosts } = await this.pools.hosts.counts(pool.id);
    return {
      hasOpenRollout: await this.hasOpenRollout(pool.id),
      store: stores.find((one) => one.name === settingsIn(pool).store),
      hosts,
      versionId:
        pool.blend_id === null ? null : (await this.pools.blends.get(pool.blend_id)).image_version_id,
    };
  }

  private async faults(pool: PoolRow, version: VersionFacts, around: Surroundings) {
    const { store, hosts, hasOpenRollout } = around;
    return switchFaults({
      pool: pool.name,
      isStreamed: pool.clone === 'network',
      hosts,
      hasOpenRollout,
      held: sourceRefusal(
        { pool: pool.name, hold: pool.source_hold, versionId: around.versionId },
        version.id,
      ),
      isOfLine: version.line_id === pool.line_id,
      isAsked: hosts > 0 && (await this.hostsElsewhere(pool, version.id)) === 0,
      image: {
        number: version.number,
        state: version.state,
        isGone: version.gone_ms !== null,
        hasAgent: await hasAgent(this.parts.db, version),
      },
      store: store ? roomFor(version, store) : null,
    });
  }

  /** Hosts that will run something else after their next start. */
  private async hostsElsewhere(pool: PoolRow, versionId: string): Promise<number> {
    const { n } = await this.parts.db
      .selectFrom('host')
      .innerJoin('blend', (join) =>
        join.on('blend.id', '=', sql<string>`coalesce(host.next_blend_id, host.blend_id)`),
      )
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('host.pool_id', '=', pool.id)
      .where('image_version_id', '!=', versionId)
      .executeTakeFirstOrThrow();
    return n;
  }
}

interface Surroundings {
  readonly hasOpenRollout: boolean;
  readonly store: StreamingStoreReport | undefined;
  readonly hosts: number;
  /** What the pool runs. */
  readonly versionId: string | null;
}
