/** The superblock of a SquashFS image, read and judged. */
import { blockCompressions, ContainerFault, type BlockCompression, type ByteSource } from '../bytes.ts';
import { StructReader } from '../struct.ts';
import { compressions, MAGIC, MAX_DATA_BYTES, MIN_DATA_BYTES, SUPERBLOCK_BYTES } from './format.ts';
import type { MetadataPlace } from './metadata-writer.ts';

export interface Superblock {
  readonly inodes: number;
  readonly blockBytes: number;
  readonly compression: BlockCompression;
  readonly fragments: number;
  readonly root: MetadataPlace;
  /** Bytes of the file system; what comes behind is padding, or somebody else's. */
  readonly used: number;
  readonly inodeTable: number;
  readonly folderTable: number;
  readonly fragmentTable: number;
  /** How many owners there are, and where their table is. */
  readonly owners: number;
  readonly ownerTable: number;
  /** Of extended attributes; -1 where there are none. */
  readonly attributeTable: number;
}

/** Whether bytes begin like a SquashFS image. */
export function isSquashfs(start: Uint8Array): boolean {
  return start.length >= 4 && new DataView(start.buffer, start.byteOffset, 4).getUint32(0, true) === MAGIC;
}

/** Throws `ContainerFault` for what cannot be a SquashFS 4.0 image whose blocks are read. */
export async function readSuperblock(source: ByteSource): Promise<Superblock> {
  if (source.size < SUPERBLOCK_BYTES) throw new ContainerFault('is too short for a SquashFS image');
  const raw = await source.read(0, SUPERBLOCK_BYTES);
  if (!isSquashfs(raw)) throw new ContainerFault('is not a SquashFS image');
  const read = new StructReader(raw, 'the superblock', 4);
  const inodes = read.u32();
  read.u32();
  const blockBytes = read.u32();
  const fragments = read.u32();
  const compressionNumber = read.u16();
  const blockLog = read.u16();
  read.seek(26);
  const owners = read.u16();
  const version = `${read.u16()}.${read.u16()}`;
  if (version !== '4.0') throw new ContainerFault(`is SquashFS ${version}; 4.0 is read`);
  const compressionName = compressions[compressionNumber];
  const compression = blockCompressions.find((name) => name === compressionName);
  if (!compression)
    throw new ContainerFault(
      `is compressed with ${compressionName || 'something unknown'}; ${blockCompressions.join(', ')} are read`,
    );
  if (blockBytes !== 2 ** blockLog || blockBytes < MIN_DATA_BYTES || blockBytes > MAX_DATA_BYTES)
    throw new ContainerFault(`has a block size of ${blockBytes} bytes, which no SquashFS image has`);
  const offset = read.u16();
  const block = read.u32();
  read.u16();
  const used = read.u64();
  const [ownerTable, attributeTable] = [read.u64(), read.u64orNone()];
  const [inodeTable, folderTable, fragmentTable] = [read.seek(64).u64(), read.u64(), read.u64orNone()];
  if (used > source.size) throw new ContainerFault(`is cut short: it has ${source.size} of ${used} bytes`);
  const inOrder = SUPERBLOCK_BYTES <= inodeTable && inodeTable < folderTable && folderTable <= used;
  if (!inOrder || (fragments > 0 && (fragmentTable < folderTable || fragmentTable > used)))
    throw new ContainerFault('has tables that lie outside of it or over each other');
  return {
    inodes,
    blockBytes,
    compression,
    fragments,
    root: { block, offset },
    used,
    inodeTable,
    folderTable,
    fragmentTable,
    owners,
    ownerTable,
    attributeTable,
  };
}
