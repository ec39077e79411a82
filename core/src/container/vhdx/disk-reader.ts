/** Reads the disk in a VHDX file, ours or another tool's, and trusts nothing that it says. */
import { ContainerFault, type ByteSource } from '../bytes.ts';
import { crc32c } from '../crc.ts';
import { guidText } from '../guid.ts';
import { joined } from '../pieces.ts';
import { StructReader, StructWriter } from '../struct.ts';
import {
  allocationEntries,
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
import type { DiskKind } from './disk-writer.ts';

/** FAT32 volumes end here, so a larger disk holds none that we would read. */
const MOST_DISK_BYTES = 2 ** 41 + 2 ** 32;

/** Whether bytes begin like a VHDX file. */
export function isVhdx(start: Uint8Array): boolean {
  return new TextDecoder().decode(start.subarray(0, SIGNATURE.length)) === SIGNATURE;
}

interface Region {
  readonly offset: number;
  readonly length: number;
}

interface DiskFacts {
  readonly blockBytes: number;
  readonly kind: DiskKind;
  readonly diskBytes: number;
  readonly sectorBytes: number;
  readonly manifest: string;
}

export class VhdxDisk implements ByteSource {
  private constructor(
    private readonly file: ByteSource,
    readonly facts: DiskFacts,
    /** Offset in the file of every block; 0 for one of zeros. */
    private readonly blocks: Float64Array,
  ) {}

  /** Throws `ContainerFault`: broken, not closed properly, a child of another disk. */
  static async open(file: ByteSource): Promise<VhdxDisk> {
    if (file.size < MIB || !isVhdx(await file.read(0, 8))) throw new ContainerFault('is not a VHDX file');
    await checkHeaders(file);
    const found = await readRegions(file);
    const facts = await readMetadata(file, found.metadata);
    return new VhdxDisk(file, facts, await readAllocation(file, found.allocation, facts));
  }

  get size(): number {
    return this.facts.diskBytes;
  }

  async read(offset: number, length: number): Promise<Uint8Array> {
    if (offset < 0 || offset + length > this.size)
      throw new ContainerFault(`is read at ${offset} of its disk, which has ${this.size} bytes`);
    const { blockBytes } = this.facts;
    const parts: Uint8Array[] = [];
    for (let at = offset; at < offset + length;) {
      const within = at % blockBytes;
      const part = Math.min(blockBytes - within, offset + length - at);
      const block = this.blocks[Math.floor(at / blockBytes)] ?? 0;
      parts.push(block === 0 ? new Uint8Array(part) : await this.file.read(block + within, part));
      at += part;
    }
    return parts.length === 0 ? new Uint8Array() : joined(parts);
  }
}

/** The header in force is the one with the higher sequence number whose sum is right. */
async function checkHeaders(file: ByteSource): Promise<void> {
  let newest: { sequence: number; raw: Uint8Array } | undefined;
  for (const offset of headerOffsets) {
    const raw = await file.read(offset, HEADER_BYTES);
    if (!sumHolds(raw, 'head')) continue;
    const sequence = new StructReader(raw, 'a header', 8).u64();
    if (!newest || sequence > newest.sequence) newest = { sequence, raw };
  }
  if (!newest) throw new ContainerFault('has no header whose checksum is right');
  const read = new StructReader(newest.raw, 'the header', 48);
  const log = read.raw(16);
  const logVersion = read.u16();
  const version = read.u16();
  if (version !== 1 || logVersion !== 0) throw new ContainerFault(`is VHDX version ${version}; 1 is read`);
  if (log.some((byte) => byte !== 0))
    throw new ContainerFault('was not closed properly: its log holds writes that are not in the disk yet');
}

function sumHolds(raw: Uint8Array, signature: string): boolean {
  const read = new StructReader(raw, 'a record');
  if (read.text(4) !== signature) return false;
  const sum = read.u32();
  const plain = new StructWriter(raw.length).raw(raw).seek(4).u32(0).bytes;
  return crc32c(plain) === sum;
}

async function readRegions(file: ByteSource): Promise<{ allocation: Region; metadata: Region }> {
  for (const offset of regionOffsets) {
    const raw = await file.read(offset, REGION_BYTES);
    if (!sumHolds(raw, 'regi')) continue;
    const found = regionsIn(raw, file.size);
    const [allocation, metadata] = [found.get(regions.allocation), found.get(regions.metadata)];
    if (!allocation || !metadata) throw new ContainerFault('lacks a region for its allocation or metadata');
    return { allocation, metadata };
  }
  throw new ContainerFault('has no table of regions whose checksum is right');
}

function regionsIn(raw: Uint8Array, fileBytes: number): Map<string, Region> {
  const read = new StructReader(raw, 'the table of regions', 8);
  const count = read.u32();
  if (count > 2047) throw new ContainerFault(`has a table of ${count} regions`);
  read.u32();
  const found = new Map<string, Region>();
  for (let i = 0; i < count; i++) {
    const guid = guidText(read.raw(16));
    const region = { offset: read.u64(), length: read.u32() };
    const isRequired = (read.u32() & 1) === 1;
    if (region.offset < MIB || region.offset + region.length > fileBytes)
      throw new ContainerFault(`has a region outside of the file, at ${region.offset}`);
    const isKnown = Object.values<string>(regions).includes(guid);
    if (isRequired && !isKnown) throw new ContainerFault(`needs a region that is not known, ${guid}`);
    found.set(guid, region);
  }
  return found;
}

async function readMetadata(file: ByteSource, region: Region): Promise<DiskFacts> {
  if (region.length < METADATA_TABLE_BYTES) throw new ContainerFault('has metadata that is cut short');
  const table = new StructReader(await file.read(region.offset, METADATA_TABLE_BYTES), 'the metadata');
  if (table.text(8) !== 'metadata') throw new ContainerFault('has no table of metadata');
  table.u16();
  const count = table.u16();
  if (count > 2047) throw new ContainerFault(`has ${count} items of metadata`);
  table.seek(32);
  const values = new Map<string, Uint8Array>();
  for (let i = 0; i < count; i++) {
    const guid = guidText(table.raw(16));
    const [offset, length, flags] = [table.u32(), table.u32(), table.u32()];
    table.u32();
    const isKnown = Object.values<string>(items).includes(guid);
    if (!isKnown && flags & itemFlags.required)
      throw new ContainerFault(`needs an item of metadata that is not known, ${guid}`);
    if (!isKnown || length === 0) continue;
    if (offset + length > region.length) throw new ContainerFault('has metadata outside of its region');
    values.set(guid, await file.read(region.offset + offset, length));
  }
  return diskFacts(values);
}

function diskFacts(values: ReadonlyMap<string, Uint8Array>): DiskFacts {
  const item = (guid: string, what: string) => {
    const value = values.get(guid);
    if (!value) throw new ContainerFault(`does not say ${what}`);
    return new StructReader(value, what);
  };
  const parameters = item(items.fileParameters, 'its block size');
  const blockBytes = parameters.u32();
  const flags = parameters.u32();
  if (flags & fileFlags.hasParent)
    throw new ContainerFault('is a child of another disk; only disks that stand alone are read');
  if (!Number.isInteger(Math.log2(blockBytes)) || blockBytes < MIB || blockBytes > 256 * MIB)
    throw new ContainerFault(`has blocks of ${blockBytes} bytes, which no VHDX file has`);
  const sectorBytes = item(items.logicalSector, 'its sector size').u32();
  if (sectorBytes !== 512 && sectorBytes !== 4096)
    throw new ContainerFault(`has sectors of ${sectorBytes} bytes`);
  const diskBytes = item(items.diskBytes, 'its size').u64();
  if (diskBytes > MOST_DISK_BYTES)
    throw new ContainerFault(`claims a disk of ${diskBytes} bytes; up to ${MOST_DISK_BYTES} are read`);
  const manifest = values.get(items.manifest);
  return {
    blockBytes,
    kind: flags & fileFlags.leaveAllocated ? 'fixed' : 'expandable',
    diskBytes,
    sectorBytes,
    manifest: manifest ? new TextDecoder().decode(manifest) : '',
  };
}

async function readAllocation(file: ByteSource, region: Region, facts: DiskFacts): Promise<Float64Array> {
  const { diskBytes, blockBytes, sectorBytes } = facts;
  const entries = allocationEntries(diskBytes, blockBytes, sectorBytes);
  if (entries * 8 > region.length) throw new ContainerFault('has a table of blocks that is too short');
  const table = new StructReader(await file.read(region.offset, entries * 8), 'the table of blocks');
  const ratio = chunkRatio(blockBytes, sectorBytes);
  const blocks = new Float64Array(Math.ceil(diskBytes / blockBytes));
  const owners = new Map<number, number>();
  for (let i = 0; i < blocks.length; i++) {
    const entry = table.seek((i + Math.floor(i / ratio)) * 8).u64();
    const state = entry % 8;
    const offset = Math.floor(entry / MIB) * MIB;
    if (state === blockState.partly) throw new ContainerFault('has a block that is partly in a parent disk');
    if (state !== blockState.present) continue;
    if (offset < MIB || offset + blockBytes > file.size)
      throw new ContainerFault(`has block ${i} outside of the file, at ${offset}`);
    const other = owners.get(offset);
    if (other !== undefined) throw new ContainerFault(`has blocks ${other} and ${i} in one place, ${offset}`);
    owners.set(offset, i);
    blocks[i] = offset;
  }
  return blocks;
}
