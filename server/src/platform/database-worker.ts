/** Looking over databases, in a thread of its own: all of their pages are read. */
import Sqlite from 'better-sqlite3';
import { damageIn } from './database.ts';

/** What is damaged in a SQLite file; undefined when nothing is. */
export function findDamage(path: string): string | undefined {
  const sqlite = new Sqlite(path, { readonly: true, fileMustExist: true });
  try {
    return damageIn(sqlite);
  } finally {
    sqlite.close();
  }
}
