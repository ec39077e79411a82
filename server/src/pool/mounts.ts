/** The containers that a host of a pool is to have. */
import type { WantedMount } from '../estate/driver/hosts.ts';
import { EstateError } from '../estate/driver/operations.ts';
import { attachFaults } from '../package/attach-check.ts';
import { isOffered } from '@vatline/core/package/attachable';
import type { Parts } from '../platform/parts.ts';

/**
 * Those of the versions that are not held. Asked again at each attach: a certificate may have run out
 * meanwhile. Fails with a conflict where hosts of the pool would refuse one.
 */
export async function mountsFor(
  parts: Parts,
  packageVersionIds: readonly string[],
  pool: string,
): Promise<WantedMount[]> {
  if (packageVersionIds.length === 0) return [];
  const rows = await parts.db
    .selectFrom('package_version')
    .select(['id', 'state', 'digest', 'share'])
    .where('id', 'in', packageVersionIds)
    .execute();
  const offered = rows.filter((row) => isOffered(row));
  const ids = offered.map((row) => row.id);
  const [fault] = await attachFaults(parts, ids, pool, [parts.estate.clock.now()]);
  if (fault) throw new EstateError('conflict', `hosts refuse a package: ${fault.message}`);
  return offered.map(({ digest, share }) => ({ digest, share: share ?? '' }));
}
