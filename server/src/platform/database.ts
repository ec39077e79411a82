/** The application's SQLite file through Kysely, and its migrations. */
import { basename } from 'node:path';
import Sqlite from 'better-sqlite3';
import { Kysely, Migrator, SqliteDialect, type SqliteDatabase } from 'kysely';
import { AmbientTransaction } from './ambient-transaction.ts';
import type { Tables } from './tables.ts';
import { migrations } from './migrations/all.ts';
import { keepingStatements } from './statements.ts';

export class Db extends Kysely<Tables> {
  private readonly ambient: AmbientTransaction;

  constructor(database: SqliteDatabase) {
    const ambient = new AmbientTransaction();
    super({ dialect: ambient.dialect(new SqliteDialect({ database })) });
    this.ambient = ambient;
  }

  /**
   * Makes several changes one: all of them are there afterwards, with their journal notes, or none
   * is. Everything asked of this database on the way is asked within, also by stores that know
   * nothing of it; within another one it is a part of that. Nothing in it may wait for the outside,
   * since everybody else waits for its end.
   */
  transact<T>(work: () => Promise<T>): Promise<T> {
    if (this.ambient.isOpen) return work();
    return this.transaction().execute((tx) =>
      tx.getExecutor().provideConnection((connection) => this.ambient.run(connection, work)),
    );
  }

  /** Begins what goes on by itself, and is no part of the change in which it was begun. */
  outside<T>(work: () => T): T {
    return this.ambient.outside(work);
  }
}

/**
 * Opens a file (or `:memory:`) with WAL and foreign keys, and brings it to the newest schema. Throws
 * with a sentence for a person: damaged, read-only, or made by a newer program.
 */
export async function openDatabase(path: string): Promise<Db> {
  const sqlite = openSound(path);
  refuseNewer(sqlite, path);
  // Off while tables are made anew: dropping one would take what refers to its rows along.
  sqlite.pragma('foreign_keys = OFF');
  const db = new Db(keepingStatements(sqlite));
  const migrator = new Migrator({ db, provider: { getMigrations: () => Promise.resolve(migrations) } });
  const { error } = await migrator.migrateToLatest();
  if (error)
    throw error instanceof Error
      ? error
      : new Error(`the database cannot be brought up to date: ${JSON.stringify(error)}`);
  sqlite.pragma('foreign_keys = ON');
  return db;
}

/** Opens a SQLite file that can be written and whose pages are in order. Throws with a sentence otherwise. */
export function openSound(path: string): Sqlite.Database {
  const name = basename(path);
  let sqlite: Sqlite.Database | undefined;
  try {
    sqlite = new Sqlite(path);
    sqlite.pragma('journal_mode = WAL');
    sqlite.pragma('synchronous = NORMAL');
    const damage = damageIn(sqlite);
    if (damage !== undefined) throw new Error(`${name} is damaged (${damage}); put a backup in its place`);
    // A file that cannot be written is found out now and not at the first change.
    sqlite.exec('begin immediate; rollback');
    return sqlite;
  } catch (error) {
    sqlite?.close();
    throw inWords(name, error);
  }
}

/** What a quick look over all pages finds; undefined when they are in order. */
export function damageIn(sqlite: Sqlite.Database): string | undefined {
  const [first] = sqlite.pragma('quick_check(1)') as { quick_check: string }[];
  return first?.quick_check === 'ok' ? undefined : first?.quick_check.split('\n')[0];
}

const sentences: readonly (readonly [RegExp, string])[] = [
  [/^SQLITE_(NOTADB|CORRUPT)/, 'is damaged; put a backup in its place'],
  [/^SQLITE_(READONLY|PERM)/, 'cannot be written; look at the rights of the data folder'],
  [/^SQLITE_CANTOPEN/, 'cannot be opened; look at the rights of the data folder'],
  [/^SQLITE_(FULL|IOERR)/, 'cannot be written: the disk is full or does not answer rightly'],
];

function inWords(name: string, error: unknown): unknown {
  const code = String((error as { code?: unknown }).code ?? '');
  const sentence = sentences.find(([pattern]) => pattern.test(code))?.[1];
  return sentence === undefined ? error : new Error(`${name} ${sentence}`, { cause: error });
}

function refuseNewer(sqlite: Sqlite.Database, path: string): void {
  const there = sqlite
    .prepare(`select name from sqlite_master where type = 'table' and name = 'kysely_migration'`)
    .get();
  if (!there) return;
  const rows = sqlite.prepare('select name from kysely_migration').all() as { name: string }[];
  const unknown = rows.find(({ name }) => !Object.hasOwn(migrations, name));
  if (!unknown) return;
  sqlite.close();
  throw new Error(
    `${basename(path)} was made by a newer Vat Line (schema ${unknown.name}); start that one, or name another folder with VATLINE_DATA`,
  );
}

/** The name of the newest migration that this program knows. */
export const schemaName = Object.keys(migrations).sort().at(-1) ?? 'none';

/** Reads a JSON column that this program wrote. */
export function fromJson<T>(text: string): T {
  return JSON.parse(text) as T;
}
