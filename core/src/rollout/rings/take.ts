/** Which hosts each ring takes: of several rings of a pool, none takes what one before it has. */
import { compileGlob, MatchedPath } from '../../package/glob.ts';
import type { Fault, Result } from '../../result.ts';
import { ok, refuseAll } from '../../result.ts';

export type Take =
  /** All that no ring before it takes. */
  | { readonly by: 'rest' }
  /** So many of all hosts of the pool, counted up to a whole one: the first by name, or an equal part of each site. */
  | { readonly by: 'share'; readonly percent: number; readonly order: 'name' | 'sites' }
  /** Those whose names match a pattern with `*` and `?`. */
  | { readonly by: 'name'; readonly like: string }
  | { readonly by: 'datastore'; readonly datastore: string };

export interface TakingRing {
  readonly name: string;
  readonly poolId: string;
  readonly take: Take;
}

/** A host by where it stands. */
export interface PlacedHost {
  readonly name: string;
  readonly site: string;
  readonly datastore: string;
}

/**
 * The hosts of each ring, in the order in which the pool has them; those spread over sites in turn.
 * Errors: a pattern that cannot be read, a ring that takes no host, or one that an earlier ring has.
 */
export function hostsOfRings<H extends PlacedHost>(
  rings: readonly TakingRing[],
  poolHosts: (poolId: string) => readonly H[],
): Result<readonly (readonly H[])[]> {
  const faults: Fault[] = [];
  /** Host names by pool, and the ring that has each. */
  const taken = new Map<string, Map<string, string>>();
  const lists = rings.map(({ name, poolId, take }, i) => {
    const all = poolHosts(poolId);
    const before = taken.get(poolId) ?? new Map<string, string>();
    const result = wanted(take, all, before);
    if (!result.ok) {
      for (const fault of result.error)
        faults.push({ path: `rings.${i}.take.${fault.path}`, message: fault.message });
      return [];
    }
    const twice = result.value.filter((host) => before.has(host.name));
    const [first] = twice;
    if (first) faults.push({ path: `rings.${i}.take`, message: inTwo(first.name, before, twice.length) });
    else if (result.value.length === 0)
      faults.push({ path: `rings.${i}.take`, message: takesNone(take, all.length) });
    for (const host of result.value) before.set(host.name, before.get(host.name) ?? name);
    taken.set(poolId, before);
    return result.value;
  });
  return faults.length > 0 ? refuseAll(faults) : ok(lists);
}

function wanted<H extends PlacedHost>(
  take: Take,
  all: readonly H[],
  before: ReadonlyMap<string, string>,
): Result<readonly H[]> {
  const free = () => all.filter((host) => !before.has(host.name));
  switch (take.by) {
    case 'rest':
      return ok(free());
    case 'share': {
      const many = Math.ceil((take.percent / 100) * all.length - 1e-9);
      const queue = take.order === 'sites' ? inTurnOfSites(free()) : free();
      return ok(queue.slice(0, many));
    }
    case 'datastore':
      return ok(all.filter((host) => host.datastore === take.datastore));
    case 'name': {
      const glob = compileGlob(take.like);
      if (!glob.ok) return refuseAll(glob.error.map((fault) => ({ ...fault, path: 'like' })));
      return ok(all.filter((host) => glob.value(new MatchedPath(host.name))));
    }
  }
}

/** One of each site, then another of each, for as long as a site has some. */
function inTurnOfSites<H extends PlacedHost>(hosts: readonly H[]): H[] {
  const sites = new Map<string, H[]>();
  for (const host of hosts) {
    const list = sites.get(host.site);
    if (list) list.push(host);
    else sites.set(host.site, [host]);
  }
  const rounds = Math.max(0, ...[...sites.values()].map((list) => list.length));
  return Array.from({ length: rounds }, (_, i) => i).flatMap((i) =>
    [...sites.values()].flatMap((list) => list[i] ?? []),
  );
}

function inTwo(host: string, before: ReadonlyMap<string, string>, many: number): string {
  const others = many > 1 ? ` and ${many - 1} more` : '';
  return `${host}${others} ${many > 1 ? 'are' : 'is'} in ${before.get(host) ?? ''} already`;
}

function takesNone(take: Take, all: number): string {
  if (all === 0) return 'the pool has no hosts';
  switch (take.by) {
    case 'name':
      return `no host of the pool is called ${take.like}`;
    case 'datastore':
      return `no host of the pool lies on ${take.datastore}`;
    default:
      return 'the rings before it take all hosts of the pool';
  }
}

/** `10 % of it, the first by name`. */
export function takeInWords(take: Take): string {
  switch (take.by) {
    case 'rest':
      return 'all that no ring before it takes';
    case 'share':
      return `${take.percent} %, ${take.order === 'sites' ? 'an equal part of each site' : 'the first by name'}`;
    case 'name':
      return `those called ${take.like}`;
    case 'datastore':
      return `those on ${take.datastore}`;
  }
}
