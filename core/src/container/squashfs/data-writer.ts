/**
 * The data of a SquashFS image: blocks of whole files, and fragments that many small files share.
 * Blocks are compressed several at a time and written in the order they were given, so the bytes
 * do not depend on how many threads there are.
 */
import { isZero, type ByteSink, type Codecs } from '../bytes.ts';
import type { PackedFile } from '../bill-of-materials.ts';
import type { Tree, TreeEntry } from '../tree.ts';
import { DATA_BYTES, DATA_STORED, NONE_32 } from './format.ts';

/** Where the content of a file lies. Files with the same content share one. */
export interface FilePlace {
  /** Offset in the image of the first block. */
  start: number;
  /** Stored size of each block, with the bit for uncompressed ones; 0 for a block of zeros. */
  readonly blocks: number[];
  /** Bytes in blocks of zeros, which are not stored. */
  sparse: number;
  /** Number of the fragment block, or `NONE_32`. */
  fragment: number;
  fragmentOffset: number;
}

export interface FragmentBlock {
  start: number;
  size: number;
}

interface Waiting {
  readonly plain: Uint8Array;
  readonly packed: Promise<Uint8Array>;
  readonly written: (start: number, size: number) => void;
}

export class DataWriter {
  readonly fragments: FragmentBlock[] = [];
  readonly files: PackedFile[] = [];
  private readonly places = new Map<string, FilePlace>();
  private readonly queue: Waiting[] = [];
  private fragment: Uint8Array | undefined;
  private fragmentUsed = 0;
  private holes = 0;

  constructor(
    private readonly tree: Tree,
    private readonly sink: ByteSink,
    private readonly codecs: Codecs,
    /** Blocks being compressed at once. */
    private readonly parallel: number,
    /** Sizes that more than one file has: only such files can be duplicates. */
    private readonly repeatedSizes: ReadonlySet<number>,
  ) {}

  /** Writes the content of a file, or finds that it is there already. */
  async add(entry: TreeEntry): Promise<FilePlace> {
    const place = await (entry.size < DATA_BYTES ? this.addSmall(entry) : this.addLarge(entry));
    this.holes += place.sparse;
    return place;
  }

  /** In holes of all files added, one with several names once. */
  get holeBytes(): number {
    return this.holes;
  }

  /** Writes what is still open. */
  async end(): Promise<void> {
    await this.closeFragment();
    while (this.queue.length > 0) await this.writeOldest();
  }

  private async addSmall(entry: TreeEntry): Promise<FilePlace> {
    let content: Uint8Array = new Uint8Array();
    for await (const piece of this.tree.read(entry, DATA_BYTES)) content = piece;
    const hash = this.codecs.newHash();
    hash.update(content);
    const sha256 = hash.hex();
    this.files.push({ path: entry.path, size: entry.size, sha256 });
    const known = this.places.get(sha256);
    if (known) return known;
    const place = emptyPlace();
    this.places.set(sha256, place);
    if (content.length === 0) return place;
    if (this.fragmentUsed + content.length > DATA_BYTES) await this.closeFragment();
    this.fragment ??= new Uint8Array(DATA_BYTES);
    this.fragment.set(content, this.fragmentUsed);
    place.fragment = this.fragments.length;
    place.fragmentOffset = this.fragmentUsed;
    this.fragmentUsed += content.length;
    return place;
  }

  /**
   * A large file is read once and its digest known only at the end; one whose size another file
   * has too is read for its digest before, so that a duplicate is never written.
   */
  private async addLarge(entry: TreeEntry): Promise<FilePlace> {
    if (this.repeatedSizes.has(entry.size)) {
      const sha256 = await this.digestOf(entry);
      const known = this.places.get(sha256);
      if (known) {
        this.files.push({ path: entry.path, size: entry.size, sha256 });
        return known;
      }
    }
    const place = emptyPlace();
    const hash = this.codecs.newHash();
    for await (const piece of this.tree.read(entry, DATA_BYTES)) {
      hash.update(piece);
      await this.addBlock(place, piece);
    }
    const sha256 = hash.hex();
    this.files.push({ path: entry.path, size: entry.size, sha256 });
    this.places.set(sha256, place);
    return place;
  }

  private async digestOf(entry: TreeEntry): Promise<string> {
    const hash = this.codecs.newHash();
    for await (const piece of this.tree.read(entry, DATA_BYTES)) hash.update(piece);
    return hash.hex();
  }

  private async addBlock(place: FilePlace, plain: Uint8Array): Promise<void> {
    const index = place.blocks.length;
    place.blocks.push(0);
    if (isZero(plain)) {
      place.sparse += plain.length;
      return;
    }
    await this.submit(plain, (start, size) => {
      // Blocks of zeros before it take no room, so the first one stored is where the file starts.
      if (place.start === 0) place.start = start;
      place.blocks[index] = size;
    });
  }

  private async closeFragment(): Promise<void> {
    if (!this.fragment) return;
    const plain = this.fragment.subarray(0, this.fragmentUsed);
    const block: FragmentBlock = { start: 0, size: 0 };
    this.fragments.push(block);
    this.fragment = undefined;
    this.fragmentUsed = 0;
    await this.submit(plain, (start, size) => Object.assign(block, { start, size }));
  }

  private async submit(plain: Uint8Array, written: Waiting['written']): Promise<void> {
    while (this.queue.length >= this.parallel) await this.writeOldest();
    const packed = this.codecs.deflate(plain);
    packed.catch(() => undefined); // it is awaited, and fails, when its turn to be written comes
    this.queue.push({ plain, packed, written });
  }

  private async writeOldest(): Promise<void> {
    const oldest = this.queue.shift();
    if (!oldest) return;
    const packed = await oldest.packed;
    const isSmaller = packed.length < oldest.plain.length;
    const body = isSmaller ? packed : oldest.plain;
    const start = this.sink.size;
    await this.sink.append(body);
    oldest.written(start, isSmaller ? body.length : body.length | DATA_STORED);
  }
}

function emptyPlace(): FilePlace {
  return { start: 0, blocks: [], sparse: 0, fragment: NONE_32, fragmentOffset: 0 };
}
