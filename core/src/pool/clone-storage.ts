/** Storage that a pool of clones takes on one datastore. See `docs/models.md`, "Clone storage". */

export type CloneKind = 'full' | 'linked';

/** All in bytes, but days and counts. */
export interface CloneStorageInput {
  readonly hosts: number;
  /** Used size of the image, U. */
  readonly imageBytes: number;
  /** Growth of a host's own disk in a day, g. */
  readonly growthBytesPerDay: number;
  /** Days between rebuilds, d; for a host returned to clean at sign-out, the longest session in days. */
  readonly days: number;
  /** Page or swap file, w. */
  readonly swapBytes: number;
  /** Datastores that hold children, R: a linked clone needs its parent on each. */
  readonly replicas: number;
}

/** full: N(U + gd + w); linked: R·U + N(gd + w). Bytes. */
export function cloneStorage(
  kind: CloneKind,
  input: CloneStorageInput,
): { fixed: number; perHost: number; total: number } {
  const own = input.growthBytesPerDay * input.days + input.swapBytes;
  const fixed = kind === 'full' ? 0 : input.replicas * input.imageBytes;
  const perHost = kind === 'full' ? input.imageBytes + own : own;
  return { fixed, perHost, total: fixed + input.hosts * perHost };
}
