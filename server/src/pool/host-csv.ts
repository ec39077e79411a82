/** All hosts of a pool as a CSV file. */
import { poolFileEndpoints } from '@vatline/contract/pool/endpoints';
import { hostsCsv } from '@vatline/core/pool/host-csv';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { aroundHosts } from './around-hosts.ts';
import type { PoolStore } from './pools.ts';
import { presentHosts } from './present.ts';

export function hostCsvRoute(door: Door, parts: Parts, pools: PoolStore): void {
  door.serveRaw(poolFileEndpoints.hosts, async ({ params: { id }, response }) => {
    const pool = await pools.pool(id);
    const hosts = await pools.hosts.of(id);
    const listed = presentHosts(hosts, await aroundHosts(parts, pools, pool, hosts));
    response.attachment(`${pool.name}.csv`).type(poolFileEndpoints.hosts.gives).send(hostsCsv(listed));
  });
}
