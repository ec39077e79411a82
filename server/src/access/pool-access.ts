/** What seeing as somebody asks of every pool: what it attaches, and who is assigned to it. */
import type { AttachedPackage, PoolAccess } from '@vatline/core/access/see-as';
import type { Parts } from '../platform/parts.ts';
import { assignments } from './assignments.ts';

/** Every pool with what its current blend attaches and who is assigned. */
export async function poolAccess(parts: Parts): Promise<PoolAccess[]> {
  const { db } = parts;
  const pools = await db.selectFrom('pool').select(['id', 'name']).orderBy('name').execute();
  const attached = await attachedByPool(parts);
  const assigned = await assignments(parts);
  return pools.map(({ id, name }) => {
    const here = assigned.filter((row) => row.poolId === id);
    const groupsOf = (targetId: string) =>
      here.filter(({ target }) => target.id === targetId).map(({ group }) => group);
    const packages = new Map(
      here.filter(({ target }) => target.kind === 'package').map(({ target }) => [target.id, target.name]),
    );
    return {
      id,
      name,
      attached: attached.get(id) ?? [],
      groupsOfDesktop: groupsOf(id),
      assigned: [...packages].map(([packageId, own]) => ({
        packageId,
        name: own,
        groups: groupsOf(packageId),
      })),
    };
  });
}

/** The package versions of each pool's current blend, by pool. */
async function attachedByPool({ db }: Parts): Promise<Map<string, AttachedPackage[]>> {
  const rows = await db
    .selectFrom('pool')
    .innerJoin('blend_package', 'blend_package.blend_id', 'pool.blend_id')
    .innerJoin('package_version', 'package_version.id', 'blend_package.package_version_id')
    .innerJoin('package', 'package.id', 'package_version.package_id')
    .select([
      'pool.id as pool',
      'package_version.id as version_id',
      'package.id as packageId',
      'package.name',
      'package.side_by_side',
      'package_version.version',
      'package_version.state',
    ])
    .orderBy('blend_package.place')
    .execute();
  const entries = await db
    .selectFrom('version_entry_point')
    .innerJoin('entry_point', 'entry_point.id', 'entry_point_id')
    .select(['version_id', 'entry_point.id', 'entry_point.name'])
    .orderBy('version_id')
    .orderBy('place')
    .execute();
  const found = new Map<string, AttachedPackage[]>();
  for (const { pool, version_id, state, side_by_side, ...row } of rows) {
    const own = entries.filter((entry) => entry.version_id === version_id);
    const list = found.get(pool) ?? [];
    list.push({
      ...row,
      live: state === 'live',
      sideBySide: side_by_side === 1,
      entryPoints: own.map(({ id, name }) => ({ id, name })),
    });
    found.set(pool, list);
  }
  return found;
}
