import type { Router } from 'express';
import { accessEndpoints, type Assignment } from '@vatline/contract/access';
import { memberships, seeAs, type Group, type PoolAccess } from '@vatline/core/access/see-as';
import { fromJson } from '../platform/database.ts';
import { serve } from '../platform/http.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import type { PackageVersion } from '@vatline/contract/package';

export function accessRoutes(router: Router, parts: Parts): void {
  const { db, estate, journal } = parts;

  serve(router, accessEndpoints.list, () => assignments(parts));

  serve(router, accessEndpoints.assign, ({ body }) => assign(parts, body));

  serve(router, accessEndpoints.remove, async ({ params }) => {
    const row = (await assignments(parts)).find((assignment) => assignment.id === params.id);
    if (!row) throw notFound('such assignment');
    await db.deleteFrom('assignment').where('id', '=', params.id).execute();
    await journal.note({
      at: estate.clock.now(),
      kind: 'access',
      subject: `assignment:${row.id}`,
      text: `${row.group} is no longer assigned to ${row.package ?? 'the desktop'} on ${row.pool}`,
      link: '/access',
    });
    journal.tell('access');
    return { done: true as const };
  });

  serve(router, accessEndpoints.seeAs, async ({ query }) => {
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

/** Assigns a group; refuses what is not there, and what is assigned already. */
export async function assign(
  parts: Parts,
  body: { readonly group: string; readonly poolId: string; readonly packageId: string | null },
): Promise<Assignment> {
  const { db, estate, journal } = parts;
  const faults = [];
  if (!(await estate.directory.groups()).some((group) => group.name === body.group)) {
    faults.push({ path: 'group', message: `The directory has no group named ${body.group}` });
  }
  const pool = await db.selectFrom('pool').selectAll().where('id', '=', body.poolId).executeTakeFirst();
  if (!pool) faults.push({ path: 'poolId', message: 'There is no such pool' });
  const known =
    body.packageId === null
      ? null
      : await db.selectFrom('package').selectAll().where('id', '=', body.packageId).executeTakeFirst();
  if (known === undefined) faults.push({ path: 'packageId', message: 'There is no such package' });
  if (faults.length > 0 || !pool) throw invalid(faults);
  const list = await assignments(parts);
  if (
    list.some(
      (row) => row.group === body.group && row.poolId === body.poolId && row.packageId === body.packageId,
    )
  ) {
    throw conflict(`${body.group} is assigned to this already`, 'group');
  }
  const id = newId('assignment');
  await db
    .insertInto('assignment')
    .values({ id, group_name: body.group, pool_id: body.poolId, package_id: body.packageId })
    .execute();
  const what = known ? `${known.name} on ${pool.name}` : `the desktop of ${pool.name}`;
  await journal.note({
    at: estate.clock.now(),
    kind: 'access',
    subject: `assignment:${id}`,
    text: `${body.group} is assigned to ${what}`,
    link: '/access',
  });
  journal.tell('access');
  return (await assignments(parts)).find((row) => row.id === id) as Assignment;
}

async function assignments(parts: Parts): Promise<Assignment[]> {
  const rows = await parts.db
    .selectFrom('assignment')
    .innerJoin('pool', 'pool.id', 'assignment.pool_id')
    .leftJoin('package', 'package.id', 'assignment.package_id')
    .select([
      'assignment.id',
      'assignment.group_name',
      'assignment.pool_id',
      'assignment.package_id',
      'pool.name as pool',
      'package.name as package',
    ])
    .orderBy('pool.name')
    .orderBy('package.name')
    .orderBy('assignment.group_name')
    .execute();
  const reach = peopleReached(await parts.estate.directory.groups());
  return rows.map((row) => ({
    id: row.id,
    group: row.group_name,
    poolId: row.pool_id,
    pool: row.pool,
    packageId: row.package_id,
    package: row.package,
    users: reach.get(row.group_name) ?? 0,
  }));
}

/** How many people each group reaches, directly or by nesting. */
export function peopleReached(groups: readonly Group[]): Map<string, number> {
  const byName = new Map(groups.map((group) => [group.name, group]));
  const collect = (name: string, seen: Set<string>, people: Set<string>) => {
    const group = byName.get(name);
    if (!group || seen.has(name)) return;
    seen.add(name);
    for (const user of group.users) people.add(user);
    for (const child of group.groups) collect(child, seen, people);
  };
  return new Map(
    groups.map((group) => {
      const people = new Set<string>();
      collect(group.name, new Set(), people);
      return [group.name, people.size];
    }),
  );
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
