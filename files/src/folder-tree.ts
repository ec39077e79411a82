/** A folder on disk as the tree that container writers take. */
import { closeSync, lstatSync, openSync, readSync, statSync, type BigIntStats } from 'node:fs';
import { join, resolve } from 'node:path';
import { withExtras, type Owner, type Tree, type TreeEntry } from '@vatline/core/container/tree';
import { compareBytes } from '@vatline/core/inventory/entry';
import { attributesAt } from './extended-attributes.ts';
import { childrenOf, NO_TEXT } from './folder-children.ts';
import { InputError } from './input-error.ts';
import { linkTargetAt, NO_TEXT_TARGET } from './link-target.ts';

export interface FolderTree extends Tree {
  /** What is in the folder and cannot be named, with the reason. */
  readonly leftOut: readonly { readonly path: string; readonly reason: string }[];
}

/**
 * The tree of a folder, or only those paths of it with the folders above them. Throws `InputError`:
 * not a folder, a path that is not there, a device, socket or pipe.
 */
export function folderTree(folder: string, only?: ReadonlySet<string>): FolderTree {
  const root = resolve(folder);
  if (!statSync(root, { throwIfNoEntry: false })?.isDirectory())
    throw InputError.of(folder, 'is not a folder');
  const { listed, leftOut } = listTree(root, only && withFoldersAbove(only));
  const entries = markSame(listed);
  if (only) refuseMissing(entries, only);
  return { entries, leftOut, read: (entry, piece) => readFile(root, entry, piece) };
}

/** An entry, and what tells of a file with several names which one it is. */
interface ListedEntry {
  readonly entry: TreeEntry;
  readonly inode?: string;
}

/** What is not wanted is not looked at: a device beside it is no reason to refuse. */
function listTree(
  root: string,
  wanted: ReadonlySet<string> | undefined,
): { listed: ListedEntry[]; leftOut: FolderTree['leftOut'] } {
  const listed: ListedEntry[] = [];
  const leftOut: { path: string; reason: string }[] = [];
  const walk = (folder: string) => {
    const pathOf = (name: string) => (folder === '' ? name : `${folder}/${name}`);
    const { children, unnameable } = childrenOf(join(root, folder));
    // A list of what is wanted is text, so nothing of these is on it.
    if (!wanted) for (const name of unnameable) leftOut.push({ path: pathOf(name), reason: NO_TEXT });
    for (const { name, entry } of children) {
      const path = pathOf(name);
      if (wanted && !wanted.has(path)) continue;
      const found = entryAt(root, path);
      if (found) listed.push(found);
      else leftOut.push({ path, reason: NO_TEXT_TARGET });
      if (entry.isDirectory()) walk(path);
    }
  };
  walk('');
  return { listed: listed.sort((a, b) => compareBytes(a.entry.path, b.entry.path)), leftOut };
}

/** Nothing for a link whose target is no text. */
function entryAt(root: string, path: string): ListedEntry | undefined {
  const source = `${root}/${path}`;
  // Dates in nanoseconds do not fit into a number.
  const stat = lstatSync(source, { bigint: true });
  const kind = kindOf(stat, source, path);
  if (kind.kind === 'link' && kind.target === undefined) return undefined;
  const modified = Number((stat.mtimeNs - floored(stat.mtimeNs)) / BILLION);
  const entry = withExtras(
    { path, mode: Number(stat.mode) & 0o7777, modified, ...kind },
    { nanos: Number(floored(stat.mtimeNs)), owner: ownerOf(stat), attributes: attributesAt(source) },
  );
  return stat.isFile() && stat.nlink > 1n ? { entry, inode: `${stat.dev}:${stat.ino}` } : { entry };
}

const BILLION = 1_000_000_000n;

/** The nanoseconds after the last whole second, before 1970 as well. */
function floored(nanos: bigint): bigint {
  return ((nanos % BILLION) + BILLION) % BILLION;
}

function kindOf(
  stat: BigIntStats,
  source: string,
  path: string,
): Pick<TreeEntry, 'kind' | 'size' | 'target'> {
  if (stat.isFile()) return { kind: 'file', size: Number(stat.size) };
  if (stat.isDirectory()) return { kind: 'folder', size: 0 };
  if (stat.isSymbolicLink()) {
    const target = linkTargetAt(source);
    return { kind: 'link', size: 0, ...(target === undefined ? {} : { target }) };
  }
  throw InputError.of(path, 'is a device, socket or pipe and cannot be packed');
}

/** What belongs to whoever packs is nobody's in particular, so that it does not matter who packs. */
function ownerOf({ uid, gid }: BigIntStats): Owner {
  const [user, group] = [Number(uid), Number(gid)];
  return {
    user: user === process.getuid?.() ? 0 : user,
    group: group === process.getgid?.() ? 0 : group,
  };
}

/** Files that are one file under several names: all but the first point to it. */
function markSame(listed: readonly ListedEntry[]): TreeEntry[] {
  const first = new Map<string, string>();
  return listed.map(({ entry, inode }) => {
    if (inode === undefined) return entry;
    const sameAs = first.get(inode);
    if (sameAs !== undefined) return { ...entry, sameAs };
    first.set(inode, entry.path);
    return entry;
  });
}

function withFoldersAbove(only: ReadonlySet<string>): ReadonlySet<string> {
  const wanted = new Set<string>();
  for (const path of only)
    for (let p = path; p !== ''; p = p.slice(0, Math.max(0, p.lastIndexOf('/')))) wanted.add(p);
  return wanted;
}

function refuseMissing(entries: readonly TreeEntry[], only: ReadonlySet<string>): void {
  const there = new Set(entries.map((entry) => entry.path));
  for (const path of only)
    if (!there.has(path)) throw InputError.of(path, 'is to be packed but is not in the folder');
}

async function* readFile(root: string, entry: TreeEntry, piece: number): AsyncGenerator<Uint8Array> {
  const handle = openSync(`${root}/${entry.path}`, 'r');
  try {
    for (let left = entry.size; left > 0;) {
      const wanted = Math.min(piece, left);
      // One byte more than there should be, to see whether the file has grown.
      const bytes = Buffer.allocUnsafe(wanted + Number(wanted === left));
      const got = fill(handle, bytes);
      if (got < wanted) throw changed(entry, 'shorter');
      if (got > wanted) throw changed(entry, 'longer');
      left -= wanted;
      yield bytes.subarray(0, wanted);
    }
  } finally {
    closeSync(handle);
  }
}

/** Reads until the buffer is full or the file ends. */
function fill(handle: number, bytes: Buffer): number {
  let got = 0;
  while (got < bytes.length) {
    const n = readSync(handle, bytes, got, bytes.length - got, null);
    if (n === 0) break;
    got += n;
  }
  return got;
}

function changed(entry: TreeEntry, how: string): InputError {
  return InputError.of(entry.path, `changed while it was packed: it is ${how} than ${entry.size} bytes now`);
}
