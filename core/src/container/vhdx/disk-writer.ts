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

/** What is known of a disk before its first byte. */
export interface DiskShape {
  readonly kind: DiskKind;
  /** A whole number of blocks. */
  readonly diskBytes: number;
  /** Stands for the state of the file. */
  readonly writeGuid: string;
  /** Blocks at the start that are kept back, to be patched and written last. */
  readonly heldBlocks: number;
  /** Blocks that the file will most likely have: the place of the tables behind them follows. */
  readonly expectedBlocks: number;
}

export interface DiskIdentity {
  readonly diskGuid: string;
  /** JSON, kept with the disk's own metadata. */
  readonly manifest: Uint8Array;
}

/** Told of every block before it is written; it stays as it is until the promise is kept. */
export type OnBlock = (index: number, bytes: Uint8Array) => Promise<void>;

const LOG_AT = MIB;
const FRONT_BYTES = 2 * MIB;
const LOGICAL_SECTOR = 512;
const PHYSICAL_SECTOR = 4096;
/** Blocks on their way, in memory. */
const MOST_UNDER_WAY = 48;

/**
 * The file from front to back: headers, log, blocks, the held blocks, metadata, allocation table.
 * What depends on the content comes last, so a sink can work out its digest as it goes.
 */
export class DiskWriter {
  /** Offset in the file of every block; 0 for one that is not kept. */
  private readonly blocks: number[] = [];
  private readonly held: Uint8Array[] = [];
  private open: Uint8Array;
  private used = 0;
  /** Buffers of blocks that are written. */
  private readonly free: Uint8Array[] = [];
  private readonly underWay: Promise<void>[] = [];

  private constructor(
    private readonly sink: ByteSink,
    private readonly shape: DiskShape,
    private readonly newBlock: (bytes: number) => Uint8Array,
    private readonly onBlock: OnBlock,
  ) {
    this.open = newBlock(BLOCK_BYTES);
  }

  /** The sink must be empty. */
  static async begin(
    sink: ByteSink,
    shape: DiskShape,
    newBlock: (bytes: number) => Uint8Array,
    onBlock: OnBlock,
  ): Promise<DiskWriter> {
    const writer = new DiskWriter(sink, shape, newBlock, onBlock);
    const front = new StructWriter(FRONT_BYTES).text(SIGNATURE).wide('Vat Line');
    for (const [i, offset] of headerOffsets.entries())
      front.seek(offset).raw(headerRecord(i + 1, shape.writeGuid));
    const table = writer.regionTable(shape.expectedBlocks);
    for (const offset of regionOffsets) front.seek(offset).raw(table);
    await sink.append(front.bytes);
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

  /** Writes over bytes of a block that is held. */
  patch(offset: number, bytes: Uint8Array): void {
    const block = this.held[Math.floor(offset / BLOCK_BYTES)];
    if (!block) throw new Error(`nothing is held at ${offset} of the disk`);
    block.set(bytes, offset % BLOCK_BYTES);
  }

  /** Resolves when every block given so far is written and was looked at. */
  async settled(): Promise<void> {
    await Promise.all(this.underWay.splice(0));
  }

  /** Writes the held blocks and the tables; the file is complete then. */
  async end(identity: DiskIdentity): Promise<void> {
    const { diskBytes, kind, expectedBlocks } = this.shape;
    if (this.used > 0 || this.blocks.length * BLOCK_BYTES !== diskBytes)
      throw new Error(`${this.blocks.length} blocks and ${this.used} bytes do not make the disk`);
    for (const [i, block] of this.held.entries()) {
      this.blocks[i] = this.sink.size;
      await this.sink.append(block);
    }
    await this.settled();
    const kept = (this.sink.size - FRONT_BYTES) / BLOCK_BYTES;
    await this.sink.append(metadataRegion(diskBytes, kind, identity));
    await this.sink.append(this.allocationTable());
    if (kept === expectedBlocks) return;
    const table = this.regionTable(kept);
    for (const offset of regionOffsets) await this.sink.writeAt(offset, table);
  }

  private async closeBlock(): Promise<void> {
    const block = this.open;
    this.open = this.free.pop() ?? this.newBlock(BLOCK_BYTES);
    this.used = 0;
    const index = this.blocks.length;
    const looked = this.onBlock(index, block);
    let written: Promise<void> | undefined;
    if (index < this.shape.heldBlocks) {
      this.held.push(block);
      this.blocks.push(0);
    } else if (this.shape.kind === 'expandable' && isZero(block)) this.blocks.push(0);
    else {
      this.blocks.push(this.sink.size);
      written = this.sink.append(block);
    }
    const done = Promise.all([looked, written]).then(() => {
      if (index >= this.shape.heldBlocks) this.free.push(block);
    });
    done.catch(() => undefined); // awaited, and failing, further on
    this.underWay.push(done);
    if (this.underWay.length > MOST_UNDER_WAY) await this.underWay.shift();
  }

  private regionTable(blocks: number): Uint8Array {
    const metadataAt = FRONT_BYTES + blocks * BLOCK_BYTES;
    const record = new StructWriter(REGION_BYTES)
      .text('regi')
      .u32(0)
      .u32(2)
      .u32(0)
      .raw(guidBytes(regions.allocation))
      .u64(metadataAt + MIB)
      .u32(this.allocationBytes)
      .u32(1)
      .raw(guidBytes(regions.metadata))
      .u64(metadataAt)
      .u32(MIB)
      .u32(1);
    return record.seek(4).u32(crc32c(record.bytes)).bytes;
  }

  private get allocationBytes(): number {
    const entries = allocationEntries(this.shape.diskBytes, BLOCK_BYTES, LOGICAL_SECTOR);
    return Math.ceil((entries * 8) / MIB) * MIB;
  }

  /** The table, filled up to the whole MiB that regions take. */
  private allocationTable(): Uint8Array {
    const ratio = chunkRatio(BLOCK_BYTES, LOGICAL_SECTOR);
    const table = new StructWriter(this.allocationBytes);
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
