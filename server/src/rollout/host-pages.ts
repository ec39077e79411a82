/** The hosts of a rollout, page by page, and all of them as cells. */
import { sql } from 'kysely';
import type { z } from 'zod';
import type { Page } from '@vatline/contract/page';
import type { Cell } from '@vatline/contract/pool/host';
import type { RolloutHost, rolloutEndpoints } from '@vatline/contract/rollout';
import { holding, pageFrom, placeIn } from '../platform/page.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { aroundHosts } from '../pool/around-hosts.ts';
import { presentCells, presentHosts } from '../pool/present.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { HostRow } from '../pool/tables.ts';
import type { RolloutHostRow } from './tables.ts';

export type RolloutHostQuery = z.output<typeof rolloutEndpoints.hosts.query>;
type Known = Pick<Parts, 'db'>;

/** Those that need somebody, those at work, those that wait, those that are done, those set aside. */
const rank = sql<number>`case stage when 'failed' then 0 when 'waiting' then 2 when 'done' then 3
  when 'set aside' then 4 else 1 end`;

export async function rolloutHostPage(
  { db, estate }: Pick<Parts, 'db' | 'estate'>,
  pools: PoolStore,
  rolloutId: string,
  { limit, after, q, stage, sort }: RolloutHostQuery,
): Promise<Page<RolloutHost> & { rows: RolloutHost[] }> {
  const { pool_id } = await rolloutRow({ db }, rolloutId);
  const [lastRank, lastNumber] = placeIn(after, ['number', 'number']) ?? [];
  let all = db
    .selectFrom('rollout_host')
    .innerJoin('known_host as host', 'host.id', 'rollout_host.host_id')
    .where('rollout_id', '=', rolloutId);
  if (q !== '') all = all.where('host.name', 'like', holding(q));
  if (stage !== undefined) all = all.where('stage', '=', stage);
  let rows = all
    .selectAll('host')
    .select(['number', 'stage', 'way', 'attempts', 'started_ms', 'work_ms', 'finished_ms', 'error'])
    .select(rank.as('rank'))
    .limit(limit + 1);
  if (sort === 'stage') rows = rows.orderBy(rank);
  rows = rows.orderBy('number');
  if (lastRank !== undefined)
    rows =
      sort === 'turn'
        ? rows.where('number', '>', Number(lastNumber))
        : rows.where(sql<boolean>`(${rank}, number) > (${Number(lastRank)}, ${Number(lastNumber)})`);
  const { total } = await all.select(({ fn }) => fn.countAll<number>().as('total')).executeTakeFirstOrThrow();
  const found = await rows.execute();
  const around = await aroundHosts({ estate }, pools, await pools.pool(pool_id), found);
  const waits = await waitsOf({ estate }, found);
  return pageFrom(found, { limit, total, placeOf: (row) => [row.rank, row.number] }, (shown) => {
    const hosts = presentHosts(shown, around);
    return shown.flatMap((row, i) => {
      const host = hosts[i];
      if (!host) return [];
      const { stage: own, way, attempts, started_ms, finished_ms, error } = row;
      const looksAt = waits.looks.get(row.name) ?? null;
      const heldSessions = waits.held.get(row.name) ?? 0;
      const times = { startedAt: started_ms, finishedAt: finished_ms };
      return [{ host, stage: own, way, looksAt, heldSessions, attempts, ...times, error }];
    });
  });
}

type Served = Pick<RolloutHostRow & HostRow, 'name' | 'stage' | 'way' | 'work_ms'>;

/** What hosts wait for that are or were attached in service: their agents, and those who are on them from before. */
async function waitsOf({ estate: { agents } }: Pick<Parts, 'estate'>, rows: readonly Served[]) {
  const served = rows.filter((row) => row.way === 'attach in service');
  const held = new Map<string, number>();
  const looks = new Map<string, number>();
  if (served.length === 0) return { looks, held };
  for (const { host, sessions } of await agents.held(served.map((row) => row.name)))
    held.set(host, Math.max(held.get(host) ?? 0, sessions));
  const next = await agents.nextChecks(served.map((row) => row.name));
  for (const row of served) {
    const at = next.get(row.name);
    if (at !== undefined && waitsForLook(row, at - agents.pace.checkMs)) looks.set(row.name, at);
  }
  return { looks, held };
}

/** Once its agent has looked, it attaches; then its report is waited for. */
function waitsForLook({ stage, work_ms }: Served, lastCheck: number): boolean {
  return stage === 'verifying' || (stage === 'attaching' && lastCheck <= (work_ms ?? 0));
}

export async function rolloutCells({ db }: Known, pools: PoolStore, rolloutId: string): Promise<Cell[]> {
  const { pool_id } = await rolloutRow({ db }, rolloutId);
  const hosts = await db
    .selectFrom('rollout_host')
    .innerJoin('known_host as host', 'host.id', 'rollout_host.host_id')
    .select([
      'host.id',
      'host.name',
      'host.blend_id',
      'host.next_blend_id',
      'host.service',
      'host.work',
      'host.power',
    ])
    .where('rollout_id', '=', rolloutId)
    .orderBy('number')
    .execute();
  return presentCells(hosts, await pools.blends.facts(pool_id));
}

async function rolloutRow({ db }: Known, id: string): Promise<{ pool_id: string }> {
  const row = await db.selectFrom('rollout').select('pool_id').where('id', '=', id).executeTakeFirst();
  if (!row) throw notFound('such rollout');
  return row;
}
