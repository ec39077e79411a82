/** Files on disk as the sources and sinks of the container codecs. */
import { closeSync, fstatSync, fsync, ftruncateSync, openSync, readSync, write } from 'node:fs';
import { promisify } from 'node:util';
import { ContainerFault, type ByteSink, type ByteSource } from '@vatline/core/container/bytes';

export class FileSource implements ByteSource {
  private constructor(
    private readonly handle: number,
    readonly size: number,
    private readonly onRead: ((bytes: number) => void) | undefined,
  ) {}

  /** `onRead` is told the bytes of every read. */
  static open(path: string, onRead?: (bytes: number) => void): FileSource {
    const handle = openSync(path, 'r');
    return new FileSource(handle, fstatSync(handle).size, onRead);
  }

  read(offset: number, length: number): Promise<Uint8Array> {
    if (offset < 0 || length < 0 || offset + length > this.size)
      return Promise.reject(
        new ContainerFault(`is cut short: ${length} bytes are wanted at ${offset} of ${this.size}`),
      );
    this.onRead?.(length);
    const bytes = Buffer.allocUnsafe(length);
    for (let got = 0; got < length;) {
      const n = readSync(this.handle, bytes, got, length - got, offset + got);
      if (n === 0) return Promise.reject(new ContainerFault('became shorter while it was read'));
      got += n;
    }
    return Promise.resolve(bytes);
  }

  close(): void {
    closeSync(this.handle);
  }
}

const writeTo = promisify(write);
const sync = promisify(fsync);

export class FileSink implements ByteSink {
  private end = 0;
  private isOpen = true;

  private constructor(private readonly handle: number) {}

  /** The file must not be there yet. */
  static create(path: string): FileSink {
    return new FileSink(openSync(path, 'wx'));
  }

  get size(): number {
    return this.end;
  }

  append(bytes: Uint8Array): Promise<void> {
    const at = this.end;
    this.end += bytes.length;
    return this.writeAt(at, bytes);
  }

  async writeAt(offset: number, bytes: Uint8Array): Promise<void> {
    for (let done = 0; done < bytes.length;) {
      const { bytesWritten } = await writeTo(this.handle, bytes, done, bytes.length - done, offset + done);
      done += bytesWritten;
    }
  }

  skip(length: number): Promise<void> {
    this.end += length;
    return Promise.resolve();
  }

  /** Makes the file as long as what was appended and skipped, and durable; then closes it. */
  async finish(): Promise<void> {
    if (fstatSync(this.handle).size < this.end) ftruncateSync(this.handle, this.end);
    await sync(this.handle);
    this.close();
  }

  close(): void {
    if (this.isOpen) closeSync(this.handle);
    this.isOpen = false;
  }
}
