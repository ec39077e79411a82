/** Image versions as stores that stream them need them. */
import type { Db } from '../platform/database.ts';

const columns = [
  'id',
  'number',
  'dye',
  'state',
  'gone_ms',
  'line_id',
  'recipe_revision',
  'image_id',
  'size_bytes',
] as const;

export type VersionFacts = NonNullable<Awaited<ReturnType<typeof versionFacts>>>;

export function versionFacts(db: Db, id: string) {
  return db.selectFrom('image_version').select(columns).where('id', '=', id).executeTakeFirst();
}

/** Those of a line that are there, the newest first. */
export function versionsOfLine(db: Db, lineId: string): Promise<VersionFacts[]> {
  return db
    .selectFrom('image_version')
    .select(columns)
    .where('line_id', '=', lineId)
    .where('gone_ms', 'is', null)
    .orderBy('number', 'desc')
    .execute();
}

/** The image that hosts with a blend stream. */
export async function imageOfBlend(db: Db, blendId: string): Promise<string> {
  const row = await db
    .selectFrom('blend')
    .innerJoin('image_version', 'image_version.id', 'blend.image_version_id')
    .select('image_id')
    .where('blend.id', '=', blendId)
    .executeTakeFirstOrThrow();
  return row.image_id;
}
