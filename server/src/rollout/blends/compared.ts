/** Blends, and what could become one, as the core compares them. */
import { usualAttach, type AttachTiming } from '@vatline/core/container/manifest';
import type { ComparedBlend } from '@vatline/core/rollout/blends/compare';
import { fromJson } from '../../platform/database.ts';
import type { Parts } from '../../platform/parts.ts';
import { notFound } from '../../platform/problem.ts';
import type { BlendContents } from '../../pool/blends.ts';

/** In the order in which they are given; package versions that are deleted by now are left out. */
export async function comparedContents(
  { db }: Pick<Parts, 'db'>,
  all: readonly BlendContents[],
): Promise<ComparedBlend[]> {
  const images = await db
    .selectFrom('image_version')
    .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
    .select(['image_version.id', 'image_line.name as line', 'image_version.number'])
    .where('image_version.id', 'in', [...new Set(all.map((one) => one.imageVersionId))])
    .execute();
  const packages = await db
    .selectFrom('package_version')
    .innerJoin('package', 'package.id', 'package_version.package_id')
    .select(['package_version.id', 'package.id as packageId', 'name', 'version', 'details_json'])
    .where('package_version.id', 'in', [...new Set(all.flatMap((one) => one.packageVersionIds))])
    .execute();
  const imageOf = new Map(images.map((image) => [image.id, image]));
  const packageOf = new Map(
    packages.map(({ details_json, ...row }) => [row.id, { ...row, timing: timingIn(details_json) }]),
  );
  return all.map(({ imageVersionId, packageVersionIds }) => {
    const image = imageOf.get(imageVersionId);
    if (!image) throw notFound('such image version');
    return {
      image,
      packages: packageVersionIds.flatMap((id) => packageOf.get(id) ?? []),
      baselineRevisionId: null,
    };
  });
}

function timingIn(details: string): AttachTiming {
  return fromJson<{ attach?: { timing: AttachTiming } }>(details).attach?.timing ?? usualAttach.timing;
}
