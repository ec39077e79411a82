/** A change that a person makes, together with what the journal says of it. */
import type { Db } from './database.ts';
import type { Journal, Note } from './journal.ts';
import type { EstateClock } from '../estate/driver/clock.ts';

interface Changing {
  readonly db: Db;
  readonly journal: Journal;
  readonly estate: { readonly clock: EstateClock };
}

/**
 * Makes a change and writes it down in the journal as one: both are there afterwards, or neither is.
 * `noteOf` puts into words what the work has come to; undefined where there is nothing to tell.
 */
export function change<T>(
  { db, journal, estate }: Changing,
  work: () => Promise<T>,
  noteOf: (result: T) => Omit<Note, 'at'> | undefined,
): Promise<T> {
  return db.transact(async () => {
    const result = await work();
    const note = noteOf(result);
    if (note) await journal.note({ ...note, at: estate.clock.now() });
    return result;
  });
}

/** The answer of a change that gives nothing back. */
export const DONE = { done: true } as const;
