/** What cannot go to another blend and keep what it has. */
import type { BlendContents } from '../../pool/blends.ts';
import { settingsIn } from '../../pool/pools.ts';
import type { PoolRow } from '../../pool/tables.ts';
import type { Plans } from '../plans.ts';

/** Hosts that would be made anew with everything that their people keep on them. */
export async function hostsLosing(plans: Plans, pool: PoolRow, to: BlendContents): Promise<number> {
  if (pool.kind !== 'dedicated' || settingsIn(pool).dataGigabytes > 0) return 0;
  const hosts = await plans.pools.hosts.of(pool.id);
  const planned = await plans.planned({ ...to, isRemake: false }, hosts);
  return planned.filter(({ way }) => way === 'rebuild').length;
}
