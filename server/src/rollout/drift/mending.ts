/** What mends the hosts of which it was found that they drifted. */
import { sql } from 'kysely';
import type { Mending } from '@vatline/core/rollout/blends/need';
import { mendingOf, type Drift } from '@vatline/core/rollout/drift';
import type { Parts } from '../../platform/parts.ts';
import type {} from './tables.ts';

/** By host; one that is what it should be is left out. */
export async function mendings(
  { db }: Pick<Parts, 'db'>,
  hostIds: readonly string[],
): Promise<ReadonlyMap<string, Mending>> {
  const rows = await db
    .selectFrom('host_drift')
    .select(['host_id', 'kind', 'what'])
    .where('host_id', 'in', sql<string>`(select value from json_each(${JSON.stringify(hostIds)}))`)
    .execute();
  const drift = new Map<string, Drift[]>();
  for (const { host_id, ...one } of rows) drift.set(host_id, [...(drift.get(host_id) ?? []), one]);
  return new Map([...drift].map(([id, found]) => [id, mendingOf(found)]));
}

/** What mends the drifted hosts of one pool, by host; few of ten thousand are among them. */
export async function mendingsOfPool(
  { db }: Pick<Parts, 'db'>,
  poolId: string,
): Promise<ReadonlyMap<string, Mending>> {
  const hosts = await db
    .selectFrom('host_drift')
    .innerJoin('host', 'host.id', 'host_drift.host_id')
    .select('host.id')
    .distinct()
    .where('pool_id', '=', poolId)
    .execute();
  return mendings(
    { db },
    hosts.map(({ id }) => id),
  );
}

/** Forgets what was found, in a transaction of the caller's: the host has just got what it should have. */
export async function forgetDrift({ db }: Pick<Parts, 'db'>, hostId: string): Promise<void> {
  await db.deleteFrom('host_drift').where('host_id', '=', hostId).execute();
}
