/**
 * What people open of a package, in the database. An entry point has an identifier of its own that
 * lasts from version to version, since people are given entry points and not versions: it is that of
 * the package and the name, and of those with one name of the first, the second and so on.
 */
import type { EntryPoint } from '@vatline/core/container/manifest';
import { fromJson, type Db } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { VersionRow } from './tables.ts';

export type LastingEntryPoint = EntryPoint & { readonly id: string };

/** Writes down what a new version brings, in a transaction of the caller's. */
export async function addEntryPoints(
  db: Db,
  version: Pick<VersionRow, 'id' | 'package_id'>,
  entryPoints: readonly EntryPoint[],
): Promise<void> {
  const seen = new Map<string, number>();
  for (const [place, { name, ...details }] of entryPoints.entries()) {
    const nth = seen.get(name) ?? 0;
    seen.set(name, nth + 1);
    const entry_point_id = await lastingId(db, { package_id: version.package_id, name, nth });
    await db
      .insertInto('version_entry_point')
      .values({ version_id: version.id, place, entry_point_id, details_json: JSON.stringify(details) })
      .execute();
  }
}

async function lastingId(
  db: Db,
  entry: { readonly package_id: string; readonly name: string; readonly nth: number },
): Promise<string> {
  await db
    .insertInto('entry_point')
    .values({ id: newId('entry'), ...entry })
    .onConflict((c) => c.columns(['package_id', 'name', 'nth']).doNothing())
    .execute();
  const { id } = await db
    .selectFrom('entry_point')
    .select('id')
    .where('package_id', '=', entry.package_id)
    .where('name', '=', entry.name)
    .where('nth', '=', entry.nth)
    .executeTakeFirstOrThrow();
  return id;
}

/** The entry points of versions, by version and in their order; of all versions, or of some. */
export async function entryPointsByVersion(
  db: Db,
  versionIds?: readonly string[],
): Promise<ReadonlyMap<string, LastingEntryPoint[]>> {
  const all = db
    .selectFrom('version_entry_point')
    .innerJoin('entry_point', 'entry_point.id', 'entry_point_id')
    .select(['version_id', 'entry_point.id', 'entry_point.name', 'details_json'])
    .orderBy('version_id')
    .orderBy('place');
  const rows = await (versionIds ? all.where('version_id', 'in', versionIds) : all).execute();
  const found = new Map<string, LastingEntryPoint[]>();
  for (const { version_id, id, name, details_json } of rows) {
    const list = found.get(version_id) ?? [];
    list.push({ id, name, ...fromJson<Omit<EntryPoint, 'name'>>(details_json) });
    found.set(version_id, list);
  }
  return found;
}

/** The entry points of a version, as its manifest has them. */
export async function entryPointsOf(db: Db, versionId: string): Promise<EntryPoint[]> {
  const found = (await entryPointsByVersion(db, [versionId])).get(versionId) ?? [];
  return found.map(({ id: _id, ...entry }) => entry);
}
