/** Pools in the database, with their hosts and blends. */
import {
  placementRoles,
  type PlacementRole,
  type PoolPlace,
  type PoolSettings,
} from '@vatline/contract/pool/kinds';
import type { Insertable } from 'kysely';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import type { Tables } from '../platform/tables.ts';
import { notFound } from '../platform/problem.ts';
import { BlendStore } from './blends.ts';
import { HostStore } from './hosts.ts';
import type { PoolRow, SwitchRow } from './tables.ts';

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

  /** Where it stands, in the order in which places are filled. */
  async placesOf(poolId: string): Promise<PoolPlace[]> {
    return (await this.placesOfSome([poolId])).get(poolId) ?? [];
  }

  /** Where some stand, in two questions. */
  async placesOfSome(poolIds: readonly string[]): Promise<Map<string, PoolPlace[]>> {
    const places = await this.parts.db
      .selectFrom('pool_place')
      .selectAll()
      .where('pool_id', 'in', poolIds)
      .orderBy('place')
      .execute();
    const placements = await this.parts.db
      .selectFrom('pool_placement')
      .selectAll()
      .where('pool_id', 'in', poolIds)
      .execute();
    const key = (row: { pool_id: string; place: number }, role: PlacementRole) =>
      `${row.pool_id} ${row.place} ${role}`;
    const stores = new Map(placements.map((row) => [key(row, row.role), row.datastore]));
    const found = new Map<string, PoolPlace[]>(poolIds.map((id) => [id, []]));
    for (const row of places)
      found.get(row.pool_id)?.push({
        site: row.site,
        network: row.network,
        atMost: row.at_most,
        datastore: stores.get(key(row, 'disks')) ?? '',
        parentDatastore: stores.get(key(row, 'parent')) ?? null,
        dataDatastore: stores.get(key(row, 'data')) ?? null,
      });
    return found;
  }

  /** Writes a new pool down with its places, in a transaction of the caller's. */
  async add(row: Insertable<Tables['pool']>, places: readonly PoolPlace[]): Promise<void> {
    const { db } = this.parts;
    await db.insertInto('pool').values(row).execute();
    await db
      .insertInto('pool_place')
      .values(
        places.map(({ site, network, atMost }, place) => ({
          pool_id: row.id,
          place,
          site,
          network,
          at_most: atMost,
        })),
      )
      .execute();
    const placements = places.flatMap((one, place) =>
      placementRoles.flatMap((role) => {
        const datastore = datastoreFor(one, role);
        return datastore === null ? [] : [{ pool_id: row.id, place, role, datastore }];
      }),
    );
    await db.insertInto('pool_placement').values(placements).execute();
  }

  /** The switch to another streamed image that is under way. */
  switchOf(poolId: string): Promise<SwitchRow | undefined> {
    return this.parts.db
      .selectFrom('stream_switch')
      .selectAll()
      .where('pool_id', '=', poolId)
      .executeTakeFirst();
  }

  /** Empty lets another image come again. */
  async holdSource(poolId: string, reason: string): Promise<void> {
    await this.parts.db.updateTable('pool').set({ source_hold: reason }).where('id', '=', poolId).execute();
  }

  /** What the hosts of the pool are to run from now on. */
  async setBlend(poolId: string, blendId: string): Promise<void> {
    await this.parts.db.updateTable('pool').set({ blend_id: blendId }).where('id', '=', poolId).execute();
  }
}

function datastoreFor(place: PoolPlace, role: PlacementRole): string | null {
  return { disks: place.datastore, parent: place.parentDatastore, data: place.dataDatastore }[role];
}

/** What is kept of a pool besides what it is found by. */
export function settingsIn(row: PoolRow): PoolSettings {
  return fromJson<PoolSettings>(row.settings_json);
}
