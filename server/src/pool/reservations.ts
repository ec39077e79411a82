/** Names and room of hosts that are being made: taken when a creation is accepted, given back as hosts appear. */
import type { Db } from '../platform/database.ts';
import { conflict } from '../platform/problem.ts';

export interface Reserved {
  readonly name: string;
  readonly site: string;
  readonly datastore: string;
  readonly cores: number;
  readonly bytes: number;
}

/** All reservations, in every pool. */
export function allReserved(db: Db): Promise<Reserved[]> {
  return db.selectFrom('host_reserved').select(['name', 'site', 'datastore', 'cores', 'bytes']).execute();
}

/** SQLite takes about 32,000 values in a statement. */
const ROWS_AT_ONCE = 1000;

/** Reserves, in a transaction of the caller's. Throws a conflict when another creation has one of the names. */
export async function reserve(db: Db, poolId: string, hosts: readonly Reserved[]): Promise<void> {
  for (let i = 0; i < hosts.length; i += ROWS_AT_ONCE) {
    const some = hosts.slice(i, i + ROWS_AT_ONCE);
    const names = some.map((host) => host.name);
    const taken =
      (await db.selectFrom('host_reserved').select('name').where('name', 'in', names).executeTakeFirst()) ??
      (await db.selectFrom('host').select('name').where('name', 'in', names).executeTakeFirst());
    if (taken) throw conflict(`${taken.name} is being made for another pool already`, 'pattern');
    await db
      .insertInto('host_reserved')
      .values(some.map((host) => ({ ...host, pool_id: poolId })))
      .execute();
  }
}
