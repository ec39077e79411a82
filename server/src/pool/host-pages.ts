/** The hosts of a pool, page by page. */
import { sql } from 'kysely';
import type { z } from 'zod';
import type { Host } from '@vatline/contract/pool/host';
import type { Page } from '@vatline/contract/page';
import type { poolEndpoints } from '@vatline/contract/pool/endpoints';
import { takesSessions } from '@vatline/core/pool/service-state';
import type { Db } from '../platform/database.ts';
import { holding, pageFrom, placeIn } from '../platform/page.ts';
import { presentHosts } from './present.ts';
import type { PoolStore } from './pools.ts';

/** Those that somebody is at, or should be, come first. */
const isInService = sql<number>`service = 'in service'`;

export type HostQuery = z.output<typeof poolEndpoints.hosts.query>;

export async function hostPage(
  db: Db,
  pools: PoolStore,
  poolId: string,
  { limit, after, q, sort }: HostQuery,
): Promise<Page<Host> & { rows: Host[] }> {
  const pool = await pools.pool(poolId);
  const [service, work, name] = placeIn(after, ['string', 'string', 'string']) ?? [];
  let all = db.selectFrom('host').where('pool_id', '=', poolId);
  if (q !== '') all = all.where('name', 'like', holding(q));
  let rows = all.selectAll().limit(limit + 1);
  if (sort === 'state') rows = rows.orderBy(isInService).orderBy('service').orderBy('work');
  rows = rows.orderBy('name');
  if (name !== undefined)
    rows =
      sort === 'name'
        ? rows.where('name', '>', String(name))
        : rows.where(
            sql<boolean>`(${isInService}, service, work, name)
              > (${service === 'in service' ? 1 : 0}, ${service}, ${work}, ${name})`,
          );
  const { total } = await all.select(({ fn }) => fn.countAll<number>().as('total')).executeTakeFirstOrThrow();
  const found = await rows.execute();
  const inUse = found.filter(takesSessions).map((host) => host.name);
  const sessions = await pools.hosts.sessionsOn(pool, await pools.hosts.counts(poolId), inUse);
  const blends = await pools.blends.facts(poolId);
  return pageFrom(found, { limit, total, placeOf: (host) => [host.service, host.work, host.name] }, (shown) =>
    presentHosts(shown, blends, sessions),
  );
}
