/** Several changes as one: all of them are there, with their journal notes, or none is. */
import type { Db } from './database.ts';
import type { Journal } from './journal.ts';

interface Written {
  readonly db: Db;
  readonly journal: Journal;
}

/**
 * Runs work in a transaction. What is handed to it writes in the transaction; nothing in it may use
 * other parts, nor wait for the outside, since everybody waits for it.
 */
export function transact<P extends Written, T>(parts: P, work: (within: P) => Promise<T>): Promise<T> {
  if (parts.db.isTransaction) return work(parts);
  return parts.db
    .transaction()
    .execute((tx) => work({ ...parts, db: tx, journal: parts.journal.within(tx) }));
}
