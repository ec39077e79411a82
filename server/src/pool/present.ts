/** Pools and hosts as the API gives them. */
import type { Blend } from '@vatline/contract/pool/blend';
import type { Cell, Host } from '@vatline/contract/pool/host';
import type { PoolDetail, PoolSummary } from '@vatline/contract/pool/endpoints';
import { takesSessions } from '@vatline/core/rollout/host-state';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import type { PoolStore } from './pools.ts';
import type { HostRow, PoolRow } from './tables.ts';

type Known = ReadonlyMap<string, Blend>;
type PartsOfPools = Pick<Parts, 'jobs' | 'estate'>;

export async function poolSummaries(parts: PartsOfPools, pools: PoolStore): Promise<PoolSummary[]> {
  const blends = await pools.blends.all();
  return Promise.all(
    (await pools.all()).map(async (pool) => {
      const hosts = await pools.hosts.of(pool.id);
      return summary(parts, pool, { hosts, blends, sessions: await pools.hosts.sessions(pool, hosts) });
    }),
  );
}

export async function poolDetail(parts: PartsOfPools, pools: PoolStore, id: string): Promise<PoolDetail> {
  const pool = await pools.pool(id);
  const hosts = await pools.hosts.of(id);
  const blends = await pools.blends.all();
  const sessions = await pools.hosts.sessions(pool, hosts);
  return {
    ...(await summary(parts, pool, { hosts, blends, sessions })),
    pattern: pool.pattern,
    ou: pool.ou,
    site: pool.site,
    datastore: pool.datastore,
    hostList: presentHosts(hosts, blends, sessions),
    blends: (await pools.blends.of(id)).flatMap((own) => blends.get(own) ?? []),
    jobs: await parts.jobs.newest(`pool:${id}`, 10),
    expected: [...(await parts.estate.activity.expected(pool.name, hosts.length, pool.session_limit))],
  };
}

/** The hosts of a pool as cells: nothing that costs a question for each. */
export async function poolCells(pools: PoolStore, id: string): Promise<Cell[]> {
  await pools.pool(id);
  const dyes = await pools.blends.dyes(id);
  return (await pools.hosts.of(id)).map((host) => {
    const dye = dyes.get(host.blend_id);
    if (!dye) throw notFound('such blend');
    const next = host.next_blend_id === null ? undefined : dyes.get(host.next_blend_id);
    return { id: host.id, name: host.name, dye, next: next ?? null, state: host.state };
  });
}

export function presentHosts(
  hosts: readonly HostRow[],
  blends: Known,
  sessions: ReadonlyMap<string, number>,
): Host[] {
  return hosts.map((host) => {
    const blend = blends.get(host.blend_id);
    if (!blend) throw notFound('such blend');
    return {
      id: host.id,
      name: host.name,
      state: host.state,
      dye: blend.dye,
      blend: blend.number,
      nextDye: (host.next_blend_id && blends.get(host.next_blend_id)?.dye) || null,
      sessions: sessions.get(host.name) ?? 0,
      note: host.note,
    };
  });
}

async function summary(
  parts: PartsOfPools,
  pool: PoolRow,
  {
    hosts,
    blends,
    sessions,
  }: { hosts: readonly HostRow[]; blends: Known; sessions: ReadonlyMap<string, number> },
): Promise<PoolSummary> {
  const next = hosts.find((host) => host.next_blend_id !== null)?.next_blend_id;
  return {
    id: pool.id,
    name: pool.name,
    kind: pool.kind,
    clone: pool.clone,
    lineId: pool.line_id,
    hosts: hosts.length,
    inService: hosts.filter((host) => takesSessions(host.state)).length,
    sessions: [...sessions.values()].reduce((sum, n) => sum + n, 0),
    sessionLimit: pool.session_limit,
    blend: (pool.blend_id && blends.get(pool.blend_id)) || null,
    nextBlend: (next && blends.get(next)) || null,
    activeJob: await parts.jobs.activeOn(`pool:${pool.id}`),
  };
}
