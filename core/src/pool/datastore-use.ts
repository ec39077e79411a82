/** Who takes how much of a datastore, and what was promised of it. */

export interface OwnedDisks {
  readonly bytes: number;
  readonly disks: number;
  readonly owner: DiskOwner;
}

/** Whose a disk is. A parent is nobody's: the clones of its image stand on it. */
export type DiskOwner =
  | { readonly kind: 'pool'; readonly name: string }
  | { readonly kind: 'parent'; readonly name: string }
  | { readonly kind: 'build machine'; readonly name: string }
  /** What the application knows nothing of. */
  | { readonly kind: 'other'; readonly name: '' };

export type DatastoreUse = DiskOwner & { readonly bytes: number; readonly disks: number };

/** Bytes and disks of each owner, the largest first; they add up to those of the disks. */
export function usesOf(owned: readonly OwnedDisks[]): DatastoreUse[] {
  const uses = new Map<string, { owner: DiskOwner; bytes: number; disks: number }>();
  for (const { owner, bytes, disks } of owned) {
    const key = `${owner.kind} ${owner.name}`;
    const use = uses.get(key) ?? { owner, bytes: 0, disks: 0 };
    use.bytes += bytes;
    use.disks += disks;
    uses.set(key, use);
  }
  return [...uses.values()]
    .map(({ owner, ...amounts }) => ({ ...owner, ...amounts }))
    .sort((a, b) => b.bytes - a.bytes);
}

export type Commitment = 'within' | 'over' | 'beyond';

/** How what was promised stands to what is there: within it, over it as was allowed, or beyond even that. */
export function commitmentOf(promisedBytes: number, capacityBytes: number, overcommit: number): Commitment {
  if (promisedBytes <= capacityBytes) return 'within';
  return promisedBytes <= capacityBytes * overcommit ? 'over' : 'beyond';
}
