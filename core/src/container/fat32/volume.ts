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
const PIECE = 32 * 1024 * 1024;
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

/** The whole volume in order; every piece follows the one before. */
export async function* volumeBytes(
  tree: Tree,
  plan: VolumePlan,
  facts: VolumeFacts,
  onContent: (entry: TreeEntry, piece: Uint8Array, isLast: boolean) => Promise<void>,
): AsyncGenerator<Uint8Array> {
  yield reservedArea(plan, facts);
  for (let copy = 0; copy < 2; copy++) yield* allocationTable(plan);
  const placed = new Map([...plan.folders, ...plan.files].map((one) => [one.node, one]));
  for (const folder of plan.folders) yield folderClusters(folder, placed, plan, facts);
  for (const file of plan.files) {
    const { entry } = file.node;
    if (!entry) continue;
    if (entry.size === 0) await onContent(entry, new Uint8Array(), true);
    let done = 0;
    for await (const piece of tree.read(entry, PIECE)) {
      done += piece.length;
      await onContent(entry, piece, done === entry.size);
      yield piece;
    }
    if (file.clusters > 0) yield new Uint8Array(file.clusters * plan.clusterBytes - done);
  }
  yield* zeros((plan.clusters - plan.usedClusters) * plan.clusterBytes);
  const content = plan.reservedSectors + 2 * plan.fatSectors + plan.clusters * plan.sectorsPerCluster;
  yield* zeros((plan.totalSectors - content) * SECTOR);
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
  const step = ZEROS;
  for (let from = 0; from < total; from += step) {
    const piece = new Uint32Array(Math.min(step, total - from));
    const last = Math.min(from + piece.length, plan.usedClusters + 2);
    for (let cluster = from; cluster < last; cluster++) piece[cluster - from] = cluster + 1;
    for (; (ends[nextEnd] ?? Infinity) < last; nextEnd++) piece[(ends[nextEnd] ?? 0) - from] = END_OF_CHAIN;
    if (from === 0) {
      piece[0] = 0x0fffff00 | MEDIA_FIXED;
      piece[1] = END_OF_CHAIN;
    }
    yield littleEndian(piece);
  }
}

function littleEndian(words: Uint32Array): Uint8Array {
  const bytes = new Uint8Array(words.length * 4);
  const view = new DataView(bytes.buffer);
  words.forEach((word, i) => view.setUint32(i * 4, word, true));
  return bytes;
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
