/** The hosts of a pool, page by page. */
import type { z } from 'zod';
import type { Host } from '@vatline/contract/pool/host';
import type { Page } from '@vatline/contract/page';
import type { poolEndpoints } from '@vatline/contract/pool/endpoints';
import { takesSessions } from '@vatline/core/rollout/host-state';
import type { Db } from '../platform/database.ts';
import { holding, pageFrom, placeIn } from '../platform/page.ts';
import { presentHosts } from './present.ts';
import type { PoolStore } from './pools.ts';
import type { HostRow } from './tables.ts';

export type HostQuery = z.output<typeof poolEndpoints.hosts.query>;

export async function hostPage(
  db: Db,
  pools: PoolStore,
  poolId: string,
  { limit, after, q, sort }: HostQuery,
): Promise<Page<Host> & { rows: Host[] }> {
  const pool = await pools.pool(poolId);
  const [state, name] = placeIn(after, ['string', 'string']) ?? [];
  let all = db.selectFrom('host').where('pool_id', '=', poolId);
  if (q !== '') all = all.where('name', 'like', holding(q));
  let rows = all.selectAll().limit(limit + 1);
  if (sort === 'state') rows = rows.orderBy('state');
  rows = rows.orderBy('name');
  if (name !== undefined)
    rows =
      sort === 'name'
        ? rows.where('name', '>', String(name))
        : rows.where(({ eb, refTuple, tuple }) =>
            eb(refTuple('state', 'name'), '>', tuple(state as HostRow['state'], String(name))),
          );
  const { total } = await all.select(({ fn }) => fn.countAll<number>().as('total')).executeTakeFirstOrThrow();
  const found = await rows.execute();
  const inUse = found.filter((host) => takesSessions(host.state)).map((host) => host.name);
  const sessions = await pools.hosts.sessionsOn(pool, await pools.hosts.counts(poolId), inUse);
  const blends = await pools.blends.facts(poolId);
  return pageFrom(found, { limit, total, placeOf: (host) => [host.state, host.name] }, (shown) =>
    presentHosts(shown, blends, sessions),
  );
}
