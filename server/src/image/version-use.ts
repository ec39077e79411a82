/** What needs an image version, in words: nothing of it may be deleted while anything does. */
import type { Db } from '../platform/database.ts';
import { hostsByBlend } from '../pool/hosts.ts';

/** Reasons by version id. A pool's earlier blend counts: going back must stay a matter of minutes. */
export async function versionUse(db: Db): Promise<Map<string, string[]>> {
  const reasons = new Map<string, string[]>();
  const add = (versionId: string, reason: string) => {
    const list = reasons.get(versionId) ?? [];
    if (!list.includes(reason)) list.push(reason);
    reasons.set(versionId, list);
  };
  for (const { versionId, pool, hosts } of await hostUse(db))
    add(versionId, `${pool} runs it on ${hosts} ${hosts === 1 ? 'host' : 'hosts'}`);
  for (const { versionId, pool } of await openRollouts(db)) add(versionId, `a rollout takes ${pool} to it`);
  for (const { versionId, pool } of await openSwitches(db)) add(versionId, `${pool} is switched to it`);
  for (const { versionId, pool } of await waitingRings(db))
    add(versionId, `${pool} is a ring that waits for it`);
  for (const { versionId, pool } of await waysBack(db)) add(versionId, `${pool} goes back to it`);
  return reasons;
}

/** Versions that hosts run, with how many of each pool. */
export function hostUse(db: Db): Promise<{ versionId: string; pool: string; hosts: number }[]> {
  return db
    .selectFrom(hostsByBlend(db))
    .innerJoin('blend', 'blend.id', 'counted.blend_id')
    .innerJoin('pool', 'pool.id', 'blend.pool_id')
    .select(({ fn }) => [
      'blend.image_version_id as versionId',
      'pool.name as pool',
      fn.sum<number>('counted.hosts').as('hosts'),
    ])
    .groupBy(['blend.image_version_id', 'pool.name'])
    .execute();
}

function openRollouts(db: Db) {
  return db
    .selectFrom('rollout')
    .innerJoin('blend', 'blend.id', 'rollout.to_blend_id')
    .innerJoin('pool', 'pool.id', 'rollout.pool_id')
    .select(['blend.image_version_id as versionId', 'pool.name as pool'])
    .where('rollout.ended_ms', 'is', null)
    .execute();
}

function openSwitches(db: Db) {
  return db
    .selectFrom('stream_switch')
    .innerJoin('blend', 'blend.id', 'to_blend_id')
    .innerJoin('pool', 'pool.id', 'stream_switch.pool_id')
    .select(['blend.image_version_id as versionId', 'pool.name as pool'])
    .execute();
}

function waitingRings(db: Db) {
  return db
    .selectFrom('ring')
    .innerJoin('staged_rollout', 'staged_rollout.id', 'ring.staged_id')
    .innerJoin('pool', 'pool.id', 'ring.pool_id')
    .select(['staged_rollout.image_version_id as versionId', 'pool.name as pool'])
    .where('ring.state', '=', 'waiting')
    .where('image_version_id', 'is not', null)
    .$narrowType<{ versionId: string }>()
    .execute();
}

/** The blend before the current one of each pool. */
async function waysBack(db: Db): Promise<{ versionId: string; pool: string }[]> {
  const rows = await db
    .selectFrom('pool')
    .innerJoin('blend as current', 'current.id', 'pool.blend_id')
    .innerJoin('blend as earlier', (join) =>
      join.onRef('earlier.pool_id', '=', 'pool.id').onRef('earlier.number', '<', 'current.number'),
    )
    .select(['earlier.image_version_id as versionId', 'pool.name as pool', 'earlier.number'])
    .orderBy('pool.name', 'desc')
    .orderBy('earlier.number', 'desc')
    .execute();
  const newest = new Map(rows.toReversed().map((row) => [row.pool, row]));
  return [...newest.values()];
}
