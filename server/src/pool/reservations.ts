/** Names and room of hosts that are being made: taken when a creation is accepted, given back as hosts appear. */
import type { SiteReport } from '../estate/driver/sites.ts';
import { fromJson, type Db } from '../platform/database.ts';
import { conflict } from '../platform/problem.ts';
import type { ReservedRow } from './tables.ts';

export type Reserved = Omit<ReservedRow, 'pool_id'>;

/** All reservations, in every pool. */
export function allReserved(db: Db): Promise<Reserved[]> {
  return db.selectFrom('host_reserved').selectAll().execute();
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

/** Sites as full as they will be once everything is made that was accepted; what is made counts already. */
export function withReserved(
  sites: readonly SiteReport[],
  reserved: readonly Reserved[],
  made: ReadonlySet<string>,
): SiteReport[] {
  const ahead = reserved.filter((one) => !made.has(one.name));
  return sites.map((site) => {
    const here = ahead.filter((one) => one.site === site.name);
    if (here.length === 0) return site;
    const sum = (of: (one: Reserved) => number) => here.reduce((total, one) => total + of(one), 0);
    const bytes = new Map<string, number>();
    for (const one of here)
      for (const [datastore, size] of fromJson<[string, number][]>(one.bytes_json))
        bytes.set(datastore, (bytes.get(datastore) ?? 0) + size);
    return {
      ...site,
      cores: more(
        site.cores,
        sum((one) => one.cores),
      ),
      memoryBytes: more(
        site.memoryBytes,
        sum((one) => one.memory_bytes),
      ),
      graphics: more(
        site.graphics,
        sum((one) => one.graphics),
      ),
      networks: site.networks.map((network) => ({
        ...network,
        addresses: more(
          network.addresses,
          sum((one) => (one.network === network.name ? 1 : 0)),
        ),
      })),
      datastores: site.datastores.map((store) => ({
        ...store,
        usedBytes: store.usedBytes + (bytes.get(store.name) ?? 0),
      })),
    };
  });
}

function more<A extends { readonly total: number; readonly used: number }>(amount: A, by: number): A {
  return { ...amount, used: amount.used + by };
}
