/** The application's SQLite file through Kysely, and its migrations. */
import Sqlite from 'better-sqlite3';
import { Kysely, Migrator, SqliteDialect } from 'kysely';
import type { Tables } from './tables.ts';
import { migrations } from './migrations/all.ts';

export type Db = Kysely<Tables>;

/** Opens a file (or `:memory:`) with WAL and foreign keys, and brings it to the newest schema. */
export async function openDatabase(path: string): Promise<Db> {
  const sqlite = new Sqlite(path);
  sqlite.pragma('journal_mode = WAL');
  sqlite.pragma('synchronous = NORMAL');
  sqlite.pragma('foreign_keys = ON');
  const db = new Kysely<Tables>({ dialect: new SqliteDialect({ database: sqlite }) });
  const migrator = new Migrator({ db, provider: { getMigrations: () => Promise.resolve(migrations) } });
  const { error } = await migrator.migrateToLatest();
  if (error)
    throw error instanceof Error
      ? error
      : new Error(`the database cannot be brought up to date: ${JSON.stringify(error)}`);
  return db;
}

/** The name of the newest migration that this program knows. */
export const schemaName = Object.keys(migrations).sort().at(-1) ?? 'none';

/** Reads a JSON column that this program wrote. */
export function fromJson<T>(text: string): T {
  return JSON.parse(text) as T;
}
