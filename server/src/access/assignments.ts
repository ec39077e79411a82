/** Who is assigned to what, and whom that reaches. */
import type { Assignment } from '@vatline/contract/access';
import type { Group } from '@vatline/core/access/see-as';
import { change } from '../platform/change.ts';
import { newId } from '../platform/ids.ts';
import type { Note } from '../platform/journal.ts';
import type { Parts } from '../platform/parts.ts';
import type { Tables } from '../platform/tables.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import type {} from './tables.ts';

/** What a group is to be given on a pool. */
type Target = { readonly kind: 'desktop' } | { readonly kind: 'package'; readonly id: string };

/** Assigns a group; refuses what is not there, and what is assigned already. */
export async function assign(
  parts: Parts,
  body: { readonly group: string; readonly poolId: string; readonly target: Target },
): Promise<Assignment> {
  const { db, estate } = parts;
  const faults = [];
  if (!(await estate.directory.groups()).some((group) => group.name === body.group)) {
    faults.push({ path: 'group', message: `The directory has no group named ${body.group}` });
  }
  const pool = await db.selectFrom('pool').selectAll().where('id', '=', body.poolId).executeTakeFirst();
  if (!pool) faults.push({ path: 'poolId', message: 'There is no such pool' });
  const known =
    body.target.kind === 'desktop'
      ? null
      : await db.selectFrom('package').selectAll().where('id', '=', body.target.id).executeTakeFirst();
  if (known === undefined) faults.push({ path: 'target.id', message: 'There is no such package' });
  if (faults.length > 0 || !pool) throw invalid(faults);
  const id = newId('assignment');
  const what = known ? `${known.name} on ${pool.name}` : `the desktop of ${pool.name}`;
  const row = {
    id,
    group_name: body.group,
    pool_id: body.poolId,
    target_kind: body.target.kind,
    target_id: known?.id ?? pool.id,
  };
  await change(
    parts,
    () => insert(parts, row),
    () => assignmentNote(id, `${body.group} is assigned to ${what}`),
  );
  return (await assignments(parts)).find((row) => row.id === id) as Assignment;
}

/** In a transaction of the caller's, so that of two at once the second is told so. */
async function insert({ db }: Parts, row: Tables['assignment']): Promise<void> {
  const there = await db
    .selectFrom('assignment')
    .select('id')
    .where('group_name', '=', row.group_name)
    .where('pool_id', '=', row.pool_id)
    .where('target_kind', '=', row.target_kind)
    .where('target_id', '=', row.target_id)
    .executeTakeFirst();
  if (there) throw conflict(`${row.group_name} is assigned to this already`, 'group');
  await db.insertInto('assignment').values(row).execute();
}

/** Takes an assignment back. */
export async function unassign(parts: Parts, id: string): Promise<void> {
  const row = (await assignments(parts)).find((assignment) => assignment.id === id);
  if (!row) throw notFound('such assignment');
  await change(
    parts,
    async () => {
      const gone = await parts.db.deleteFrom('assignment').where('id', '=', id).executeTakeFirst();
      if (gone.numDeletedRows === 0n) throw notFound('such assignment');
    },
    () =>
      assignmentNote(
        id,
        `${row.group} is no longer assigned to ${row.target.kind === 'desktop' ? 'the desktop' : row.target.name} on ${row.pool}`,
      ),
  );
}

function assignmentNote(id: string, text: string): Omit<Note, 'at'> {
  return { kind: 'access', subject: `assignment:${id}`, text, link: '/access' };
}

export async function assignments(parts: Parts): Promise<Assignment[]> {
  const rows = await parts.db
    .selectFrom('assignment')
    .innerJoin('pool', 'pool.id', 'assignment.pool_id')
    .leftJoin('package', (join) =>
      join.onRef('package.id', '=', 'assignment.target_id').on('assignment.target_kind', '=', 'package'),
    )
    .select([
      'assignment.id',
      'assignment.group_name',
      'assignment.pool_id',
      'assignment.target_kind',
      'assignment.target_id',
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
    target: { kind: row.target_kind, id: row.target_id, name: row.package ?? row.pool },
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
