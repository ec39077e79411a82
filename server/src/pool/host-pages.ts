/** The hosts of a pool, page by page. */
import { sql } from 'kysely';
import type { z } from 'zod';
import type { Host } from '@vatline/contract/pool/host';
import type { Page } from '@vatline/contract/page';
import type { poolEndpoints } from '@vatline/contract/pool/endpoints';
import type { HostState } from '@vatline/core/pool/service-state';
import { holding, pageFrom, placeIn } from '../platform/page.ts';
import type { Parts } from '../platform/parts.ts';
import { aroundHosts } from './around-hosts.ts';
import { presentHosts } from './present.ts';
import type { PoolStore } from './pools.ts';

/** Those that somebody is at, or should be, come first. */
const isInService = sql<number>`service = 'in service'`;

/** As `stateOf` says it. */
const stateInWords = sql<HostState>`case when work != 'none' then work when power != 'on' then power
  when service = 'out of service' then 'held' else service end`;

/** As one value, since SQLite takes about 32,000 in a statement. */
const among = (names: readonly string[]) =>
  sql<string>`(select value from json_each(${JSON.stringify(names)}))`;

export type HostQuery = z.output<typeof poolEndpoints.hosts.query>;

export async function hostPage(
  parts: Pick<Parts, 'db' | 'estate'>,
  pools: PoolStore,
  poolId: string,
  { limit, after, q, sort, state, blend, site }: HostQuery,
): Promise<Page<Host> & { rows: Host[] }> {
  const pool = await pools.pool(poolId);
  const [service, work, name] = placeIn(after, ['string', 'string', 'string']) ?? [];
  let all = parts.db.selectFrom('host').where('pool_id', '=', poolId);
  if (q !== '') all = all.where('name', 'like', holding(q));
  if (state === 'silent') all = all.where('name', 'in', among(await parts.estate.agents.silent()));
  else if (state !== undefined) all = all.where(stateInWords, '=', state);
  if (blend !== undefined)
    all = all.where('blend_id', 'in', (eb) =>
      eb.selectFrom('blend').select('id').where('pool_id', '=', poolId).where('number', '=', blend),
    );
  if (site !== undefined)
    all = all.where('place', 'in', (eb) =>
      eb.selectFrom('pool_place').select('place').where('pool_id', '=', poolId).where('site', '=', site),
    );
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
  const around = await aroundHosts(parts, pools, pool, found);
  return pageFrom(found, { limit, total, placeOf: (host) => [host.service, host.work, host.name] }, (shown) =>
    presentHosts(shown, around),
  );
}
