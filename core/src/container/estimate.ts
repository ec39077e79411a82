/**
 * How large containers will be, before one is built. What compresses is estimated from samples; what
 * a disk takes follows from its plan.
 */
import { planVolume } from './fat32/plan.ts';
import type { ContainerFormat } from './formats.ts';
import type { TreeEntry } from './tree.ts';
import type { DiskKind } from './vhdx/disk-writer.ts';
import { BLOCK_BYTES } from './vhdx/format.ts';
import { keptBlocks } from './vhdx/write.ts';

export interface EstimatedFile {
  readonly path: string;
  readonly size: number;
  readonly sha256: string;
}

/** Share of its bytes that is left of a file when it is compressed; by its path's ending. */
export type RatioOf = (path: string) => number;

/** Bytes an entry takes among the compressed tables of a SquashFS image, and as a compressed header in a layer. */
const TABLE_BYTES = 28;
const HEADER_BYTES = 90;
/** Headers, log, tables and manifest of a VHDX file. */
const DISK_OVERHEAD = 4 * BLOCK_BYTES;

/** Bytes of each container; none where the format cannot hold the tree. */
export function estimateContainers(
  files: readonly EstimatedFile[],
  entries: readonly TreeEntry[],
  ratioOf: RatioOf,
): Partial<Record<ContainerFormat, number>> {
  const compressed = (list: readonly EstimatedFile[]) =>
    list.reduce((sum, file) => sum + file.size * ratioOf(file.path), 0);
  const once = [...new Map(files.map((file) => [file.sha256, file])).values()];
  return {
    squashfs: Math.round(compressed(once) + entries.length * TABLE_BYTES),
    oci: Math.round(compressed(files) + entries.length * HEADER_BYTES),
    ...estimateDisks(entries),
  };
}

function estimateDisks(entries: readonly TreeEntry[]): Partial<Record<ContainerFormat, number>> {
  const plan = planVolume(entries);
  if (!plan.ok) return {};
  const bytes = (kind: DiskKind) => keptBlocks(plan.value, kind) * BLOCK_BYTES + DISK_OVERHEAD;
  return { vhdx: bytes('expandable'), 'vhdx-fixed': bytes('fixed') };
}

/** Ending of a path with its dot, in small letters; files that compress alike mostly end alike. */
export function endingOf(path: string): string {
  return /\.[^./]+$/.exec(path)?.[0].toLowerCase() ?? '';
}

/** Entries of a tree from its files and links alone: folders above them are there too, sorted. */
export function treeOfPaths(
  paths: readonly { readonly path: string; readonly size: number; readonly isLink: boolean }[],
): TreeEntry[] {
  const entries = new Map<string, TreeEntry>();
  const common = { mode: 0, modified: 0 };
  for (const { path, size, isLink } of paths) {
    for (let folder = above(path); folder !== '' && !entries.has(folder); folder = above(folder))
      entries.set(folder, { path: folder, kind: 'folder', size: 0, ...common });
    entries.set(path, { path, kind: isLink ? 'link' : 'file', size, ...common });
  }
  return [...entries.values()].sort((a, b) => (a.path < b.path ? -1 : 1));
}

function above(path: string): string {
  return path.slice(0, Math.max(0, path.lastIndexOf('/')));
}
