/** What will be another for a pool, a group or a person, on a date. */
import { aheadEndpoints, type Ahead, type AheadKind, type PoolAhead } from '@vatline/contract/ahead';
import { MOST_DAYS } from '@vatline/contract/planned';
import { reachOf, type Reach } from '@vatline/core/access/reach';
import { dyeNames, type DyeName } from '@vatline/core/dye/dyes';
import { poolAhead } from '@vatline/core/rollout/ahead';
import type { BlendComparison, ComparedBlend } from '@vatline/core/rollout/blends/compare';
import { DAY, type Instant } from '@vatline/core/time/instant';
import { poolAccess } from '../access/pool-access.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { PoolRow } from '../pool/tables.ts';
import { comparedContents } from '../rollout/blends/compared.ts';
import { comingChanges, type AheadStores, type Coming } from './coming.ts';

export function aheadRoutes(door: Door, parts: Parts, stores: AheadStores): void {
  door.serve(aheadEndpoints.ahead, async ({ query: { of, who, at } }): Promise<Ahead> => {
    refuseFarAway(parts, at);
    const { name, reaches } = await reached(parts, stores, of, who);
    const coming = await comingChanges(parts, stores, at);
    const dyes = await dyesOf(
      parts,
      coming.flatMap(({ to }) => to?.image.id ?? []),
    );
    const pools: PoolAhead[] = [];
    for (const reach of reaches) {
      const pool = await stores.pools.pool(reach.poolId);
      const own = coming.filter(({ poolId }) => poolId === pool.id);
      pools.push(await presented(parts, stores, { pool, reach, own, at, dyes, seesAll: of === 'pool' }));
    }
    return { of, name, at, pools };
  });
}

/** What is planned is reckoned as far as the calendar goes. */
function refuseFarAway({ estate }: Parts, at: Instant): void {
  const now = estate.clock.now();
  if (at < now) throw invalid([{ path: 'at', message: 'is over already' }]);
  if (at > now + MOST_DAYS * DAY) throw invalid([{ path: 'at', message: `is over ${MOST_DAYS} days ahead` }]);
}

async function reached(
  parts: Parts,
  { pools }: AheadStores,
  of: AheadKind,
  who: string,
): Promise<{ readonly name: string; readonly reaches: readonly Reach[] }> {
  const none = (message: string) => invalid([{ path: 'who', message }]);
  if (of === 'pool') {
    const pool = (await pools.all()).find(({ id }) => id === who);
    if (!pool) throw none('There is no such pool');
    return { name: pool.name, reaches: [{ poolId: pool.id, hasDesktop: true, packageIds: [], through: [] }] };
  }
  const { directory } = parts.estate;
  const groups = await directory.groups();
  const person = of === 'person' ? await directory.person(who) : undefined;
  if (of === 'person' && !person) throw none(`The directory has nobody with the account ${who}`);
  if (of === 'group' && !groups.some(({ name }) => name === who))
    throw none(`The directory has no group named ${who}`);
  const reaches = reachOf({ kind: of, id: who }, groups, await poolAccess(parts));
  return { name: person?.name ?? who, reaches };
}

interface Asked {
  readonly pool: PoolRow;
  readonly reach: Reach;
  readonly own: readonly Coming[];
  readonly at: Instant;
  readonly dyes: ReadonlyMap<string, DyeName>;
  /** Also packages that nobody is assigned to. */
  readonly seesAll: boolean;
}

async function presented(
  parts: Parts,
  { pools }: AheadStores,
  { pool, reach, own, at, dyes, seesAll }: Asked,
): Promise<PoolAhead> {
  const held =
    pool.blend_id === null ? undefined : (await pools.blends.contents([pool.blend_id])).get(pool.blend_id);
  const [now = null] = held ? await comparedContents(parts, [held]) : [];
  const { changes, holds, comparison } = poolAhead(now, own, at);
  const known = new Map([...dyes, ...(await dyesOf(parts, now ? [now.image.id] : []))]);
  const dyeOf = (imageId: string) => known.get(imageId) ?? dyeNames[0];
  const image = (blend: ComparedBlend | null) =>
    blend && { line: blend.image.line, number: blend.image.number, dye: dyeOf(blend.image.id) };
  const sees = (packageId: string) => seesAll || reach.packageIds.includes(packageId);
  const difference = (one: BlendComparison | null) =>
    one && {
      headline: one.headline,
      image: one.image && {
        from: { ...one.image.from, dye: dyeOf(one.image.from.id) },
        to: { ...one.image.to, dye: dyeOf(one.image.to.id) },
      },
      packages: one.packages
        .filter(({ from, to }) => sees((to ?? from)?.packageId ?? ''))
        .map(({ change, name, from, to }) => ({
          change,
          name,
          from: from?.version ?? null,
          to: to?.version ?? null,
        })),
    };
  return {
    poolId: pool.id,
    pool: pool.name,
    hosts: (await pools.hosts.counts(pool.id)).hosts,
    hasDesktop: reach.hasDesktop,
    through: [...reach.through],
    now: image(now),
    then: image(holds),
    difference: difference(comparison),
    changes: changes.map(({ change, standing, comparison: one }) => ({
      kind: change.kind,
      title: change.title,
      to: change.link,
      hosts: change.hosts,
      isWhole: change.isWhole,
      begins: change.begins,
      done: change.done,
      waitsFor: change.waitsFor,
      standing,
      difference: difference(one),
    })),
  };
}

/** By image version. */
async function dyesOf({ db }: Parts, ids: readonly string[]): Promise<ReadonlyMap<string, DyeName>> {
  const rows = await db
    .selectFrom('image_version')
    .select(['id', 'dye'])
    .where('id', 'in', [...new Set(ids)])
    .execute();
  return new Map(rows.map(({ id, dye }) => [id, dye]));
}
