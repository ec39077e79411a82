import { driftEndpoints, type DriftedHost } from '@vatline/contract/drift';
import { mendingOf, type Drift } from '@vatline/core/rollout/drift';
import { stateOf } from '@vatline/core/pool/service-state';
import { DONE } from '../../platform/change.ts';
import type { Door } from '../../platform/door.ts';
import { pageFrom, placeIn } from '../../platform/page.ts';
import type { Parts } from '../../platform/parts.ts';
import type { PoolStore } from '../../pool/pools.ts';
import type { DriftLook } from './look.ts';
import type {} from './tables.ts';

export function driftRoutes(door: Door, parts: Parts, pools: PoolStore, look: DriftLook): void {
  door.serve(driftEndpoints.list, ({ query }) => driftedPage(parts, query));
  door.serve(driftEndpoints.pools, () => driftByPool(parts));
  door.serve(driftEndpoints.look, async ({ body }) => {
    await look.pool(await pools.pool(body.poolId));
    return DONE;
  });
}

/** By their worst and then their name, so that whatever concerns most comes first. */
async function driftedPage(
  { db }: Parts,
  { limit, after, pool }: { limit: number; after?: string | undefined; pool?: string | undefined },
) {
  const [rank, name] = placeIn(after, ['number', 'string']) ?? [];
  let all = db
    .selectFrom('host_drift')
    .innerJoin('host', 'host.id', 'host_drift.host_id')
    .select(({ fn }) => [
      'host.id',
      'host.name',
      fn.min<number>('rank').as('rank'),
      fn.min<number>('found_ms').as('foundAt'),
    ])
    .groupBy(['host.id', 'host.name']);
  if (pool !== undefined) all = all.where('pool_id', '=', pool);
  let rows = db
    .selectFrom(all.as('one'))
    .selectAll()
    .orderBy('rank')
    .orderBy('name')
    .limit(limit + 1);
  if (rank !== undefined && name !== undefined)
    rows = rows.where(({ eb, refTuple, tuple }) =>
      eb(refTuple('rank', 'name'), '>', tuple(Number(rank), String(name))),
    );
  const { total } = await db
    .selectFrom(all.as('one'))
    .select(({ fn }) => fn.countAll<number>().as('total'))
    .executeTakeFirstOrThrow();
  const found = await rows.execute();
  const shown = await driftedHosts(db, found);
  return pageFrom(found, { limit, total, placeOf: (row) => [row.rank, row.name] }, (part) =>
    part.flatMap((row) => shown.get(row.id) ?? []),
  );
}

async function driftedHosts(
  db: Parts['db'],
  found: readonly { readonly id: string; readonly foundAt: number }[],
): Promise<ReadonlyMap<string, DriftedHost>> {
  const ids = found.map((row) => row.id);
  const drift = new Map<string, Drift[]>();
  for (const { host_id, kind, what } of await db
    .selectFrom('host_drift')
    .selectAll()
    .where('host_id', 'in', ids)
    .orderBy('rank')
    .orderBy('what')
    .execute())
    drift.set(host_id, [...(drift.get(host_id) ?? []), { kind, what }]);
  const rows = await db
    .selectFrom('host')
    .innerJoin('pool', 'pool.id', 'host.pool_id')
    .innerJoin('blend', 'blend.id', 'host.blend_id')
    .innerJoin('image_version', 'image_version.id', 'blend.image_version_id')
    .select(['host.id', 'host.name', 'host.pool_id', 'pool.name as pool', 'blend.number', 'dye'])
    .select(['image_version.number as imageNumber', 'image_version.line_id as lineId'])
    .select(['blend.id as blendId', 'blend.image_version_id as imageVersionId'])
    .select(['service', 'work', 'power', 'is_held'])
    .where('host.id', 'in', ids)
    .execute();
  const foundAt = new Map(found.map((row) => [row.id, row.foundAt]));
  return new Map(
    rows.map((row) => {
      const own = drift.get(row.id) ?? [];
      return [
        row.id,
        {
          id: row.id,
          name: row.name,
          poolId: row.pool_id,
          pool: row.pool,
          blend: {
            id: row.blendId,
            number: row.number,
            dye: row.dye,
            imageVersionId: row.imageVersionId,
            imageNumber: row.imageNumber,
            lineId: row.lineId,
          },
          drift: own,
          mending: mendingOf(own),
          state: stateOf(row),
          isHeld: row.is_held === 1,
          foundAt: foundAt.get(row.id) ?? 0,
        },
      ];
    }),
  );
}

async function driftByPool({ db }: Parts) {
  const rows = await db
    .selectFrom('pool')
    .leftJoin('drift_look', 'drift_look.pool_id', 'pool.id')
    .select(['pool.id as poolId', 'pool.name as pool', 'drift_look.at_ms as lookedAt'])
    .orderBy('pool.name')
    .execute();
  const counted = await db
    .selectFrom('host')
    .leftJoin(
      (eb) => eb.selectFrom('host_drift').select('host_id').distinct().as('drifted'),
      (join) => join.onRef('drifted.host_id', '=', 'host.id'),
    )
    .select(({ fn }) => [
      'pool_id',
      fn.countAll<number>().as('hosts'),
      fn.count<number>('drifted.host_id').as('drifted'),
    ])
    .groupBy('pool_id')
    .execute();
  const of = new Map(counted.map((row) => [row.pool_id, row]));
  return rows.map((row) => ({
    ...row,
    hosts: of.get(row.poolId)?.hosts ?? 0,
    drifted: of.get(row.poolId)?.drifted ?? 0,
  }));
}
