/** A metadata table in the making: a stream of records, cut into compressed blocks of 8 KiB. */
import type { Codecs } from '../bytes.ts';
import { METADATA_BYTES, METADATA_STORED } from './format.ts';

/** Where a record begins: start of its block in the compressed table, and offset in the block. */
export interface MetadataPlace {
  readonly block: number;
  readonly offset: number;
}

export class MetadataWriter {
  /** The compressed blocks so far, with their lengths before them. */
  readonly chunks: Uint8Array[] = [];
  /** Start of every block in the compressed table. */
  readonly starts: number[] = [];
  private size = 0;
  private readonly open = new Uint8Array(METADATA_BYTES);
  private used = 0;

  constructor(private readonly codecs: Pick<Codecs, 'deflate'>) {}

  /** Bytes of the compressed table so far. */
  get bytes(): number {
    return this.size;
  }

  /** Where the next record will begin. */
  get place(): MetadataPlace {
    return { block: this.size, offset: this.used };
  }

  /** Blocks are compressed one after the other, since records point to where earlier ones begin. */
  async append(record: Uint8Array): Promise<void> {
    for (let from = 0; from < record.length;) {
      const part = record.subarray(from, from + METADATA_BYTES - this.used);
      this.open.set(part, this.used);
      this.used += part.length;
      from += part.length;
      if (this.used === METADATA_BYTES) await this.flush();
    }
  }

  async end(): Promise<void> {
    if (this.used > 0) await this.flush();
  }

  private async flush(): Promise<void> {
    const plain = this.open.slice(0, this.used);
    const packed = await this.codecs.deflate(plain);
    const isSmaller = packed.length < plain.length;
    const body = isSmaller ? packed : plain;
    const chunk = new Uint8Array(2 + body.length);
    new DataView(chunk.buffer).setUint16(0, isSmaller ? body.length : body.length | METADATA_STORED, true);
    chunk.set(body, 2);
    this.starts.push(this.size);
    this.chunks.push(chunk);
    this.size += chunk.length;
    this.used = 0;
  }
}
