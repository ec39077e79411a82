/** Fragments in the database: steps that many lines share, every revision kept. */
import { fragmentKey, newestRevision, type FragmentLibrary } from '@vatline/core/image/fragments';
import type { Step } from '@vatline/core/image/recipe';
import { fromJson, type Db } from '../platform/database.ts';
import { refuseStale } from '../platform/stale.ts';

export async function fragmentLibrary(db: Db): Promise<FragmentLibrary> {
  const rows = await db.selectFrom('fragment_revision').select(['name', 'revision', 'steps_json']).execute();
  return new Map(
    rows.map(({ name, revision, steps_json }) => [
      fragmentKey({ fragment: name, revision }),
      fromJson<Step[]>(steps_json),
    ]),
  );
}

export interface FragmentRevisionRow {
  readonly name: string;
  readonly revision: number;
  readonly steps: Step[];
  readonly note: string;
  readonly createdAt: number;
}

/** Every revision, by name and then newest first. */
export async function fragmentRevisions(db: Db): Promise<FragmentRevisionRow[]> {
  const rows = await db
    .selectFrom('fragment_revision')
    .selectAll()
    .orderBy('name')
    .orderBy('revision', 'desc')
    .execute();
  return rows.map((row) => ({
    name: row.name,
    revision: row.revision,
    steps: fromJson<Step[]>(row.steps_json),
    note: row.note,
    createdAt: row.created_ms,
  }));
}

/**
 * Keeps the next revision of a fragment, its first when there is none; gives its number. Throws a
 * conflict when it is not the next one after what the change is based on.
 */
export async function addFragmentRevision(
  db: Db,
  fragment: { name: string; steps: readonly Step[]; note: string; at: number },
  basedOn?: number,
): Promise<number> {
  return db.transact(async () => {
    const newest = newestRevision(await fragmentLibrary(db), fragment.name);
    refuseStale('fragment', fragment.name, newest, basedOn ?? newest);
    const revision = newest + 1;
    await db
      .insertInto('fragment_revision')
      .values({
        name: fragment.name,
        revision,
        steps_json: JSON.stringify(fragment.steps),
        note: fragment.note,
        created_ms: fragment.at,
      })
      .execute();
    return revision;
  });
}
