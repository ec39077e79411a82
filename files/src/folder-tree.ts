/** A folder on disk as the tree that container writers take. */
import { closeSync, lstatSync, openSync, readSync, readdirSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import type { Tree, TreeEntry } from '@vatline/core/container/tree';
import { compareBytes } from '@vatline/core/image/inventory';
import { InputError } from './input-error.ts';
import { linkTargetAt } from './link-target.ts';

/**
 * The tree of a folder, or only those paths of it with the folders above them. Throws `InputError`:
 * not a folder, a path that is not there, a device, socket or pipe.
 */
export function folderTree(folder: string, only?: ReadonlySet<string>): Tree {
  const root = resolve(folder);
  if (!statSync(root, { throwIfNoEntry: false })?.isDirectory())
    throw InputError.of(folder, 'is not a folder');
  const entries = markSame(listTree(root, only && withFoldersAbove(only)));
  if (only) refuseMissing(entries, only);
  return { entries, read: (entry, piece) => readFile(root, entry, piece) };
}

/** An entry, and what tells of a file with several names which one it is. */
interface ListedEntry {
  readonly entry: TreeEntry;
  readonly inode?: string;
}

/** What is not wanted is not looked at: a device beside it is no reason to refuse. */
function listTree(root: string, wanted: ReadonlySet<string> | undefined): ListedEntry[] {
  const listed: ListedEntry[] = [];
  const walk = (folder: string) => {
    for (const child of readdirSync(join(root, folder), { withFileTypes: true })) {
      const path = folder === '' ? child.name : `${folder}/${child.name}`;
      if (wanted && !wanted.has(path)) continue;
      listed.push(entryAt(root, path));
      if (child.isDirectory()) walk(path);
    }
  };
  walk('');
  return listed.sort((a, b) => compareBytes(a.entry.path, b.entry.path));
}

function entryAt(root: string, path: string): ListedEntry {
  const source = `${root}/${path}`;
  const stat = lstatSync(source);
  const common = { path, mode: stat.mode & 0o7777, modified: Math.floor(stat.mtimeMs / 1000) };
  if (stat.isFile()) {
    const entry: TreeEntry = { ...common, kind: 'file', size: stat.size };
    return stat.nlink > 1 ? { entry, inode: `${stat.dev}:${stat.ino}` } : { entry };
  }
  if (stat.isDirectory()) return { entry: { ...common, kind: 'folder', size: 0 } };
  if (stat.isSymbolicLink())
    return { entry: { ...common, kind: 'link', size: 0, target: linkTargetAt(source, path) } };
  throw InputError.of(path, 'is a device, socket or pipe and cannot be packed');
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
