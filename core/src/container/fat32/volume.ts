/** The bytes of a FAT32 volume, in the order they lie on the disk. */
import { StructWriter } from '../struct.ts';
import type { Tree, TreeEntry, TreeNode } from '../tree.ts';
import { attribute, entryRecords, ShortNames, shortRecord } from './names.ts';
import { SECTOR, type Placed, type VolumePlan } from './plan.ts';

export interface VolumeFacts {
  /** Up to eleven characters of the volume's name. */
  readonly label: string;
  /** Sectors of the disk before the volume. */
  readonly hiddenSectors: number;
  readonly date: (entry?: TreeEntry) => number;
}

/** File content is written in pieces of this many bytes. */
const PIECE = 1024 * 1024;
const ZEROS = 256 * 1024;
const END_OF_CHAIN = 0x0fffffff;
const MEDIA_FIXED = 0xf8;
const INFO_SECTOR = 1;
const BACKUP_SECTOR = 6;

/**
 * The boot sector with its serial number. It lies first, and again as a copy at sector 6; the
 * serial comes from the content's digest, so whoever writes the volume puts both there at the end.
 */
export function bootSector(plan: VolumePlan, facts: VolumeFacts, serial: number): Uint8Array {
  return new StructWriter(SECTOR)
    .raw(Uint8Array.of(0xeb, 0x58, 0x90))
    .text('VATLINE ')
    .u16(SECTOR)
    .u8(plan.sectorsPerCluster)
    .u16(plan.reservedSectors)
    .u8(2)
    .u16(0)
    .u16(0)
    .u8(MEDIA_FIXED)
    .u16(0)
    .u16(63)
    .u16(255)
    .u32(facts.hiddenSectors)
    .u32(plan.totalSectors)
    .u32(plan.fatSectors)
    .u16(0)
    .u16(0)
    .u32(2)
    .u16(INFO_SECTOR)
    .u16(BACKUP_SECTOR)
    .seek(64)
    .u8(0x80)
    .u8(0)
    .u8(0x29)
    .u32(serial)
    .text(volumeLabel(facts.label))
    .text('FAT32   ')
    .seek(510)
    .u16(0xaa55).bytes;
}

/** Offsets in the volume where the boot sector lies. */
export const bootSectorOffsets = [0, BACKUP_SECTOR * SECTOR] as const;

/** Eleven characters that a label may have. */
export function volumeLabel(name: string): string {
  const label = name
    .toUpperCase()
    .replace(/[^A-Z0-9_-]+/g, ' ')
    .trim();
  return (label || 'VATLINE').slice(0, 11).padEnd(11);
}

/** Where the content of clusters begins, in bytes of the volume. */
export function contentOffset(plan: VolumePlan): number {
  return (plan.reservedSectors + 2 * plan.fatSectors) * SECTOR;
}

/** Stretches of the volume, in bytes, that something is written to; the rest is zeros. */
export function usedStretches(plan: VolumePlan): { readonly from: number; readonly to: number }[] {
  const table = plan.reservedSectors * SECTOR;
  const entries = (plan.usedClusters + 2) * 4;
  const content = contentOffset(plan);
  return [
    { from: 0, to: table + entries },
    { from: table + plan.fatSectors * SECTOR, to: table + plan.fatSectors * SECTOR + entries },
    { from: content, to: content + plan.usedClusters * plan.clusterBytes },
  ];
}

/** The whole volume in order; every piece follows the one before. */
export async function* volumeBytes(
  tree: Tree,
  plan: VolumePlan,
  facts: VolumeFacts,
  onFile: () => void,
): AsyncGenerator<Uint8Array> {
  yield reservedArea(plan, facts);
  for (let copy = 0; copy < 2; copy++) yield* allocationTable(plan);
  const placed = new Map([...plan.folders, ...plan.files].map((one) => [one.node, one]));
  for (const folder of plan.folders) yield folderClusters(folder, placed, plan, facts);
  const rest = new Uint8Array(plan.clusterBytes);
  for (const { node, clusters, bytes } of plan.files) {
    if (node.entry) yield* tree.read(node.entry, PIECE);
    yield rest.subarray(0, clusters * plan.clusterBytes - bytes);
    onFile();
  }
  yield* zeros((plan.clusters - plan.usedClusters) * plan.clusterBytes);
  const content = contentOffset(plan) + plan.clusters * plan.clusterBytes;
  yield* zeros(plan.totalSectors * SECTOR - content);
}

function* zeros(bytes: number): Generator<Uint8Array> {
  const piece = new Uint8Array(Math.min(ZEROS, bytes));
  for (let left = bytes; left > 0; left -= piece.length)
    yield piece.subarray(0, Math.min(left, piece.length));
}

function reservedArea(plan: VolumePlan, facts: VolumeFacts): Uint8Array {
  const area = new Uint8Array(plan.reservedSectors * SECTOR);
  const boot = bootSector(plan, facts, 0);
  const info = new StructWriter(SECTOR)
    .u32(0x41615252)
    .seek(484)
    .u32(0x61417272)
    .u32(plan.clusters - plan.usedClusters)
    .u32(plan.usedClusters + 2)
    .seek(508)
    .u32(0xaa550000).bytes;
  for (const sector of [0, BACKUP_SECTOR]) {
    area.set(boot, sector * SECTOR);
    area.set(info, (sector + INFO_SECTOR) * SECTOR);
  }
  return area;
}

/** Every chain is one stretch, so a cluster points to the next one but at the end of a stretch. */
function* allocationTable(plan: VolumePlan): Generator<Uint8Array> {
  const total = (plan.fatSectors * SECTOR) / 4;
  const ends = [...plan.folders, ...plan.files].flatMap(({ cluster, clusters }) =>
    clusters > 0 ? [cluster + clusters - 1] : [],
  );
  let nextEnd = 0;
  for (let from = 0; from < total; from += ZEROS) {
    const piece = new DataView(new ArrayBuffer(Math.min(ZEROS, total - from) * 4));
    const put = (cluster: number, next: number) => piece.setUint32((cluster - from) * 4, next, true);
    const last = Math.min(from + piece.byteLength / 4, plan.usedClusters + 2);
    for (let cluster = from; cluster < last; cluster++) put(cluster, cluster + 1);
    for (; (ends[nextEnd] ?? Infinity) < last; nextEnd++) put(ends[nextEnd] ?? 0, END_OF_CHAIN);
    if (from === 0) {
      put(0, 0x0fffff00 | MEDIA_FIXED);
      put(1, END_OF_CHAIN);
    }
    yield new Uint8Array(piece.buffer);
  }
}

function folderClusters(
  folder: Placed,
  placed: ReadonlyMap<TreeNode, Placed>,
  plan: VolumePlan,
  facts: VolumeFacts,
): Uint8Array {
  const bytes = new Uint8Array(folder.clusters * plan.clusterBytes);
  let at = 0;
  const put = (records: Uint8Array) => {
    bytes.set(records, at);
    at += records.length;
  };
  const { parent, node } = folder;
  const modified = facts.date(node.entry);
  if (parent) {
    put(shortRecord('.'.padEnd(11), attribute.folder, { cluster: folder.cluster, size: 0, modified }));
    // The root goes by the number 0 here.
    const above = parent.parent ? parent.cluster : 0;
    put(shortRecord('..'.padEnd(11), attribute.folder, { cluster: above, size: 0, modified }));
  } else put(shortRecord(volumeLabel(facts.label), attribute.volume, { cluster: 0, size: 0, modified }));
  const names = new ShortNames(node.children.map((child) => child.name));
  for (const child of node.children) {
    const { name, entry } = child;
    const { cluster = 0, bytes: size = 0 } = placed.get(child) ?? {};
    put(
      entryRecords({
        name,
        short: names.for(name),
        isFolder: entry?.kind === 'folder',
        cluster,
        size: entry?.kind === 'file' ? size : 0,
        modified: facts.date(entry),
      }),
    );
  }
  return bytes;
}
