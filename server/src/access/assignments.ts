/** Who is assigned to what, and whom that reaches. */
import type { Assignment } from '@vatline/contract/access';
import type { Group } from '@vatline/core/access/see-as';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import type {} from './tables.ts';

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

export async function assignments(parts: Parts): Promise<Assignment[]> {
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
