/** A file whose digest is worked out while it is written. */
import type { ByteSink, DigestQueue } from '@vatline/core/container/bytes';
import type { FileSink } from './byte-files.ts';
import { digestOfFile } from './digest-of-file.ts';
import { newDigestQueue } from './digest-queue.ts';

const ZEROS = new Uint8Array(new SharedArrayBuffer(1 << 20));

/**
 * As long as the file is written from front to back, its digest is there when the last byte is. A
 * writer that comes back to what it wrote costs one more reading of the file, at the end.
 */
export class DigestingSink implements ByteSink {
  private readonly queue: DigestQueue;
  private cameBack = false;

  constructor(
    private readonly sink: FileSink,
    private readonly path: string,
    expectedBytes: number,
  ) {
    this.queue = newDigestQueue(expectedBytes);
  }

  get size(): number {
    return this.sink.size;
  }

  async append(bytes: Uint8Array): Promise<void> {
    await Promise.all([this.sink.append(bytes), this.hash(bytes, bytes.length)]);
  }

  async writeAt(offset: number, bytes: Uint8Array): Promise<void> {
    this.cameBack = true;
    await this.sink.writeAt(offset, bytes);
  }

  async skip(length: number): Promise<void> {
    await this.sink.skip(length);
    for (let left = length; left > 0; left -= ZEROS.length)
      await this.hash(ZEROS, Math.min(left, ZEROS.length));
  }

  /** SHA-256 of the file in hex, which must be finished. */
  async digest(): Promise<string> {
    if (this.cameBack) return digestOfFile(this.path);
    const [sha256 = ''] = await this.queue.take(ZEROS, [{ from: 0, to: 0, ends: true }]);
    return sha256;
  }

  close(): void {
    this.queue.close();
  }

  private async hash(bytes: Uint8Array, to: number): Promise<void> {
    if (!this.cameBack) await this.queue.take(bytes, [{ from: 0, to, ends: false }]);
  }
}
