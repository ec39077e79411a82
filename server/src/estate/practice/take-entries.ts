/** Takes the entries of another directory into the practice directory. */
import type { DirectoryEntries } from '@vatline/core/directory/entries';
import type { EstateDb, EstateTables } from './estate-database.ts';

/** SQLite takes about 32,000 values in a statement. */
const AT_ONCE = 1_000;

/** In one transaction; what is there already stays as it is. Gives how many of each are new. */
export function takeEntries(db: EstateDb, { units, computers, people, groups }: DirectoryEntries) {
  return db.transaction().execute(async (tx) => {
    const insert = async (table: keyof EstateTables, rows: readonly object[]): Promise<number> => {
      let added = 0n;
      for (let i = 0; i < rows.length; i += AT_ONCE) {
        const result = await tx
          .insertInto(table)
          .values(rows.slice(i, i + AT_ONCE) as never)
          .onConflict((c) => c.doNothing())
          .executeTakeFirst();
        added += result.numInsertedOrUpdatedRows ?? 0n;
      }
      return Number(added);
    };
    const known = new Set(
      (await tx.selectFrom('people_group').select('name').execute()).map((row) => row.name),
    );
    // A group that is there keeps the members that it has.
    const fresh = groups.filter((group) => !known.has(group.name));
    const counts = {
      units: await insert('unit', units),
      computers: await insert(
        'computer',
        computers.map(({ name, unit }) => ({ name, ou: unit })),
      ),
      people: await insert('person', people),
      groups: await insert(
        'people_group',
        fresh.map(({ name }) => ({ name, rule_branch: null })),
      ),
    };
    await insert(
      'member',
      fresh.flatMap((group) => [
        ...group.people.map((person) => ({ group_name: group.name, person, child: null })),
        ...group.groups.map((child) => ({ group_name: group.name, person: null, child })),
      ]),
    );
    return counts;
  });
}
