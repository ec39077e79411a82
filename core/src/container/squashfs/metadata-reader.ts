/** Reads records from the compressed metadata tables of an image. */
import { ContainerFault, type ByteSource, type UnpackBlock } from '../bytes.ts';
import { METADATA_BYTES, METADATA_STORED } from './format.ts';
import type { MetadataPlace } from './metadata-writer.ts';

interface Block {
  readonly plain: Uint8Array;
  /** Where the block behind it begins. */
  readonly next: number;
}

/** So many blocks are kept unpacked: 2 MiB. */
const KEPT = 256;

export class MetadataReader {
  private readonly blocks = new Map<number, Block>();

  constructor(
    private readonly source: ByteSource,
    private readonly unpack: UnpackBlock,
    /** No table reaches behind this. */
    private readonly end: number,
  ) {}

  /** A cursor at a place of the table that begins at `table`. */
  at(table: number, place: MetadataPlace): MetadataCursor {
    return new MetadataCursor(this, table + place.block, place.offset);
  }

  async block(start: number): Promise<Block> {
    const known = this.blocks.get(start);
    if (known) return known;
    const block = await this.load(start);
    if (this.blocks.size >= KEPT) this.blocks.delete(this.blocks.keys().next().value ?? start);
    this.blocks.set(start, block);
    return block;
  }

  private async load(start: number): Promise<Block> {
    if (start + 2 > this.end) throw new ContainerFault(`points to metadata at ${start}, behind its end`);
    const head = await this.source.read(start, 2);
    const word = (head[0] ?? 0) | ((head[1] ?? 0) << 8);
    const length = word & ~METADATA_STORED;
    if (length === 0 || length > METADATA_BYTES || start + 2 + length > this.end)
      throw new ContainerFault(`has a broken block of metadata at ${start}`);
    const body = await this.source.read(start + 2, length);
    const plain = word & METADATA_STORED ? body : await this.unpack(body, METADATA_BYTES);
    return { plain, next: start + 2 + length };
  }
}

export class MetadataCursor {
  constructor(
    private readonly reader: MetadataReader,
    private block: number,
    private offset: number,
  ) {}

  /** The next bytes, over as many blocks as they take. Throws `ContainerFault` at the end. */
  async take(length: number): Promise<Uint8Array> {
    const bytes = new Uint8Array(length);
    for (let got = 0; got < length;) {
      const { plain, next } = await this.reader.block(this.block);
      const part = plain.subarray(this.offset, this.offset + length - got);
      bytes.set(part, got);
      got += part.length;
      this.offset += part.length;
      if (got === length) break;
      // Only the last block of a table may be short, and there is nothing behind it.
      if (plain.length < METADATA_BYTES || this.offset !== plain.length)
        throw new ContainerFault(`has a table that ends within a record, at ${this.block}`);
      this.block = next;
      this.offset = 0;
    }
    return bytes;
  }
}
