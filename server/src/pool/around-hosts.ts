/** What outside systems say of some hosts, asked once for all of them. */
import { takesSessions } from '@vatline/core/pool/service-state';
import { MINUTE, type Instant } from '@vatline/core/time/instant';
import type { HostMachine } from '../estate/driver/hypervisor.ts';
import type { HostStream } from '../estate/driver/streaming.ts';
import type { Parts } from '../platform/parts.ts';
import type { KnownBlends } from './blends.ts';
import type { PoolStore } from './pools.ts';
import type { HostRow, PoolRow } from './tables.ts';

/** Agents check every five minutes; one that missed two is silent. */
const SILENT_MS = 11 * MINUTE;

export interface AroundHosts {
  readonly blends: KnownBlends;
  readonly sessions: ReadonlyMap<string, number>;
  readonly machines: ReadonlyMap<string, HostMachine>;
  /** What hosts without a system disk stream. */
  readonly streams: ReadonlyMap<string, HostStream>;
  readonly reports: ReadonlyMap<string, Instant | null>;
  readonly owners: ReadonlyMap<string, string>;
  /** Sites of the pool's places, in their order. */
  readonly sites: readonly string[];
  /** Agents that have not reported since then are silent. */
  readonly silentBefore: Instant;
}

export async function aroundHosts(
  { estate }: Pick<Parts, 'estate'>,
  pools: PoolStore,
  pool: PoolRow,
  hosts: readonly HostRow[],
): Promise<AroundHosts> {
  const names = hosts.map((host) => host.name);
  const inUse = hosts.filter(takesSessions).map((host) => host.name);
  return {
    blends: await pools.blends.facts(pool.id),
    sessions: await pools.hosts.sessionsOn(pool, await pools.hosts.counts(pool.id), inUse),
    machines: await estate.hypervisor.hostMachines(hosts.flatMap((host) => host.machine_id ?? [])),
    streams: pool.clone === 'network' ? await estate.streaming.of(names) : new Map<string, HostStream>(),
    reports: await estate.agents.lastReports(names),
    owners: await estate.broker.owners(names),
    sites: (await pools.placesOf(pool.id)).map((place) => place.site),
    silentBefore: estate.clock.now() - SILENT_MS,
  };
}
