/** What needs a package version, in words: its container may not be deleted while anything does. */
import type { HeldMounts } from '../estate/driver/hosts.ts';
import type { Db } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';

/** Reasons by version id. The blend before a pool's current one counts: going back must stay quick. */
export async function packageUse({
  db,
  estate,
}: Pick<Parts, 'db' | 'estate'>): Promise<Map<string, string[]>> {
  const packages = await packagesByBlend(db);
  const reasons = new Map<string, string[]>();
  const addTo = (id: string, reason: string) => {
    const list = reasons.get(id) ?? [];
    if (!list.includes(reason)) list.push(reason);
    reasons.set(id, list);
  };
  const add = (blend: string, reason: string) => {
    for (const id of packages.get(blend) ?? []) addTo(id, reason);
  };
  for (const { blend, pool, hosts } of await runningBlends(db))
    add(blend, `${pool} attaches it on ${hosts} ${hosts === 1 ? 'host' : 'hosts'}`);
  for (const { blend, pool } of await comingBlends(db)) add(blend, `a rollout takes ${pool} to it`);
  for (const { blend, pool } of await earlierBlends(db)) add(blend, `${pool} goes back to it`);
  for (const { id, hosts } of await heldVersions(db, await estate.agents.held()))
    addTo(id, `sessions on ${hosts} ${hosts === 1 ? 'host' : 'hosts'} still hold it`);
  return reasons;
}

/** Versions that no new session gets, and that sessions from before have open. */
async function heldVersions(db: Db, held: readonly HeldMounts[]): Promise<{ id: string; hosts: number }[]> {
  if (held.length === 0) return [];
  const hosts = new Map<string, number>();
  for (const { digest } of held) hosts.set(digest, (hosts.get(digest) ?? 0) + 1);
  const rows = await db
    .selectFrom('package_version')
    .select(['id', 'digest'])
    .where('digest', 'in', [...hosts.keys()])
    .execute();
  return rows.map(({ id, digest }) => ({ id, hosts: hosts.get(digest) ?? 0 }));
}

async function packagesByBlend(db: Db): Promise<Map<string, string[]>> {
  const rows = await db.selectFrom('blend_package').select(['blend_id', 'package_version_id']).execute();
  const found = new Map<string, string[]>();
  for (const { blend_id, package_version_id } of rows)
    found.set(blend_id, [...(found.get(blend_id) ?? []), package_version_id]);
  return found;
}

function runningBlends(db: Db) {
  return (
    db
      // Counted first, so that ten thousand hosts are looked at in their index and not joined.
      .selectFrom((eb) =>
        eb
          .selectFrom('host')
          .select(({ fn }) => ['blend_id', fn.countAll<number>().as('hosts')])
          .groupBy('blend_id')
          .as('counted'),
      )
      .innerJoin('blend', 'blend.id', 'counted.blend_id')
      .innerJoin('pool', 'pool.id', 'blend.pool_id')
      .select(['blend.id as blend', 'pool.name as pool', 'counted.hosts'])
      .execute()
  );
}

function comingBlends(db: Db) {
  return db
    .selectFrom('rollout')
    .innerJoin('blend', 'blend.id', 'rollout.to_blend_id')
    .innerJoin('pool', 'pool.id', 'rollout.pool_id')
    .select(['blend.id as blend', 'pool.name as pool'])
    .where('rollout.ended_ms', 'is', null)
    .execute();
}

/** Of each pool the newest blend before its current one. */
async function earlierBlends(db: Db): Promise<{ blend: string; pool: string }[]> {
  const rows = await db
    .selectFrom('pool')
    .innerJoin('blend as current', 'current.id', 'pool.blend_id')
    .innerJoin('blend as earlier', (join) =>
      join.onRef('earlier.pool_id', '=', 'pool.id').onRef('earlier.number', '<', 'current.number'),
    )
    .select(['earlier.id as blend', 'pool.name as pool', 'earlier.number'])
    .orderBy('earlier.number')
    .execute();
  return [...new Map(rows.map((row) => [row.pool, row])).values()];
}
