/**
 * Where everything lies in a FAT32 volume, before a byte is written: all sizes are known, so every
 * folder and file gets one stretch of clusters, and the volume is as large as its content needs.
 */
import { ok, refuseAll, type Fault, type Result } from '../../result.ts';
import { nestEntries, type TreeEntry, type TreeNode } from '../tree.ts';
import { comparableName, nameFault, RECORD_BYTES, recordsFor } from './names.ts';

export const SECTOR = 512;
/** Sizes are 32 bits. */
export const MOST_FILE_BYTES = 2 ** 32 - 1;
/** A folder is at most 2 MiB of records. */
export const MOST_RECORDS = 65_536;
/** With fewer clusters a volume would be read as FAT16; a margin as the specification advises. */
const FEWEST_CLUSTERS = 65_525 + 16;
export const MOST_CLUSTERS = 2 ** 28 - 16;
const RESERVED_SECTORS = 32;
const FATS = 2;
/** Content begins and the volume ends on multiples of this: 1 MiB, as disks are cut. */
const ALIGNED_SECTORS = 2048;

export interface Placed {
  readonly node: TreeNode;
  readonly parent: Placed | undefined;
  /** First cluster; 0 for an empty file. */
  readonly cluster: number;
  readonly clusters: number;
  /** Of a folder: its records, not filled up; of a file: its content. */
  readonly bytes: number;
}

export interface VolumePlan {
  readonly sectorsPerCluster: number;
  readonly clusterBytes: number;
  readonly reservedSectors: number;
  readonly fatSectors: number;
  readonly totalSectors: number;
  /** In the order of their clusters: all folders, root first, then all files. */
  readonly folders: readonly Placed[];
  readonly files: readonly Placed[];
  readonly usedClusters: number;
  readonly clusters: number;
}

/**
 * What in a tree FAT32 cannot hold, each with what to do. Errors are the whole answer: a tree
 * without any can be written.
 */
export function fat32Faults(entries: readonly TreeEntry[]): Fault[] {
  const faults: Fault[] = [];
  const fault = (path: string, message: string) => faults.push({ path, message });
  const names = new Map<string, string>();
  const records = new Map<string, number>();
  for (const { path, kind, size } of entries) {
    const slash = path.lastIndexOf('/');
    const [folder, name] = [path.slice(0, Math.max(0, slash)), path.slice(slash + 1)];
    if (kind === 'link') fault(path, 'is a link, which FAT32 does not have; use SquashFS or OCI');
    if (size > MOST_FILE_BYTES)
      fault(path, `has ${size} bytes; FAT32 files have at most ${MOST_FILE_BYTES}; use SquashFS or OCI`);
    const bad = nameFault(name);
    if (bad) fault(path, `${bad}; rename it, or use SquashFS or OCI`);
    const key = `${folder}/${comparableName(name)}`;
    const twin = names.get(key);
    if (twin !== undefined)
      fault(path, `differs from ${twin} in case only, which is one name to FAT32; use SquashFS or OCI`);
    names.set(key, path);
    const count = (records.get(folder) ?? 2) + recordsFor(name);
    records.set(folder, count);
  }
  for (const [folder, count] of records)
    if (count > MOST_RECORDS)
      fault(
        folder,
        `needs ${count} directory records for its names; FAT32 folders have at most ${MOST_RECORDS}; use SquashFS or OCI`,
      );
  return faults;
}

/** Plans the volume with the size of cluster that makes it smallest. Errors: `fat32Faults`. */
export function planVolume(entries: readonly TreeEntry[]): Result<VolumePlan> {
  const faults = fat32Faults(entries);
  if (faults.length > 0) return refuseAll(faults);
  const root = nestEntries(entries);
  const sizes = sizesOf(root);
  const plans = [1, 2, 4, 8, 16, 32, 64].flatMap((sectors) => {
    const shape = volumeShape([...sizes.values()], sectors);
    return shape ? [shape] : [];
  });
  const [first, ...others] = plans;
  if (!first) return refuseAll([{ path: '', message: 'is more than FAT32 holds; use SquashFS or OCI' }]);
  const best = others.reduce((least, plan) => (plan.totalSectors < least.totalSectors ? plan : least), first);
  return ok({ ...best, ...place(root, sizes, best.clusterBytes) });
}

type VolumeShape = Omit<VolumePlan, 'folders' | 'files'>;

function volumeShape(sizes: readonly number[], sectorsPerCluster: number): VolumeShape | undefined {
  const clusterBytes = sectorsPerCluster * SECTOR;
  const usedClusters = sizes.reduce((sum, bytes) => sum + Math.ceil(bytes / clusterBytes), 0);
  const wanted = Math.max(usedClusters, FEWEST_CLUSTERS);
  // The allocation tables have room for what the aligned end adds, too.
  const fatSectors = Math.ceil(((wanted + 2 * ALIGNED_SECTORS) * 4) / SECTOR);
  const before = RESERVED_SECTORS + FATS * fatSectors;
  const reservedSectors = RESERVED_SECTORS + ((8 - (before % 8)) % 8);
  const content = reservedSectors + FATS * fatSectors;
  const totalSectors = Math.ceil((content + wanted * sectorsPerCluster) / ALIGNED_SECTORS) * ALIGNED_SECTORS;
  const clusters = Math.floor((totalSectors - content) / sectorsPerCluster);
  if (clusters > MOST_CLUSTERS || totalSectors > 2 ** 32 - 1) return undefined;
  return {
    sectorsPerCluster,
    clusterBytes,
    reservedSectors,
    fatSectors,
    totalSectors,
    usedClusters,
    clusters,
  };
}

/** Bytes that the content of every folder and file takes. */
function sizesOf(root: TreeNode): Map<TreeNode, number> {
  const sizes = new Map<TreeNode, number>();
  const walk = (node: TreeNode) => {
    sizes.set(
      node,
      node === root || node.entry?.kind === 'folder'
        ? recordBytes(node, node === root)
        : (node.entry?.size ?? 0),
    );
    node.children.forEach(walk);
  };
  walk(root);
  return sizes;
}

/** A folder has records for its children, and for `.` and `..`; the root has one for its label. */
function recordBytes(folder: TreeNode, isRoot: boolean): number {
  const own = isRoot ? 1 : 2;
  return folder.children.reduce((sum, child) => sum + recordsFor(child.name), own) * RECORD_BYTES;
}

function place(
  root: TreeNode,
  sizes: ReadonlyMap<TreeNode, number>,
  clusterBytes: number,
): { folders: Placed[]; files: Placed[] } {
  let next = 2;
  const placeOne = (node: TreeNode, parent: Placed | undefined): Placed => {
    const bytes = sizes.get(node) ?? 0;
    const clusters = Math.ceil(bytes / clusterBytes);
    const placed = { node, parent, cluster: clusters === 0 ? 0 : next, clusters, bytes };
    next += clusters;
    return placed;
  };
  const folders = [placeOne(root, undefined)];
  for (const folder of folders)
    for (const child of folder.node.children)
      if (child.entry?.kind === 'folder') folders.push(placeOne(child, folder));
  const files = folders.flatMap((folder) =>
    folder.node.children.flatMap((child) => (child.entry?.kind === 'file' ? [placeOne(child, folder)] : [])),
  );
  return { folders, files };
}
