/** Statements of SQLite that are asked again and again, prepared once. */
import type { SqliteDatabase, SqliteStatement } from 'kysely';

/** More than all that the application asks by turns; lists of any length make ever new ones. */
const MOST = 400;

/**
 * The same database, keeping the statements that were used last. Preparing one took as long as a third
 * of what a request asks of the database. For queries whose rows are taken at once: a statement cannot
 * run twice side by side.
 */
export function keepingStatements(database: SqliteDatabase): SqliteDatabase {
  const kept = new Map<string, SqliteStatement>();
  return {
    close: () => {
      kept.clear();
      database.close();
    },
    prepare: (sql) => {
      const statement = kept.get(sql) ?? database.prepare(sql);
      // The one that was used longest ago comes first.
      kept.delete(sql);
      kept.set(sql, statement);
      const [oldest] = kept.keys();
      if (kept.size > MOST && oldest !== undefined) kept.delete(oldest);
      return statement;
    },
  };
}
