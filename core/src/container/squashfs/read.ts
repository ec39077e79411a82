/** Reads a SquashFS 4.0 image, ours or another tool's, and trusts nothing that it says. */
import { ContainerFault, type ByteSource, type Codecs, type UnpackBlock } from '../bytes.ts';
import { checkName, EntryList, limitsFor, type ReadLimits } from '../limits.ts';
import { inPieces } from '../pieces.ts';
import { StructReader } from '../struct.ts';
import { utf8Text } from '../utf8.ts';
import { withExtras, type Owner, type Tree, type TreeEntry } from '../tree.ts';
import { DATA_STORED, METADATA_BYTES, MOST_UNDER_HEADER, NONE_32 } from './format.ts';
import { MetadataReader } from './metadata-reader.ts';
import { AttributeReader } from './read-attributes.ts';
import type { MetadataPlace } from './metadata-writer.ts';
import { readInode, type Inode, type StoredFile } from './read-inode.ts';
import { readOwners } from './read-owners.ts';
import { readSuperblock, type Superblock } from './superblock.ts';

/** Deeper than any path that a system can open. */
const MOST_DEPTH = 2048;
const FRAGMENTS_A_BLOCK = METADATA_BYTES / 16;
/** Fragment blocks kept unpacked; files that share one follow each other. */
const KEPT_FRAGMENTS = 16;

export class SquashfsImage implements Tree {
  private readonly files = new Map<TreeEntry, StoredFile>();
  private readonly fragments = new Map<number, Uint8Array>();
  /** Inodes by place: the first name of each, and how many names it has so far. */
  private readonly seen = new Map<string, { readonly path: string; names: number }>();
  private readonly attributes: AttributeReader;

  private constructor(
    private readonly source: ByteSource,
    private readonly unpack: UnpackBlock,
    readonly superblock: Superblock,
    private readonly metadata: MetadataReader,
    private readonly owners: readonly number[],
    private readonly list: EntryList,
  ) {
    this.attributes = new AttributeReader(source, superblock, metadata);
  }

  /** Reads all tables. Throws `ContainerFault` for the first thing that cannot be. */
  static async open(
    source: ByteSource,
    codecs: Pick<Codecs, 'unpack'>,
    limits: ReadLimits = limitsFor(source.size),
  ): Promise<SquashfsImage> {
    const superblock = await readSuperblock(source);
    const unpack = codecs.unpack[superblock.compression];
    const metadata = new MetadataReader(source, unpack, superblock.used);
    const owners = await readOwners(source, superblock, metadata);
    const image = new SquashfsImage(source, unpack, superblock, metadata, owners, new EntryList(limits));
    const root = await readInode(metadata, superblock, superblock.root, limits.bytes + limits.holeBytes);
    if (root.kind !== 'folder') throw new ContainerFault('has a root that is no folder');
    await image.walk(root, '', new Set([placeKey(superblock.root)]), limits);
    return image;
  }

  get entries(): readonly TreeEntry[] {
    return this.list.entries;
  }

  read(entry: TreeEntry, piece: number): AsyncIterable<Uint8Array> {
    const file = this.files.get(entry);
    if (!file) throw new Error(`${entry.path} is no file of this image`);
    return inPieces(this.content(file), piece);
  }

  /** Every range of the image that holds content, as `[start, length]`; files may share one. */
  storedRanges(): [number, number][] {
    return [...this.files.values()].flatMap(({ start, blocks }) => {
      let at = start;
      return [...blocks].flatMap((word): [number, number][] => {
        const length = word & ~DATA_STORED;
        const range: [number, number] = [at, length];
        at += length;
        return length > 0 ? [range] : [];
      });
    });
  }

  private async walk(
    folder: Extract<Inode, { kind: 'folder' }>,
    path: string,
    above: ReadonlySet<string>,
    limits: ReadLimits,
  ): Promise<void> {
    if (above.size > MOST_DEPTH) throw new ContainerFault(`has folders deeper than ${MOST_DEPTH}`);
    const names = new Set<string>();
    for (const child of await this.listing(folder)) {
      checkName(child.name, path);
      if (names.has(child.name)) throw new ContainerFault(`has ${child.name} twice in ${path || 'its root'}`);
      names.add(child.name);
      const key = placeKey(child.inode);
      if (above.has(key)) throw new ContainerFault(`has a folder that holds itself: ${path}/${child.name}`);
      const inode = await readInode(
        this.metadata,
        this.superblock,
        child.inode,
        limits.bytes + limits.holeBytes,
      );
      const own = path === '' ? child.name : `${path}/${child.name}`;
      await this.note(own, inode, this.nameOf(key, own, inode));
      if (inode.kind === 'folder') await this.walk(inode, own, new Set([...above, key]), limits);
    }
  }

  /**
   * Counts the names of an inode, which are no more than it says, and inodes, which are no more than
   * the header says: a few bytes could name the same folder a million times otherwise. Gives the
   * first name of a file that has another.
   */
  private nameOf(key: string, path: string, inode: Inode): string | undefined {
    const known = this.seen.get(key);
    if (!known) {
      // The root is one as well.
      if (this.seen.size + 2 > this.superblock.inodes)
        throw new ContainerFault(`has more than the ${this.superblock.inodes} inodes that its header says`);
      this.seen.set(key, { path, names: 1 });
      return undefined;
    }
    if (++known.names > inode.links)
      throw new ContainerFault(`has ${path}, which is ${known.path} too, under more names than it says`);
    // A link has no content, so it is as good as the same under each of its names.
    return inode.kind === 'file' ? known.path : undefined;
  }

  private async note(path: string, inode: Inode, sameAs: string | undefined): Promise<void> {
    const { mode, modified } = inode;
    const size = inode.kind === 'file' ? inode.file.size : 0;
    const plain: TreeEntry = {
      path,
      kind: inode.kind,
      size,
      mode,
      modified,
      ...(inode.kind === 'link' ? { target: inode.target } : {}),
      ...(sameAs === undefined ? {} : { sameAs }),
    };
    const attributes = await this.attributes.list(inode.attributes);
    const entry = withExtras(plain, { nanos: 0, owner: this.ownerOf(inode), attributes });
    const isFirst = inode.kind === 'file' && sameAs === undefined;
    this.list.add(entry, isFirst ? holeBytes(inode.file, this.superblock.blockBytes) : 0);
    if (inode.kind === 'file') this.files.set(entry, inode.file);
  }

  private ownerOf({ user, group }: Inode): Owner {
    const found = { user: this.owners[user], group: this.owners[group] };
    if (found.user === undefined || found.group === undefined)
      throw new ContainerFault(`points to owner ${Math.max(user, group)} of ${this.owners.length}`);
    return { user: found.user, group: found.group };
  }

  private async listing(
    folder: Extract<Inode, { kind: 'folder' }>,
  ): Promise<{ name: string; inode: MetadataPlace }[]> {
    const cursor = this.metadata.at(this.superblock.folderTable, folder.listing);
    const children: { name: string; inode: MetadataPlace }[] = [];
    for (let left = folder.listingBytes; left > 0;) {
      const head = new StructReader(await cursor.take(12), 'a listing');
      const count = head.u32() + 1;
      const block = head.u32();
      if (count > MOST_UNDER_HEADER) throw new ContainerFault(`has a listing of ${count} entries in one run`);
      left -= 12;
      for (let i = 0; i < count; i++) {
        const row = new StructReader(await cursor.take(8), 'a listing');
        const offset = row.u16();
        row.u32();
        const length = row.u16() + 1;
        if (length > 256) throw new ContainerFault('has a name longer than 256 bytes');
        const name = utf8Text(await cursor.take(length), 'a name');
        left -= 8 + length;
        children.push({ name, inode: { block, offset } });
      }
      if (left < 0) throw new ContainerFault('has a listing longer than its folder says');
    }
    return children;
  }

  private async *content(file: StoredFile): AsyncGenerator<Uint8Array> {
    const { blockBytes } = this.superblock;
    let at = file.start;
    for (const [i, word] of file.blocks.entries()) {
      const wanted = Math.min(blockBytes, file.size - i * blockBytes);
      const length = word & ~DATA_STORED;
      if (length === 0) yield new Uint8Array(wanted);
      else yield await this.block(at, word, wanted);
      at += length;
    }
    const left = file.size - file.blocks.length * blockBytes;
    if (file.fragment === NONE_32 || left === 0) return;
    const fragment = await this.fragment(file.fragment);
    if (file.fragmentOffset + left > fragment.length)
      throw new ContainerFault('has a file that reaches beyond its fragment');
    yield fragment.subarray(file.fragmentOffset, file.fragmentOffset + left);
  }

  /** A block of exactly `wanted` bytes; a fragment block has up to a whole block, then pass none. */
  private async block(start: number, word: number, wanted?: number): Promise<Uint8Array> {
    const length = word & ~DATA_STORED;
    const most = wanted ?? this.superblock.blockBytes;
    if (length > this.superblock.blockBytes || start + length > this.superblock.inodeTable)
      throw new ContainerFault(`has a block of data at ${start} that lies outside of its data`);
    const stored = await this.source.read(start, length);
    const plain = word & DATA_STORED ? stored : await this.unpack(stored, most);
    if (plain.length > most || (wanted !== undefined && plain.length !== wanted))
      throw new ContainerFault(`has a block at ${start} of ${plain.length} bytes where ${most} belong`);
    return plain;
  }

  private async fragment(number: number): Promise<Uint8Array> {
    const known = this.fragments.get(number);
    if (known) return known;
    if (number >= this.superblock.fragments)
      throw new ContainerFault(`points to fragment ${number} of ${this.superblock.fragments}`);
    const pointer = await this.source.read(
      this.superblock.fragmentTable + Math.floor(number / FRAGMENTS_A_BLOCK) * 8,
      8,
    );
    const block = new StructReader(pointer, 'the fragment table').u64();
    const offset = (number % FRAGMENTS_A_BLOCK) * 16;
    const row = await this.metadata.at(block, { block: 0, offset }).take(16);
    const read = new StructReader(row, 'the fragment table');
    const plain = await this.block(read.u64(), read.u32());
    if (this.fragments.size >= KEPT_FRAGMENTS)
      this.fragments.delete(this.fragments.keys().next().value ?? number);
    this.fragments.set(number, plain);
    return plain;
  }
}

/** Bytes in blocks of zeros, which are not stored. */
function holeBytes({ size, blocks }: StoredFile, blockBytes: number): number {
  let bytes = 0;
  for (const [i, word] of blocks.entries())
    if ((word & ~DATA_STORED) === 0) bytes += Math.min(blockBytes, size - i * blockBytes);
  return bytes;
}

function placeKey({ block, offset }: MetadataPlace): string {
  return `${block}:${offset}`;
}
