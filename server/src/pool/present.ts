/** Pools and hosts as the API gives them. */
import type { Blend } from '@vatline/contract/pool/blend';
import type { Cell, Host } from '@vatline/contract/pool/host';
import type { PoolDetail, PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Job } from '@vatline/contract/job';
import { stateOf } from '@vatline/core/pool/service-state';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import type { AroundHosts } from './around-hosts.ts';
import { noHosts, type HostCell, type HostCounts } from './hosts.ts';
import { settingsIn, type PoolStore } from './pools.ts';
import type { KnownBlends } from './blends.ts';
import type { HostRow, PoolRow } from './tables.ts';

type PartsOfPools = Pick<Parts, 'jobs' | 'estate'>;

/** A fixed number of questions, however many pools and hosts there are. */
export async function poolSummaries(parts: PartsOfPools, pools: PoolStore): Promise<PoolSummary[]> {
  const rows = await pools.all();
  const counts = await pools.hosts.countsByPool();
  const blends = await pools.blends.some(
    rows.flatMap((pool) => [pool.blend_id, counts.get(pool.id)?.next].filter((id) => typeof id === 'string')),
  );
  const jobs = await parts.jobs.activeBySubject('pool:');
  return Promise.all(
    rows.map(async (pool) => {
      const own = counts.get(pool.id) ?? noHosts;
      const sessions = await pools.hosts.sessionsOf(pool, own);
      return summary(pool, { counts: own, blends, sessions, job: jobs.get(`pool:${pool.id}`) ?? null });
    }),
  );
}

export async function poolDetail(parts: PartsOfPools, pools: PoolStore, id: string): Promise<PoolDetail> {
  const pool = await pools.pool(id);
  const counts = await pools.hosts.counts(id);
  const own = await pools.blends.of(id);
  const blends = await pools.blends.some(own);
  const sessions = await pools.hosts.sessionsOf(pool, counts);
  const job = await parts.jobs.activeOn(`pool:${id}`);
  return {
    ...summary(pool, { counts, blends, sessions, job }),
    pattern: pool.pattern,
    ou: pool.ou,
    settings: settingsIn(pool),
    settingsRevision: pool.settings_revision,
    places: await pools.placesOf(id),
    sourceHold: pool.source_hold,
    blends: own.flatMap((blend) => blends.get(blend) ?? []),
    jobs: await parts.jobs.newest(`pool:${id}`, 10),
    expected: [...(await parts.estate.activity.expected(pool.name, counts.hosts, pool.session_limit))],
  };
}

/** The hosts of a pool as cells: nothing that costs a question for each. */
export async function poolCells(pools: PoolStore, id: string): Promise<Cell[]> {
  await pools.pool(id);
  return presentCells(await pools.hosts.cellsOf(id), await pools.blends.facts(id));
}

export function presentCells(hosts: readonly HostCell[], blends: KnownBlends): Cell[] {
  return hosts.map((host) => {
    const blend = blends.get(host.blend_id);
    if (!blend) throw notFound('such blend');
    const next = host.next_blend_id === null ? undefined : blends.get(host.next_blend_id);
    return { id: host.id, name: host.name, dye: blend.dye, next: next?.dye ?? null, state: stateOf(host) };
  });
}

export function presentHosts(
  hosts: readonly HostRow[],
  { blends, sessions, machines, streams, reports, owners, sites, silentBefore }: AroundHosts,
): Host[] {
  return hosts.map((host) => {
    const blend = blends.get(host.blend_id);
    if (!blend) throw notFound('such blend');
    const stream = streams.get(host.name);
    const machine = machines.get(host.machine_id ?? '');
    const lastReport = reports.get(host.name) ?? null;
    return {
      id: host.id,
      name: host.name,
      state: stateOf(host),
      dye: blend.dye,
      blend: blend.number,
      nextDye: (host.next_blend_id && blends.get(host.next_blend_id)?.dye) || null,
      sessions: sessions.get(host.name) ?? 0,
      note: host.note,
      owner: owners.get(host.name) ?? null,
      site: sites[host.place] ?? '',
      lastReport,
      isSilent:
        (machine === undefined || machine.power === 'on') && lastReport !== null && lastReport < silentBefore,
      upSince: machine?.power === 'on' ? machine.since : null,
      ownBytes: stream?.scratchUsedBytes ?? machine?.ownBytes ?? 0,
      growsBytesPerDay: stream?.fillsBytesPerDay ?? machine?.growsBytesPerDay ?? 0,
      scratchBytes: stream?.scratchBytes ?? null,
    };
  });
}

interface Around {
  readonly counts: HostCounts;
  readonly blends: ReadonlyMap<string, Blend>;
  readonly sessions: number;
  readonly job: Job | null;
}

function summary(pool: PoolRow, { counts, blends, sessions, job }: Around): PoolSummary {
  return {
    id: pool.id,
    name: pool.name,
    kind: pool.kind,
    clone: pool.clone,
    lineId: pool.line_id,
    hosts: counts.hosts,
    inService: counts.taking,
    sessions,
    sessionLimit: pool.session_limit,
    blend: (pool.blend_id && blends.get(pool.blend_id)) || null,
    nextBlend: (counts.next && blends.get(counts.next)) || null,
    activeJob: job,
  };
}
