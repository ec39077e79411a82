/** The database is brought forward from every earlier schema, with what it held. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { Kysely, Migrator, SqliteDialect, sql } from 'kysely';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openDatabase, schemaName } from '../src/platform/database.ts';
import { migrations } from '../src/platform/migrations/all.ts';

let folder: string;
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'vatline-migrations-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

/** A file as the program left it when `name` was its newest migration, with a line and a version in it. */
async function fileAt(name: string): Promise<string> {
  const path = join(folder, `${name}.sqlite`);
  const db = new Kysely<Record<string, Record<string, unknown>>>({
    dialect: new SqliteDialect({ database: new Sqlite(path) }),
  });
  const migrator = new Migrator({ db, provider: { getMigrations: () => Promise.resolve(migrations) } });
  const { error } = await migrator.migrateTo(name);
  if (error) throw new Error(`cannot make ${name}`, { cause: error });
  await sql`insert into image_line (id, name, purpose, hardware_json, recipe_revision, dye_offset, created_ms)
    values ('line-1', 'Reader', '', '{"processors":2}', 1, 0, 1)`.execute(db);
  await sql`insert into image_version (id, line_id, number, dye, state, note, recipe_revision, image_id, inventory, size_bytes, cut_ms)
    values ('version-1', 'line-1', 1, 'woad', 'approved', '', 1, 'image-1', 'inventory-1', 8000, 2)`.execute(
    db,
  );
  await db.destroy();
  return path;
}

const names = Object.keys(migrations).sort();
/** Tables and indexes with what they consist of. */
async function schemaOf(path: string): Promise<unknown> {
  const db = await openDatabase(path);
  const { rows } = await sql`select name, sql from sqlite_master where name not like 'kysely%'
    and name not like 'sqlite%' order by name`.execute(db);
  await db.destroy();
  return rows;
}

describe('an older database', () => {
  it.each(names)('from %s has the newest schema and keeps what it held', async (name) => {
    const path = await fileAt(name);
    expect(await schemaOf(path)).toEqual(await schemaOf(join(folder, 'new.sqlite')));
    const db = await openDatabase(path);
    const version = await db
      .selectFrom('image_version')
      .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
      .select(['image_line.name', 'image_version.number', 'image_version.state', 'size_bytes'])
      .executeTakeFirst();
    expect(version).toEqual({ name: 'Reader', number: 1, state: 'approved', size_bytes: 8000 });
    await db.destroy();
  });

  it('from a newer program is refused, and the error says so', async () => {
    const path = await fileAt(schemaName);
    const raw = new Sqlite(path);
    raw.prepare('insert into kysely_migration (name, timestamp) values (?, ?)').run('9999-later', 'now');
    raw.close();
    await expect(openDatabase(path)).rejects.toThrow('9999-later');
  });
});
