import { accessEndpoints } from '@vatline/contract/access';
import { memberships, seeAs, type PoolAccess } from '@vatline/core/access/see-as';
import { fromJson } from '../platform/database.ts';
import { DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { PackageVersion } from '@vatline/contract/package';
import { assign, assignments, unassign } from './assignments.ts';

export function accessRoutes(door: Door, parts: Parts): void {
  const { estate } = parts;

  door.serve(accessEndpoints.list, () => assignments(parts));

  door.serve(accessEndpoints.assign, ({ body }) => assign(parts, body));

  door.serve(accessEndpoints.remove, async ({ params }) => {
    await unassign(parts, params.id);
    return DONE;
  });

  door.serve(accessEndpoints.seeAs, async ({ query }) => {
    const user = await estate.directory.person(query.user);
    if (!user)
      throw invalid([{ path: 'user', message: `The directory has nobody with the account ${query.user}` }]);
    const groups = await estate.directory.groups();
    const { paths, cycles } = memberships(user.account, groups);
    const grants = seeAs(user.account, groups, await poolAccess(parts));
    return {
      user,
      groups: [...paths.keys()],
      cycles: cycles.map((cycle) => [...cycle]),
      grants: grants.map((grant) => ({
        ...grant,
        chain: grant.chain.map((link) => ({ ...link })),
        entryPoints: [...grant.entryPoints],
      })),
    };
  });
}

/** Every pool with what its current blend attaches and who is assigned. */
async function poolAccess(parts: Parts): Promise<PoolAccess[]> {
  const pools = await parts.db
    .selectFrom('pool')
    .leftJoin('blend', 'blend.id', 'pool.blend_id')
    .select(['pool.id', 'pool.name', 'blend.packages_json'])
    .orderBy('pool.name')
    .execute();
  const versions = await parts.db
    .selectFrom('package_version')
    .innerJoin('package', 'package.id', 'package_version.package_id')
    .select([
      'package_version.id',
      'package.name',
      'package.side_by_side',
      'package_version.version',
      'package_version.state',
      'package_version.entry_points_json',
    ])
    .execute();
  const assigned = await assignments(parts);
  return pools.map((pool) => {
    const ids = new Set(fromJson<string[]>(pool.packages_json ?? '[]'));
    const here = assigned.filter((row) => row.poolId === pool.id);
    const groupsOfPackages: Record<string, string[]> = {};
    for (const row of here) if (row.package) (groupsOfPackages[row.package] ??= []).push(row.group);
    return {
      name: pool.name,
      attached: versions
        .filter((version) => ids.has(version.id))
        .map((version) => ({
          packageName: version.name,
          version: version.version,
          live: version.state === 'live',
          sideBySide: version.side_by_side === 1,
          entryPoints: fromJson<PackageVersion['entryPoints']>(version.entry_points_json).map(
            (entry) => entry.name,
          ),
        })),
      groupsOfDesktop: here.filter((row) => row.packageId === null).map((row) => row.group),
      groupsOfPackages,
    };
  });
}
