/** A gzip-compressed tar layer that is written to disk piece by piece. */
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { TAR_BLOCK, tarPadding } from '@vatline/core/container/tar/format';
import { ParallelGzip } from './parallel-gzip.ts';

/** What fills the last block of a file of this many bytes. */
export function paddingAfter(size: number): Uint8Array {
  return END_OF_ARCHIVE.subarray(0, tarPadding(size));
}

const END_OF_ARCHIVE = Buffer.alloc(2 * TAR_BLOCK);
/** Small pieces are gathered up to this many bytes before they are hashed and compressed. */
const GATHER = 1 << 18;

/** The bytes of a layer on their way to disk: digest of the tar, compression, digest of the result. */
export class LayerStream {
  private readonly plain = createHash('sha256');
  private readonly zipped = createHash('sha256');
  private readonly zip = new ParallelGzip();
  private readonly writing: Promise<void>;
  private pieces: Uint8Array[] = [];
  private gathered = 0;
  private size = 0;

  constructor(path: string) {
    this.zip.on('data', (chunk: Buffer) => {
      this.zipped.update(chunk);
      this.size += chunk.length;
    });
    this.writing = pipeline(this.zip, createWriteStream(path));
    this.writing.catch(() => undefined); // reported by the next write or by the end
  }

  async write(...pieces: Uint8Array[]): Promise<void> {
    for (const piece of pieces) {
      this.pieces.push(piece);
      this.gathered += piece.length;
    }
    if (this.gathered >= GATHER) await this.flush();
  }

  async end(): Promise<{ digest: string; diffId: string; size: number }> {
    await this.write(END_OF_ARCHIVE);
    await this.flush();
    this.zip.end();
    await this.writing;
    return { digest: this.zipped.digest('hex'), diffId: this.plain.digest('hex'), size: this.size };
  }

  async abandon(): Promise<void> {
    this.zip.destroy();
    await this.writing.catch(() => undefined);
  }

  private async flush(): Promise<void> {
    const block = Buffer.concat(this.pieces);
    this.pieces = [];
    this.gathered = 0;
    this.plain.update(block);
    if (this.zip.write(block)) return;
    // A full disk ends the writing and would otherwise leave us waiting for a drain that never comes.
    await Promise.race([once(this.zip, 'drain'), this.writing]);
  }
}
