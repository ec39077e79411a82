/**
 * Storage that a pool takes, by how its hosts' disks come from the image. See `docs/models.md`,
 * "Clone storage". All sizes in bytes.
 */

export const cloneKinds = ['full', 'linked', 'network'] as const;
/** `full`: each host has the whole image. `linked`: hosts share a parent disk. `network`: hosts stream one image. */
export type CloneKind = (typeof cloneKinds)[number];

export interface DatastoreSpace {
  readonly name: string;
  readonly capacityBytes: number;
  readonly usedBytes: number;
  /** Bytes promised for each byte that is there; 1 promises no more than there is. */
  readonly overcommit: number;
}

/** One host's disks and how they grow. */
export interface HostDisks {
  /** Used size of the image, U. */
  readonly imageBytes: number;
  /** Page or swap file, w. */
  readonly swapBytes: number;
  /** Personal data disk, p. */
  readonly dataBytes: number;
  /** Throwaway disk, q. */
  readonly throwawayBytes: number;
  /** Growth of a host's own disk in a day, g. */
  readonly growthBytesPerDay: number;
  /** Days between rebuilds, d; where hosts return to clean at sign-out, the longest session in days. */
  readonly days: number;
  /** Scratch disk of a host without a disk of its own, c. */
  readonly scratchBytes: number;
}

export interface CloneStorageInput extends HostDisks {
  readonly hosts: number;
  /** Stores from which the image is streamed, S. */
  readonly streamingStores: number;
  /** Where children lie; the parent is on each of them, R. At least one. */
  readonly datastores: readonly DatastoreSpace[];
}

/** What a pool takes whatever its size, and what each host adds. */
export interface StorageShape {
  readonly fixedBytes: number;
  readonly perHostBytes: number;
}

export interface CloneStorage extends StorageShape {
  readonly totalBytes: number;
  /** The most hosts for which all datastores have room; null where a host takes none. */
  readonly hostsThatFit: number | null;
}

/** What each host adds. full: U + gd + w + p + q; linked: gd + w + p + q; network: c. */
export function perHostBytes(kind: CloneKind, disks: HostDisks): number {
  if (kind === 'network') return disks.scratchBytes;
  const own = disks.growthBytesPerDay * disks.days + disks.swapBytes + disks.dataBytes + disks.throwawayBytes;
  return kind === 'full' ? disks.imageBytes + own : own;
}

/** What is there once. linked: the parent on each datastore; network: the image on each store, all on the first datastore. */
export function fixedBytesOn(kind: CloneKind, input: CloneStorageInput, place: number): number {
  if (kind === 'linked') return input.imageBytes;
  return kind === 'network' && place === 0 ? input.streamingStores * input.imageBytes : 0;
}

/** full: N(U + gd + w + p + q); linked: R·U + N(gd + w + p + q); network: S·U + N·c. */
export function cloneStorage(kind: CloneKind, input: CloneStorageInput): CloneStorage {
  const perHost = perHostBytes(kind, input);
  const fixed = input.datastores.reduce((sum, _, place) => sum + fixedBytesOn(kind, input, place), 0);
  const fit = input.datastores.map((store, place) =>
    hostsThatFit({ fixedBytes: fixedBytesOn(kind, input, place), perHostBytes: perHost }, store),
  );
  return {
    fixedBytes: fixed,
    perHostBytes: perHost,
    totalBytes: fixed + input.hosts * perHost,
    hostsThatFit: fit.some((hosts) => hosts === Infinity) ? null : fit.reduce((sum, hosts) => sum + hosts, 0),
  };
}

/** The largest N with fixed + N × per host ÷ over-commitment ≤ what is free; infinite where a host takes nothing. */
export function hostsThatFit({ fixedBytes, perHostBytes }: StorageShape, store: DatastoreSpace): number {
  const free = store.capacityBytes - store.usedBytes - fixedBytes;
  if (free < 0) return 0;
  return perHostBytes === 0 ? Infinity : Math.floor((free * store.overcommit) / perHostBytes);
}

/** Hosts dealt evenly over so many datastores, the first ones taking one more. */
export function dealHosts(hosts: number, datastores: number): number[] {
  return Array.from({ length: datastores }, (_, place) =>
    Math.floor((hosts + datastores - 1 - place) / datastores),
  );
}
