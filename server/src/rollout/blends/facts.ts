/** What the rule about blends asks, as the database and the estate have it. */
import type { BlendFacts } from '@vatline/core/rollout/blends/checks';
import type { Clash } from '@vatline/core/package/conflicts';
import type { ImageFacts } from '@vatline/core/pool/fit-conditions';
import type { Fault } from '@vatline/core/result';
import type { Instant } from '@vatline/core/time/instant';
import { attachCandidates } from '../../package/attach-check.ts';
import { hasAgent } from '../../pool/agent-in-image.ts';
import type { BlendContents } from '../../pool/blends.ts';
import type { Parts } from '../../platform/parts.ts';

interface Asked extends BlendContents {
  /** Whose hosts trust, or do not. */
  readonly pool: string;
  readonly at: Instant;
  readonly clashes: readonly Clash[];
  readonly isReturn?: boolean;
}

/** The facts, or what of the contents there is not. */
export async function blendFacts(
  parts: Parts,
  { imageVersionId, packageVersionIds, pool, at, clashes, isReturn = false }: Asked,
): Promise<{ readonly facts?: BlendFacts; readonly unknown: Fault[] }> {
  const image = (await imageFacts(parts, [imageVersionId])).get(imageVersionId);
  const known = await attachCandidates(parts, packageVersionIds, pool);
  const unknown = packageVersionIds.flatMap((id, i) =>
    known.has(id) ? [] : [{ path: `packageVersionIds.${i}`, message: 'there is no such package version' }],
  );
  if (!image) unknown.push({ path: 'imageVersionId', message: 'there is no such image version' });
  if (!image || unknown.length > 0) return { unknown };
  const packages = packageVersionIds.flatMap((id) => {
    const one = known.get(id);
    return one ? [{ ...one, id }] : [];
  });
  return { facts: { image, packages, clashes, at, isReturn }, unknown };
}

/** Of image versions, by id; those that are not there are left out. */
export async function imageFacts(
  { db }: Pick<Parts, 'db'>,
  ids: readonly string[],
): Promise<ReadonlyMap<string, ImageFacts>> {
  const rows = await db
    .selectFrom('image_version')
    .select(['id', 'number', 'state', 'gone_ms', 'line_id', 'recipe_revision'])
    .where('id', 'in', ids)
    .execute();
  const found = new Map<string, ImageFacts>();
  for (const { id, number, state, gone_ms, ...made } of rows)
    found.set(id, { number, state, isGone: gone_ms !== null, hasAgent: await hasAgent(db, made) });
  return found;
}
