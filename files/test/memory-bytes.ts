/** Byte sources, sinks and trees in memory, for tests. */
import { ContainerFault, type ByteSink, type ByteSource, type Codecs } from '@vatline/core/container/bytes';
import { inPieces } from '@vatline/core/container/pieces';
import type { Tree, TreeEntry } from '@vatline/core/container/tree';
import { nodeCodecs } from '../src/codecs.ts';

export function memorySource(bytes: Uint8Array): ByteSource {
  return {
    size: bytes.length,
    read: (offset, length) =>
      offset >= 0 && length >= 0 && offset + length <= bytes.length
        ? Promise.resolve(bytes.slice(offset, offset + length))
        : Promise.reject(new ContainerFault('is cut short')),
  };
}

export class MemorySink implements ByteSink {
  size = 0;
  private held = new Uint8Array(1 << 16);

  get bytes(): Uint8Array {
    return this.held.slice(0, this.size);
  }

  append(bytes: Uint8Array): Promise<void> {
    const at = this.size;
    this.size += bytes.length;
    return this.writeAt(at, bytes);
  }

  writeAt(offset: number, bytes: Uint8Array): Promise<void> {
    this.grow(offset + bytes.length);
    this.held.set(bytes, offset);
    return Promise.resolve();
  }

  skip(length: number): Promise<void> {
    this.size += length;
    this.grow(this.size);
    return Promise.resolve();
  }

  private grow(size: number): void {
    if (size <= this.held.length) return;
    const larger = new Uint8Array(Math.max(size, this.held.length * 2));
    larger.set(this.held);
    this.held = larger;
  }
}

/** A tree from paths and contents; folders end in a slash. */
export function memoryTree(files: Readonly<Record<string, string | Uint8Array>>): Tree {
  const contents = new Map<string, Uint8Array>();
  const entries = Object.entries(files).map(([path, content]): TreeEntry => {
    const common = { mode: 0o644, modified: 1_800_000_000 };
    if (path.endsWith('/')) return { ...common, path: path.slice(0, -1), kind: 'folder', size: 0 };
    const bytes = typeof content === 'string' ? new TextEncoder().encode(content) : content;
    contents.set(path, bytes);
    return { ...common, path, kind: 'file', size: bytes.length };
  });
  const whole = async function* (path: string) {
    yield await Promise.resolve(contents.get(path) ?? new Uint8Array());
  };
  return { entries, read: (entry, piece) => inPieces(whole(entry.path), piece) };
}

/** Stores everything uncompressed, so that tests can find and change what is in it. */
export const storingCodecs: Codecs = {
  ...nodeCodecs,
  deflate: (bytes) => Promise.resolve(new Uint8Array(bytes.length + 1)),
};
