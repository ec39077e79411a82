/** Image versions as people call them. */
import type { Parts } from '../platform/parts.ts';

/** By their images, such as `staff 14`. */
export async function versionNames({ db }: Pick<Parts, 'db'>): Promise<ReadonlyMap<string, string>> {
  const rows = await db
    .selectFrom('image_version')
    .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
    .select(['image_version.image_id as image', 'image_version.number', 'image_line.name'])
    .execute();
  return new Map(rows.map(({ image, name, number }) => [image, `${name} ${number}`]));
}
