/** Blends as pages show them: which hosts run what, and what it takes to get from one to another. */
import type { BlendComparison, BlendUse, PoolBlend } from '@vatline/contract/blends';
import type { Blend } from '@vatline/contract/pool/blend';
import { blendFaults } from '@vatline/core/rollout/blends/checks';
import { compareBlends, type ComparedBlend } from '@vatline/core/rollout/blends/compare';
import { needOf, type HostContents, type HostNeed } from '@vatline/core/rollout/blends/need';
import { sql } from 'kysely';
import { attachCandidates } from '../../package/attach-check.ts';
import { pageFrom, placeIn } from '../../platform/page.ts';
import type { Parts } from '../../platform/parts.ts';
import { notFound } from '../../platform/problem.ts';
import type { PoolRow } from '../../pool/tables.ts';
import type { Plans } from '../plans.ts';
import { mendingsOfPool } from '../drift/mending.ts';
import { comparedContents } from './compared.ts';
import { imageFacts } from './facts.ts';

export class BlendPages {
  constructor(
    private readonly parts: Parts,
    private readonly plans: Plans,
  ) {}

  private get pools() {
    return this.plans.pools;
  }

  /** Each pool with what its hosts run, in a fixed number of questions. */
  async inUse(): Promise<BlendUse[]> {
    const pools = await this.pools.all();
    const counts = await this.pools.hosts.countsByPool();
    const running = await this.parts.db
      .selectFrom('host')
      .select(({ fn }) => ['pool_id', 'blend_id', fn.countAll<number>().as('hosts')])
      .groupBy(['pool_id', 'blend_id'])
      .orderBy('hosts', 'desc')
      .execute();
    const next = (pool: PoolRow) => counts.get(pool.id)?.next ?? '';
    const blends = await this.pools.blends.some([
      ...running.map((row) => row.blend_id),
      ...pools.flatMap((pool) => [pool.blend_id ?? '', next(pool)]),
    ]);
    return pools.map((pool) => ({
      poolId: pool.id,
      pool: pool.name,
      lineId: pool.line_id,
      hosts: counts.get(pool.id)?.hosts ?? 0,
      current: blends.get(pool.blend_id ?? '') ?? null,
      next: blends.get(next(pool)) ?? null,
      running: running.flatMap(({ pool_id, blend_id, hosts }) => {
        const blend = pool_id === pool.id ? blends.get(blend_id) : undefined;
        return blend ? [{ blend, hosts }] : [];
      }),
    }));
  }

  /** The blends of a pool, newest first. */
  async ofPool(
    poolId: string,
    { limit, after }: { readonly limit: number; readonly after?: string | undefined },
  ) {
    const pool = await this.pools.pool(poolId);
    const rows = await this.newest(poolId, limit + 1, placeIn(after, ['number'])?.[0] as number | undefined);
    const ids = rows.map((row) => row.id);
    const held = await this.heldOn(poolId);
    const blends = await this.pools.blends.some([...ids, ...held.map((one) => one.blendId)]);
    const compared = await this.compared([...blends.values()]);
    const refusals = await this.refusals(
      pool,
      ids.flatMap((id) => blends.get(id) ?? []),
    );
    const { next } = await this.pools.hosts.counts(poolId);
    const total = await this.countOf(poolId);
    const present = (shown: readonly { id: string }[]) =>
      shown.flatMap(({ id }, i): PoolBlend[] => {
        const blend = blends.get(id);
        const to = compared.get(id);
        if (!blend || !to) return [];
        const before = compared.get(rows[i + 1]?.id ?? '');
        return [
          {
            blend,
            hosts: held.filter((one) => one.blendId === id).reduce((sum, { hosts }) => sum + hosts, 0),
            isCurrent: pool.blend_id === id,
            isNext: next === id,
            change: before ? compareBlends(before, to).headline : null,
            needs: needsIn(held, compared, to),
            refusal: refusals.get(id) ?? null,
          },
        ];
      });
    return pageFrom(rows, { limit, total, placeOf: (row) => [row.number] }, present);
  }

  async comparison(id: string, withId: string): Promise<BlendComparison> {
    const blends = await this.pools.blends.some([id, withId]);
    const [from, to] = [blends.get(withId), blends.get(id)];
    if (!from || !to) throw notFound('such blend');
    const compared = await this.compared([from, to]);
    const result = compareBlends(must(compared, withId), must(compared, id));
    const { pool_id } = await this.pools.blends.get(id);
    const pool = await this.pools.pool(pool_id);
    return {
      from,
      to,
      headline: result.headline,
      image: result.image && { lineId: pool.line_id, ...result.image },
      packages: result.packages.map((row) => ({ ...row })),
      need: result.need,
      work:
        result.need === 'nothing' ? null : await this.plans.workTime(pool, result.need, to.packages.length),
    };
  }

  private newest(poolId: string, limit: number, below: number | undefined) {
    let rows = this.parts.db
      .selectFrom('blend')
      .select(['id', 'number'])
      .where('pool_id', '=', poolId)
      .orderBy('number', 'desc')
      .limit(limit);
    if (below !== undefined) rows = rows.where('number', '<', below);
    return rows.execute();
  }

  private async countOf(poolId: string): Promise<number> {
    const { n } = await this.parts.db
      .selectFrom('blend')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('pool_id', '=', poolId)
      .executeTakeFirstOrThrow();
    return n;
  }

  /** What hosts of a pool hold, counted: ten thousand hosts hold a handful of different things. */
  private async heldOn(poolId: string): Promise<Held[]> {
    const mendings = await mendingsOfPool(this.parts, poolId);
    const rows = await this.parts.db
      .selectFrom('host')
      .select(({ fn, eb }) => [
        'blend_id as blendId',
        'contents_known',
        eb('work', '=', 'failed').as('failed'),
        // Each that drifted stands for itself.
        sql<string | null>`iif(id in ${among([...mendings.keys()])}, id, null)`.as('drifted'),
        fn.countAll<number>().as('hosts'),
      ])
      .where('pool_id', '=', poolId)
      .groupBy(['blend_id', 'contents_known', 'failed', 'drifted'])
      .execute();
    return rows.map(({ blendId, contents_known, failed, drifted, hosts }) => {
      const mending = drifted === null ? undefined : mendings.get(drifted);
      const known = { isKnown: contents_known === 1, hasFailed: Boolean(failed) };
      return { blendId, hosts, ...known, ...(mending && { mending }) };
    });
  }

  /** As the core compares them, by id. */
  private async compared(blends: readonly Blend[]): Promise<Map<string, ComparedBlend>> {
    const compared = await comparedContents(
      this.parts,
      blends.map(({ imageVersionId, packages }) => ({
        imageVersionId,
        packageVersionIds: packages.map(({ id }) => id),
      })),
    );
    return new Map(blends.flatMap(({ id }, i) => (compared[i] ? [[id, compared[i]] as const] : [])));
  }

  /** Why hosts cannot be taken to blends now, by id: as a rollout would be refused that begins now. */
  private async refusals(pool: PoolRow, blends: readonly Blend[]): Promise<Map<string, string>> {
    const images = await imageFacts(this.parts, [...new Set(blends.map((one) => one.imageVersionId))]);
    const wanted = [...new Set(blends.flatMap(({ packages }) => packages.map((one) => one.id)))];
    const candidates = await attachCandidates(this.parts, wanted, pool.name);
    const had = await this.pools.blends.packageIds(blends.map(({ id }) => id));
    const at = this.parts.estate.clock.now();
    const found = new Map<string, string>();
    for (const blend of blends) {
      const image = images.get(blend.imageVersionId);
      const packages = blend.packages.flatMap(({ id }) => {
        const one = candidates.get(id);
        return one ? [{ ...one, id }] : [];
      });
      const isWhole = packages.length === (had.get(blend.id) ?? []).length;
      const [fault] = image ? blendFaults({ image, packages, clashes: [], at }) : [];
      const why = isWhole ? fault?.message : 'a package version of it was deleted';
      if (why !== undefined) found.set(blend.id, why);
    }
    return found;
  }
}

interface Held extends Pick<HostContents, 'isKnown' | 'hasFailed'> {
  readonly blendId: string;
  readonly hosts: number;
}

const among = (ids: readonly string[]) => sql`(select value from json_each(${JSON.stringify(ids)}))`;

function needsIn(
  held: readonly Held[],
  compared: ReadonlyMap<string, ComparedBlend>,
  to: ComparedBlend,
): PoolBlend['needs'] {
  const counts: Record<HostNeed, number> = { nothing: 0, 'settings only': 0, 'attach only': 0, rebuild: 0 };
  for (const { blendId, hosts, ...known } of held) {
    const blend = contentsOf(must(compared, blendId));
    counts[needOf({ ...known, blend }, contentsOf(to))] += hosts;
  }
  return {
    rebuild: counts.rebuild,
    attachOnly: counts['attach only'],
    settingsOnly: counts['settings only'],
  };
}

function contentsOf({ image, packages, baselineRevisionId }: ComparedBlend): HostContents['blend'] {
  return { imageVersionId: image.id, packageVersionIds: packages.map(({ id }) => id), baselineRevisionId };
}

function must<T>(map: ReadonlyMap<string, T>, id: string): T {
  const found = map.get(id);
  if (found === undefined) throw notFound('such blend');
  return found;
}
