/** Lays a disk, given from its first byte to its last, into a VHDX file. */
import { isZero, type ByteSink } from '../bytes.ts';
import { crc32c } from '../crc.ts';
import { guidBytes } from '../guid.ts';
import { StructWriter } from '../struct.ts';
import {
  allocationEntries,
  BLOCK_BYTES,
  blockState,
  chunkRatio,
  fileFlags,
  HEADER_BYTES,
  headerOffsets,
  itemFlags,
  items,
  METADATA_TABLE_BYTES,
  MIB,
  REGION_BYTES,
  regionOffsets,
  regions,
  SIGNATURE,
} from './format.ts';

export type DiskKind = 'expandable' | 'fixed';

export interface DiskIdentity {
  readonly diskGuid: string;
  readonly writeGuid: string;
  /** JSON, kept with the disk's own metadata. */
  readonly manifest: Uint8Array;
}

const LOG_AT = MIB;
const METADATA_AT = 2 * MIB;
const ALLOCATION_AT = 3 * MIB;
const LOGICAL_SECTOR = 512;
const PHYSICAL_SECTOR = 4096;

export class DiskWriter {
  /** Offset in the file of every block; 0 for one that is not kept. */
  private readonly blocks: number[] = [];
  private open = new Uint8Array(BLOCK_BYTES);
  private used = 0;
  /** The block before may still be on its way to the disk while the next one fills. */
  private spare = new Uint8Array(BLOCK_BYTES);
  private writing = Promise.resolve();

  private constructor(
    private readonly sink: ByteSink,
    private readonly kind: DiskKind,
    private readonly diskBytes: number,
  ) {}

  /** The sink must be empty; the disk a whole number of blocks long. */
  static async begin(sink: ByteSink, kind: DiskKind, diskBytes: number): Promise<DiskWriter> {
    const writer = new DiskWriter(sink, kind, diskBytes);
    await sink.skip(ALLOCATION_AT + writer.allocationBytes);
    return writer;
  }

  /** The next bytes of the disk. */
  async write(bytes: Uint8Array): Promise<void> {
    for (let from = 0; from < bytes.length;) {
      const part = bytes.subarray(from, from + BLOCK_BYTES - this.used);
      this.open.set(part, this.used);
      this.used += part.length;
      from += part.length;
      if (this.used === BLOCK_BYTES) await this.closeBlock();
    }
  }

  /** Writes over bytes of a block that is kept. */
  async patch(offset: number, bytes: Uint8Array): Promise<void> {
    await this.writing;
    const block = this.blocks[Math.floor(offset / BLOCK_BYTES)];
    if (!block) throw new Error(`nothing is kept at ${offset} of the disk`);
    await this.sink.writeAt(block + (offset % BLOCK_BYTES), bytes);
  }

  /** Writes what stands before the blocks; the file is complete then. */
  async end(identity: DiskIdentity): Promise<void> {
    await this.writing;
    if (this.used > 0 || this.blocks.length * BLOCK_BYTES !== this.diskBytes)
      throw new Error(`${this.blocks.length} blocks and ${this.used} bytes do not make the disk`);
    await this.sink.writeAt(0, new StructWriter(512).text(SIGNATURE).wide('Vat Line').bytes);
    for (const [i, offset] of headerOffsets.entries())
      await this.sink.writeAt(offset, headerRecord(i + 1, identity.writeGuid));
    const table = regionTable(this.allocationBytes);
    for (const offset of regionOffsets) await this.sink.writeAt(offset, table);
    await this.sink.writeAt(METADATA_AT, metadataRegion(this.diskBytes, this.kind, identity));
    await this.sink.writeAt(ALLOCATION_AT, this.allocationTable());
  }

  private get allocationBytes(): number {
    const entries = allocationEntries(this.diskBytes, BLOCK_BYTES, LOGICAL_SECTOR);
    return Math.ceil((entries * 8) / MIB) * MIB;
  }

  private async closeBlock(): Promise<void> {
    this.used = 0;
    if (this.kind === 'expandable' && isZero(this.open)) {
      this.blocks.push(0);
      return;
    }
    await this.writing;
    this.blocks.push(this.sink.size);
    this.writing = this.sink.append(this.open);
    this.writing.catch(() => undefined); // awaited, and failing, with the next block or at the end
    [this.open, this.spare] = [this.spare, this.open];
  }

  private allocationTable(): Uint8Array {
    const ratio = chunkRatio(BLOCK_BYTES, LOGICAL_SECTOR);
    const table = new StructWriter(allocationEntries(this.diskBytes, BLOCK_BYTES, LOGICAL_SECTOR) * 8);
    for (const [i, offset] of this.blocks.entries()) {
      table.seek((i + Math.floor(i / ratio)) * 8);
      // Offsets are whole MiB, so the low twenty bits are free for the state.
      table.u64(offset === 0 ? blockState.notPresent : offset + blockState.present);
    }
    return table.bytes;
  }
}

function headerRecord(sequence: number, writeGuid: string): Uint8Array {
  const record = new StructWriter(HEADER_BYTES)
    .text('head')
    .u32(0)
    .u64(sequence)
    .raw(guidBytes(writeGuid))
    .raw(guidBytes(writeGuid))
    .seek(64)
    .u16(0)
    .u16(1)
    .u32(MIB)
    .u64(LOG_AT);
  return record.seek(4).u32(crc32c(record.bytes)).bytes;
}

function regionTable(allocationBytes: number): Uint8Array {
  const record = new StructWriter(REGION_BYTES)
    .text('regi')
    .u32(0)
    .u32(2)
    .u32(0)
    .raw(guidBytes(regions.allocation))
    .u64(ALLOCATION_AT)
    .u32(allocationBytes)
    .u32(1)
    .raw(guidBytes(regions.metadata))
    .u64(METADATA_AT)
    .u32(MIB)
    .u32(1);
  return record.seek(4).u32(crc32c(record.bytes)).bytes;
}

/** Bytes that a manifest may have: what the metadata region has room for. */
export const MOST_MANIFEST_BYTES = MIB - METADATA_TABLE_BYTES - 4096;

function metadataRegion(diskBytes: number, kind: DiskKind, identity: DiskIdentity): Uint8Array {
  const system = itemFlags.required;
  const ofDisk = itemFlags.required | itemFlags.disk;
  const rows: [string, number, Uint8Array][] = [
    [
      items.fileParameters,
      system,
      new StructWriter(8).u32(BLOCK_BYTES).u32(kind === 'fixed' ? fileFlags.leaveAllocated : 0).bytes,
    ],
    [items.diskBytes, ofDisk, new StructWriter(8).u64(diskBytes).bytes],
    [items.diskGuid, ofDisk, guidBytes(identity.diskGuid)],
    [items.logicalSector, ofDisk, new StructWriter(4).u32(LOGICAL_SECTOR).bytes],
    [items.physicalSector, ofDisk, new StructWriter(4).u32(PHYSICAL_SECTOR).bytes],
  ];
  if (identity.manifest.length > 0) rows.push([items.manifest, itemFlags.user, identity.manifest]);
  const region = new StructWriter(MIB).text('metadata').u16(0).u16(rows.length);
  let at = METADATA_TABLE_BYTES;
  for (const [i, [item, flags, value]] of rows.entries()) {
    region
      .seek(32 + i * 32)
      .raw(guidBytes(item))
      .u32(at)
      .u32(value.length)
      .u32(flags);
    region.seek(at).raw(value);
    at += Math.ceil(value.length / 16) * 16;
  }
  return region.bytes;
}
