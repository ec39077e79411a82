/** Pools in the database, with their hosts and blends. */
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { BlendStore } from './blends.ts';
import { HostStore } from './hosts.ts';
import type { PlacementRow, PoolRow } from './tables.ts';

export class PoolStore {
  readonly hosts: HostStore;
  readonly blends: BlendStore;

  constructor(private readonly parts: Pick<Parts, 'db' | 'estate'>) {
    this.hosts = new HostStore(parts);
    this.blends = new BlendStore(parts);
  }

  async pool(id: string): Promise<PoolRow> {
    const row = await this.parts.db.selectFrom('pool').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such pool');
    return row;
  }

  /** All pools, the oldest first. */
  all(): Promise<PoolRow[]> {
    return this.parts.db.selectFrom('pool').selectAll().orderBy('created_ms').orderBy('name').execute();
  }

  /** Where what it is made of stands. */
  placementsOf(poolId: string): Promise<Omit<PlacementRow, 'pool_id'>[]> {
    return this.parts.db
      .selectFrom('pool_placement')
      .select(['role', 'site', 'datastore'])
      .where('pool_id', '=', poolId)
      .execute();
  }

  /** Writes a new pool down with its place, in a transaction of the caller's. */
  async add(row: PoolRow, disks: { readonly site: string; readonly datastore: string }): Promise<void> {
    const { db } = this.parts;
    await db.insertInto('pool').values(row).execute();
    await db
      .insertInto('pool_placement')
      .values({ pool_id: row.id, role: 'disks', ...disks })
      .execute();
  }

  /** What the hosts of the pool are to run from now on. */
  async setBlend(poolId: string, blendId: string): Promise<void> {
    await this.parts.db.updateTable('pool').set({ blend_id: blendId }).where('id', '=', poolId).execute();
  }
}
