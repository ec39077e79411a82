/** What a host was found to have, and what mends it, as a person says it. */
import type { DriftedHost } from '@vatline/contract/drift';
import { plural, time } from '../../parts/format.ts';

type Found = DriftedHost['drift'][number];

export function foundInWords({ kind, what }: Found): string {
  switch (kind) {
    case 'machine gone':
      return 'the hypervisor has no such machine any more';
    case 'another image':
      return 'its disk was made from another image';
    case 'unknown contents':
      return 'nobody knows what is on it since work on it failed';
    case 'container missing':
      return `lacks ${what}`;
    case 'container too many':
      return `has ${what}, which its blend has not`;
    case 'changed disk':
      return 'its disk is not as its image left it';
    case 'silent agent':
      return 'its agent is silent, so this is what it reported last';
  }
}

const mended: Record<DriftedHost['mending'], string> = {
  'attach only': 'attach anew; nobody has to leave',
  rebuild: 'make anew',
  'by hand': 'by hand: no rollout reaches it',
};

export function mendingInWords({ mending }: Pick<DriftedHost, 'mending'>): string {
  return mended[mending];
}

interface PoolDrift {
  readonly hosts: number;
  readonly drifted: number;
  readonly lookedAt: number | null;
}

/** Over the pools that are shown. */
export function driftInWords(pools: readonly PoolDrift[], zone: string): string {
  const sum = (of: (pool: PoolDrift) => number) => pools.reduce((total, pool) => total + of(pool), 0);
  const [hosts, drifted] = [sum((pool) => pool.hosts), sum((pool) => pool.drifted)];
  const looks = pools.flatMap(({ lookedAt }) => lookedAt ?? []);
  if (hosts === 0) return 'There are no hosts yet.';
  if (looks.length === 0) return 'Nobody has looked yet what the hosts really have.';
  const since = time(Math.min(...looks), zone);
  if (drifted > 0)
    return `${drifted} of ${plural(hosts, 'host')} ${drifted === 1 ? 'is' : 'are'} not what ${drifted === 1 ? 'its blend says' : 'their blends say'}.`;
  return hosts === 1
    ? `The host is what its blend says, as of ${since}.`
    : `All ${plural(hosts, 'host')} are what their blends say, as of ${since}.`;
}

/** Of one pool, in a word or two. */
export function poolInWords({ hosts, drifted, lookedAt }: PoolDrift): string {
  if (hosts === 0) return 'no hosts';
  if (drifted > 0) return `${drifted} of ${hosts}`;
  return lookedAt === null ? 'not known' : 'as it should be';
}

/** Why those that are chosen cannot be mended by one rollout; nothing where they can. */
export function whyNotMended(
  chosen: readonly Pick<DriftedHost, 'poolId' | 'blend' | 'mending'>[],
): string | undefined {
  if (chosen.length === 0) return 'choose the hosts to mend';
  if (new Set(chosen.map(({ poolId }) => poolId)).size > 1)
    return 'a rollout mends hosts of one pool; choose those of one';
  if (new Set(chosen.map(({ blend }) => blend.id)).size > 1)
    return 'they are on different blends; mend those of one first';
  if (chosen.some(({ mending }) => mending === 'by hand'))
    return 'one of them no rollout reaches; keep it out of service';
  return undefined;
}
