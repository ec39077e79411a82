/** A GUID partition table with one partition (UEFI specification 2.10, chapter 5). */
import { crc32 } from '../crc.ts';
import { guidBytes } from '../guid.ts';
import { StructWriter } from '../struct.ts';

export const SECTOR = 512;
/** The partition begins at 1 MiB, as disks are cut. */
export const FIRST_SECTOR = 2048;
export const ENTRY_SECTORS = 32;
export const ENTRIES = 128;
export const ENTRY_BYTES = 128;
const TAIL_SECTORS = 2048;
const BASIC_DATA = 'EBD0A0A2-B9E5-4433-87C0-68B6B72699C7';

export interface PartitionedDisk {
  /** Sectors of the partition. */
  readonly partitionSectors: number;
  readonly name: string;
  readonly diskGuid: string;
  readonly partitionGuid: string;
}

/** Sectors of the whole disk: table, partition, and the copy of the table at the end. */
export function diskSectors(partitionSectors: number): number {
  return FIRST_SECTOR + partitionSectors + TAIL_SECTORS;
}

/** What stands before the partition: protective MBR, header, entries. */
export function gptFront(disk: PartitionedDisk): Uint8Array {
  const total = diskSectors(disk.partitionSectors);
  const entries = entryArray(disk);
  const front = new Uint8Array(FIRST_SECTOR * SECTOR);
  front.set(protectiveMbr(total), 0);
  front.set(header(disk, entries, { own: 1, other: total - 1, entriesAt: 2 }), SECTOR);
  front.set(entries, 2 * SECTOR);
  return front;
}

/** What stands behind it: the entries and the header again, in the last sectors. */
export function gptBack(disk: PartitionedDisk): Uint8Array {
  const total = diskSectors(disk.partitionSectors);
  const entries = entryArray(disk);
  const back = new Uint8Array(TAIL_SECTORS * SECTOR);
  const entriesAt = total - 1 - ENTRY_SECTORS;
  back.set(entries, (TAIL_SECTORS - 1 - ENTRY_SECTORS) * SECTOR);
  back.set(header(disk, entries, { own: total - 1, other: 1, entriesAt }), (TAIL_SECTORS - 1) * SECTOR);
  return back;
}

/** Tells tools that know no GPT that the disk is taken. */
function protectiveMbr(total: number): Uint8Array {
  return new StructWriter(SECTOR)
    .seek(446)
    .raw(Uint8Array.of(0, 0, 2, 0, 0xee, 0xff, 0xff, 0xff))
    .u32(1)
    .u32(Math.min(total - 1, 0xffffffff))
    .seek(510)
    .u16(0xaa55).bytes;
}

function entryArray(disk: PartitionedDisk): Uint8Array {
  return new StructWriter(ENTRIES * ENTRY_BYTES)
    .raw(guidBytes(BASIC_DATA))
    .raw(guidBytes(disk.partitionGuid))
    .u64(FIRST_SECTOR)
    .u64(FIRST_SECTOR + disk.partitionSectors - 1)
    .u64(0)
    .wide(disk.name.slice(0, 36)).bytes;
}

function header(
  disk: PartitionedDisk,
  entries: Uint8Array,
  at: { readonly own: number; readonly other: number; readonly entriesAt: number },
): Uint8Array {
  const bytes = 92;
  const record = new StructWriter(bytes)
    .text('EFI PART')
    .u32(0x00010000)
    .u32(bytes)
    .u32(0)
    .u32(0)
    .u64(at.own)
    .u64(at.other)
    .u64(2 + ENTRY_SECTORS)
    .u64(diskSectors(disk.partitionSectors) - 2 - ENTRY_SECTORS)
    .raw(guidBytes(disk.diskGuid))
    .u64(at.entriesAt)
    .u32(ENTRIES)
    .u32(ENTRY_BYTES)
    .u32(crc32(entries));
  return record.seek(16).u32(crc32(record.bytes)).bytes;
}
