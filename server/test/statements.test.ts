/** Statements that are kept: prepared once, right after the tables changed, and not without end. */
import Sqlite from 'better-sqlite3';
import { Kysely, SqliteDialect, sql } from 'kysely';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { keepingStatements } from '../src/platform/statements.ts';

let sqlite: Sqlite.Database;
let prepared: string[];
let db: Kysely<{ host: { id: number; name: string } }>;
beforeEach(async () => {
  sqlite = new Sqlite(':memory:');
  prepared = [];
  const counting = {
    close: () => sqlite.close(),
    prepare: (text: string) => {
      prepared.push(text);
      return sqlite.prepare(text) as never;
    },
  };
  db = new Kysely({ dialect: new SqliteDialect({ database: keepingStatements(counting) }) });
  await sql`create table host (id integer primary key, name text not null)`.execute(db);
  await db
    .insertInto('host')
    .values([
      { id: 1, name: 'a' },
      { id: 2, name: 'b' },
    ])
    .execute();
  prepared.length = 0;
});
afterEach(() => db.destroy());

const named = (id: number) => db.selectFrom('host').selectAll().where('id', '=', id).execute();

it('asks the same with other values by one statement', async () => {
  expect(await named(1)).toEqual([{ id: 1, name: 'a' }]);
  expect(await Promise.all([named(2), named(1)])).toEqual([[{ id: 2, name: 'b' }], [{ id: 1, name: 'a' }]]);
  expect(prepared).toHaveLength(1);
});

it('gives new columns after the table was altered', async () => {
  await named(1);
  await sql`alter table host add column state text not null default 'new'`.execute(db);
  expect(await named(1)).toEqual([{ id: 1, name: 'a', state: 'new' }]);
});

it('is rolled back with its transaction like any other', async () => {
  const failing = db.transaction().execute(async (tx) => {
    await tx.updateTable('host').set({ name: 'c' }).where('id', '=', 1).execute();
    throw new Error('no');
  });
  await expect(failing).rejects.toThrow('no');
  expect(await named(1)).toEqual([{ id: 1, name: 'a' }]);
});

it('lets go of what was used longest ago, not of what is used', async () => {
  for (let i = 0; i < 1_000; i++) {
    await named(1);
    await sql.raw(`select ${i}`).execute(db);
  }
  expect(prepared.filter((text) => text.includes('host'))).toHaveLength(1);
  prepared.length = 0;
  await sql.raw('select 999').execute(db);
  await sql.raw('select 0').execute(db);
  expect(prepared).toEqual(['select 0']);
});
