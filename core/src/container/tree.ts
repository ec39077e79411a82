/** A folder tree on its way into a container or out of it. */

/** Whom an entry belongs to, by number; 0 and 0 where an entry does not say. */
export interface Owner {
  readonly user: number;
  readonly group: number;
}

/** A named value beside the content, such as `user.note` or `security.capability`. */
export interface ExtendedAttribute {
  /** With its namespace before the first dot. */
  readonly name: string;
  readonly value: Uint8Array;
}

export interface TreeEntry {
  /** Relative, parts by `/`, nothing before the first. */
  readonly path: string;
  readonly kind: 'file' | 'folder' | 'link';
  /** Bytes of a file; 0 of others. */
  readonly size: number;
  /** Permission bits. */
  readonly mode: number;
  /** Whole seconds since 1970, rounded down; negative before. */
  readonly modified: number;
  /** Nanoseconds after `modified`; 0 where left out. */
  readonly nanos?: number;
  readonly owner?: Owner;
  /** By name in byte order. */
  readonly attributes?: readonly ExtendedAttribute[];
  /** Of a link. */
  readonly target?: string;
  /** Path of an entry before it that is the same file under another name (a hard link). */
  readonly sameAs?: string;
}

/** A tree whose files can be read, each once and in the order asked for. */
export interface Tree {
  /** Sorted by path in byte order; every folder above an entry is an entry itself. */
  readonly entries: readonly TreeEntry[];
  /** Content in pieces of `piece` bytes, the last one shorter. Throws when the size is not the entry's. */
  read(entry: TreeEntry, piece: number): AsyncIterable<Uint8Array>;
}

export interface TreeNode {
  readonly name: string;
  /** The root has none. */
  readonly entry?: TreeEntry;
  readonly children: TreeNode[];
}

/** The entries as folders with their children, children in byte order of their names. */
export function nestEntries(entries: readonly TreeEntry[]): TreeNode {
  const root: TreeNode = { name: '', children: [] };
  const folders = new Map<string, TreeNode>([['', root]]);
  for (const entry of entries) {
    const slash = entry.path.lastIndexOf('/');
    const parent = folders.get(slash < 0 ? '' : entry.path.slice(0, slash));
    if (!parent) throw new Error(`${entry.path} comes before the folder it is in`);
    const node: TreeNode = { name: entry.path.slice(slash + 1), entry, children: [] };
    parent.children.push(node);
    if (entry.kind === 'folder') folders.set(entry.path, node);
  }
  return root;
}

/** Whom an entry without an owner belongs to. */
export const NO_OWNER: Owner = { user: 0, group: 0 };

/** What comes with every entry, the defaults left out, so that equal entries are equal. */
export function withExtras(
  entry: TreeEntry,
  extras: {
    readonly nanos: number;
    readonly owner: Owner;
    readonly attributes: readonly ExtendedAttribute[];
  },
): TreeEntry {
  const { nanos, owner, attributes } = extras;
  return {
    ...entry,
    ...(nanos === 0 ? {} : { nanos }),
    ...(owner.user === 0 && owner.group === 0 ? {} : { owner }),
    ...(attributes.length === 0 ? {} : { attributes }),
  };
}

/** The newest date of a file or link, in seconds since 1970; 0 for none. */
export function newestOf(entries: readonly TreeEntry[]): number {
  return entries.reduce(
    (latest, entry) => (entry.kind === 'folder' ? latest : Math.max(latest, entry.modified)),
    0,
  );
}

/**
 * The date an entry gets in a container: the epoch asked for; else a file keeps its own and a
 * folder takes that of the newest file, so that nothing depends on when packing happens.
 */
export function dateIn(epoch: number | undefined, newest: number): (entry?: TreeEntry) => number {
  return (entry) => epoch ?? (entry && entry.kind !== 'folder' ? entry.modified : newest);
}
