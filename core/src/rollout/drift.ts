/**
 * Drift: what a host really has against the blend it is taken to run. Somebody changed it by hand, a
 * container went away, a restore brought back an older disk. What is found is what those outside
 * report; what none of them tells is not guessed.
 */
import type { Mending } from './blends/need.ts';

/** The worst first. */
export const driftKinds = [
  'machine gone',
  'another image',
  'unknown contents',
  'container missing',
  'container too many',
  'changed disk',
  'silent agent',
] as const;
export type DriftKind = (typeof driftKinds)[number];

export interface Drift {
  readonly kind: DriftKind;
  /** The container, by name where it is known; empty for all other kinds. */
  readonly what: string;
}

/** A host as the hypervisor and its agent report it. */
export interface HostSeen {
  /** `none` for a host that is no virtual machine, of which only its agent tells. */
  readonly machine: 'there' | 'gone' | 'none';
  readonly isOn: boolean;
  /** What its disk was made from; null where nobody tells. */
  readonly imageId: string | null;
  /** Digest of what is on its disk; null where nobody tells, or where it is its owner's to change. */
  readonly disk: string | null;
  /** Digests of the containers that it gives to whoever signs in. */
  readonly containers: ReadonlySet<string>;
  /** Its agent has not reported for over two checks. */
  readonly isSilent: boolean;
  /** False from a failure in the middle of its work until it is done. */
  readonly isKnown: boolean;
}

/** What it should have by its blend. */
export interface HostWanted {
  readonly imageId: string;
  /** Digest of a disk made from that image just now; null where it cannot be told. */
  readonly disk: string | null;
  /** Names of containers by digest. */
  readonly containers: ReadonlyMap<string, string>;
}

/**
 * The worst first; nothing where the host is what it should be. A machine that is gone has nothing
 * else, and on one made from another image no more is compared: it is made anew as a whole. Of a
 * silent agent the containers are those that it reported last.
 */
export function driftOf(seen: HostSeen, wanted: HostWanted, nameOf: (digest: string) => string): Drift[] {
  const one = (kind: DriftKind): Drift => ({ kind, what: '' });
  if (seen.machine === 'gone') return [one('machine gone')];
  const silent = seen.isOn && seen.isSilent ? [one('silent agent')] : [];
  if (seen.imageId !== null && seen.imageId !== wanted.imageId) return [one('another image'), ...silent];
  if (!seen.isKnown) return [one('unknown contents'), ...silent];
  const missing = [...wanted.containers].filter(([digest]) => !seen.containers.has(digest));
  const tooMany = [...seen.containers].filter((digest) => !wanted.containers.has(digest));
  const isChanged = seen.disk !== null && wanted.disk !== null && seen.disk !== wanted.disk;
  return [
    ...missing.map(([, what]): Drift => ({ kind: 'container missing', what })),
    ...tooMany.map((digest): Drift => ({ kind: 'container too many', what: nameOf(digest) })),
    ...(isChanged ? [one('changed disk')] : []),
    ...silent,
  ];
}

const mendedBy: Record<DriftKind, Mending> = {
  'machine gone': 'by hand',
  'another image': 'rebuild',
  'unknown contents': 'rebuild',
  'container missing': 'attach only',
  'container too many': 'attach only',
  'changed disk': 'rebuild',
  'silent agent': 'by hand',
};

/** Nothing can be done to a host of which nobody hears; otherwise the most that any of it asks for. */
export function mendingOf(drift: readonly Drift[]): Mending {
  const ways = drift.map(({ kind }) => mendedBy[kind]);
  if (ways.includes('by hand')) return 'by hand';
  return ways.includes('rebuild') ? 'rebuild' : 'attach only';
}
