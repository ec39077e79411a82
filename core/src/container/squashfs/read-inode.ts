/** One inode of a SquashFS image. */
import { ContainerFault } from '../bytes.ts';
import { StructReader } from '../struct.ts';
import { utf8Text } from '../utf8.ts';
import { inodeType, NONE_32 } from './format.ts';
import type { MetadataCursor, MetadataReader } from './metadata-reader.ts';
import type { MetadataPlace } from './metadata-writer.ts';
import type { Superblock } from './superblock.ts';

/** Where the content of a file is, as its inode says. */
export interface StoredFile {
  readonly start: number;
  readonly size: number;
  /** Size words of its blocks; 0 is a block of zeros. */
  readonly blocks: Uint32Array;
  readonly fragment: number;
  readonly fragmentOffset: number;
}

interface Common {
  readonly mode: number;
  readonly modified: number;
  /** Places in the table of owners. */
  readonly user: number;
  readonly group: number;
  /** Under how many names it is, as it says; a folder always under one. */
  readonly links: number;
  /** Place in the table of attributes, or `NONE_32`. */
  readonly attributes: number;
}

export type Inode = Common &
  (
    | { readonly kind: 'folder'; readonly listing: MetadataPlace; readonly listingBytes: number }
    | { readonly kind: 'file'; readonly file: StoredFile }
    | { readonly kind: 'link'; readonly target: string }
  );

/** A target is a path, so no longer than paths are. */
const MOST_TARGET_BYTES = 65_536;

/** Throws `ContainerFault`: broken, a device, or a file larger than `mostBytes`. */
export async function readInode(
  metadata: MetadataReader,
  superblock: Superblock,
  place: MetadataPlace,
  mostBytes: number,
): Promise<Inode> {
  const cursor = metadata.at(superblock.inodeTable, place);
  const head = new StructReader(await cursor.take(16), 'an inode');
  const type = head.u16();
  const mode = head.u16() & 0o7777;
  const [user, group] = [head.u16(), head.u16()];
  const common = { mode, modified: head.u32(), user, group };
  switch (type) {
    case inodeType.folder:
    case inodeType.extendedFolder:
      return { ...common, kind: 'folder', ...(await readFolder(cursor, type === inodeType.folder)) };
    case inodeType.file:
    case inodeType.extendedFile:
      return {
        ...common,
        kind: 'file',
        ...(await readFile(cursor, superblock, type === inodeType.file, mostBytes)),
      };
    case inodeType.link:
    case inodeType.extendedLink:
      return { ...common, kind: 'link', ...(await readLink(cursor, type === inodeType.link)) };
    default:
      throw new ContainerFault(`holds a device, socket or pipe (inode type ${type})`);
  }
}

async function readLink(
  cursor: MetadataCursor,
  isBasic: boolean,
): Promise<{ target: string; links: number; attributes: number }> {
  const read = new StructReader(await cursor.take(8), 'a link');
  const [links, length] = [read.u32(), read.u32()];
  if (length > MOST_TARGET_BYTES) throw new ContainerFault(`has a link with a target of ${length} bytes`);
  const target = utf8Text(await cursor.take(length), 'a target of a link');
  const attributes = isBasic ? NONE_32 : new StructReader(await cursor.take(4), 'a link').u32();
  return { target, links, attributes };
}

async function readFolder(
  cursor: MetadataCursor,
  isBasic: boolean,
): Promise<{ listing: MetadataPlace; listingBytes: number; links: number; attributes: number }> {
  const read = new StructReader(await cursor.take(isBasic ? 16 : 24), 'a folder');
  if (isBasic) {
    const block = read.u32();
    read.u32();
    const size = read.u16();
    const listing = { block, offset: read.u16() };
    return { listing, listingBytes: Math.max(0, size - 3), links: 1, attributes: NONE_32 };
  }
  read.u32();
  const size = read.u32();
  const block = read.u32();
  read.u32();
  read.u16();
  const listing = { block, offset: read.u16() };
  return { listing, listingBytes: Math.max(0, size - 3), links: 1, attributes: read.u32() };
}

async function readFile(
  cursor: MetadataCursor,
  superblock: Superblock,
  isBasic: boolean,
  mostBytes: number,
): Promise<{ file: StoredFile; links: number; attributes: number }> {
  const read = new StructReader(await cursor.take(isBasic ? 16 : 40), 'a file');
  const start = isBasic ? read.u32() : read.u64();
  const first = isBasic ? 0 : read.u64();
  const links = isBasic ? 1 : read.seek(24).u32();
  const fragment = read.u32();
  const fragmentOffset = read.u32();
  const attributes = isBasic ? NONE_32 : read.u32();
  const size = isBasic ? read.u32() : first;
  if (size > mostBytes)
    throw new ContainerFault(`has a file that claims ${size} bytes; it is not read further`);
  const whole = size / superblock.blockBytes;
  const count = fragment === NONE_32 ? Math.ceil(whole) : Math.floor(whole);
  const list = new StructReader(await cursor.take(count * 4), 'a list of blocks');
  const blocks = Uint32Array.from({ length: count }, () => list.u32());
  return { file: { start, size, blocks, fragment, fragmentOffset }, links, attributes };
}
