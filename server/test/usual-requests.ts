/** Requests that tests of the demo make: a small pool, a rollout in the night, and who is in them. */
import type { LedgerRow } from '@vatline/contract/job';
import type { PackageSummary } from '@vatline/contract/package';
import type { Page } from '@vatline/contract/page';
import type { Host } from '@vatline/contract/pool/host';
import type { RolloutHost } from '@vatline/contract/rollout';

type Get = <T>(path: string) => Promise<T>;

/** All hosts of a pool, by name; of no more than a page. */
export async function hostsOf(get: Get, poolId: string): Promise<readonly Host[]> {
  return (await get<Page<Host>>(`/pools/${poolId}/hosts?limit=500`)).rows;
}

/** All hosts of a rollout, as they begin; of no more than a page. */
export async function hostsOfRollout(get: Get, rolloutId: string): Promise<readonly RolloutHost[]> {
  return (await get<Page<RolloutHost>>(`/rollouts/${rolloutId}/hosts?limit=500`)).rows;
}

/** The whole ledger of a job, of no more than a page. */
export async function ledgerOf(get: Get, jobId: string): Promise<readonly LedgerRow[]> {
  return (await get<Page<LedgerRow>>(`/jobs/${jobId}/ledger?limit=500`)).rows;
}

/** All packages, of no more than a page. */
export async function packagesOf(get: Get): Promise<readonly PackageSummary[]> {
  return (await get<Page<PackageSummary>>('/packages?limit=500')).rows;
}

/** The first person that a text finds. */
export async function personLike(get: Get, text: string): Promise<string> {
  const { rows } = await get<Page<{ account: string }>>(
    `/estate/users?q=${encodeURIComponent(text)}&limit=1`,
  );
  return rows[0]?.account ?? '';
}

export function smallPool(name: string, imageVersionId: string | undefined, pattern: string, count: number) {
  return {
    name,
    imageVersionId,
    kind: 'pooled',
    clone: 'linked',
    pattern,
    start: 1,
    count,
    ou: 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example',
    places: [{ site: 'yard-a', network: 'desks', datastore: 'standard' }],
    size: 'desk-2',
    sessionLimit: 5,
  };
}

export function nightlyRollout<Id extends string | undefined>(poolId: Id, imageVersionId: Id, batch: number) {
  return {
    poolId,
    imageVersionId,
    packageVersionIds: [] as string[],
    window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
    zone: 'Europe/Dublin',
    calendarIds: [],
    batch,
    maxUnavailable: batch,
    drainLimitMinutes: 30,
    reserve: null,
    stop: null,
    notice: null,
    isRemake: false,
    onlyHosts: [] as string[],
  };
}
