/**
 * What a layer must hold so that the files of one version become those of another: entries to put,
 * and whiteouts for what goes (OCI image specification 1.1, layer changesets). Settings, services
 * and the like are no files and no part of it.
 */
import {
  compareBytes,
  type Entry,
  type FileEntry,
  type FolderEntry,
  type LinkEntry,
} from '../inventory/entry.ts';

export type TreeEntry = FileEntry | LinkEntry | FolderEntry;

export interface Delta {
  /** Folders before what is in them, else by path in byte order. */
  readonly puts: readonly TreeEntry[];
  /** Paths of whiteout files, each an empty file named `.wh.<name>` beside what it hides. */
  readonly whiteouts: readonly string[];
  /** Bytes of the files that are put, before compression. */
  readonly putBytes: number;
  /** Bytes of the files that go. */
  readonly removedBytes: number;
}

/** Paths are told apart by case, as they are in a layer. Dates of files do not count. */
export function planDelta(before: readonly Entry[], after: readonly Entry[]): Delta {
  const [old, now] = [treeOf(before), treeOf(after)];
  const puts = [...now.values()].filter((entry) => !sameContent(old.get(entry.path), entry));
  const gone = [...old.values()].filter((entry) => !now.has(entry.path));
  const bytes = (entries: readonly TreeEntry[]) =>
    entries.reduce((sum, entry) => sum + (entry.kind === 'file' ? entry.size : 0), 0);
  // A folder that goes, or becomes a file, takes everything in it along.
  const staysIn = (folder: string) => folder === '' || now.get(folder)?.kind === 'folder';
  return {
    puts: puts.sort((a, b) => compareBytes(a.path, b.path)),
    whiteouts: gone
      .filter((entry) => staysIn(folderOf(entry.path)))
      .map(({ path }) => whiteoutOf(path))
      .sort(compareBytes),
    putBytes: bytes(puts),
    removedBytes: bytes(gone),
  };
}

/** Files, links and folders by path, with the folders that paths only imply. */
function treeOf(entries: readonly Entry[]): Map<string, TreeEntry> {
  const tree = new Map<string, TreeEntry>();
  for (const entry of entries) {
    if (entry.kind !== 'file' && entry.kind !== 'link' && entry.kind !== 'folder') continue;
    tree.set(entry.path, entry);
    for (let path = folderOf(entry.path); path !== '' && !tree.has(path); path = folderOf(path))
      tree.set(path, { kind: 'folder', path });
  }
  return tree;
}

function folderOf(path: string): string {
  return path.slice(0, Math.max(0, path.lastIndexOf('/')));
}

function whiteoutOf(path: string): string {
  const at = path.lastIndexOf('/') + 1;
  return `${path.slice(0, at)}.wh.${path.slice(at)}`;
}

function sameContent(old: TreeEntry | undefined, now: TreeEntry): boolean {
  if (old?.kind !== now.kind) return false;
  if (now.kind === 'file' && old.kind === 'file')
    return old.sha256 === now.sha256 && old.size === now.size && old.mode === now.mode;
  if (now.kind === 'link' && old.kind === 'link') return old.target === now.target;
  return true;
}
