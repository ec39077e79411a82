/**
 * The seams of the container codecs: where bytes come from and go to, and the computations that a
 * platform does better than we could (compression, digests). All are passed in, so that the codecs
 * themselves touch no file, no thread and no library of one platform.
 */

/** Bytes that can be read at any place. */
export interface ByteSource {
  /** In bytes. */
  readonly size: number;
  /** Exactly `length` bytes from `offset`. Throws `ContainerFault` where the source ends before. */
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** A file being written. Appending goes on behind what was appended last. */
export interface ByteSink {
  /** Bytes appended so far: where the next append goes. */
  readonly size: number;
  /** Takes its place at once; the bytes may be changed again when the promise is kept. */
  append(bytes: Uint8Array): Promise<void>;
  /** Writes over what is there, or ahead of it; does not move the place of the next append. */
  writeAt(offset: number, bytes: Uint8Array): Promise<void>;
  /** Leaves so many bytes zero, without writing them where the file system can do so. */
  skip(length: number): Promise<void>;
}

/** A SHA-256 in the making. */
export interface Hasher {
  update(bytes: Uint8Array): void;
  /** The digest in hex; the hasher is used up. */
  hex(): string;
}

/** Bytes that count for a digest, from the first to before the last. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
  /** The digest ends here; the next stretch begins another. */
  readonly ends: boolean;
}

/** SHA-256 digests, one after the other, worked out beside what the caller does meanwhile. */
export interface DigestQueue {
  /** Takes the next stretches of bytes that nobody changes until the answer: digests that ended, in hex. */
  take(bytes: Uint8Array, stretches: readonly Stretch[]): Promise<readonly string[]>;
  /** Ends a thread that may work for it. */
  close(): void;
}

export interface Codecs {
  newHash(): Hasher;
  /** A queue for about so many bytes: for few, a thread of its own is not worth its start. */
  newDigestQueue(expectedBytes: number): DigestQueue;
  /** Zeros that the threads of a queue read where they are, without a copy. */
  newBlock(bytes: number): Uint8Array;
  /** zlib stream (RFC 1950) of the bytes. May work on another thread. */
  deflate(bytes: Uint8Array): Promise<Uint8Array>;
  /** How blocks of each kind are unpacked; `zlib` undoes `deflate`. */
  readonly unpack: Readonly<Record<BlockCompression, UnpackBlock>>;
}

/** Compressions whose blocks are read: zlib (RFC 1950), xz, Zstandard (RFC 8878). */
export const blockCompressions = ['zlib', 'xz', 'zstd'] as const;
export type BlockCompression = (typeof blockCompressions)[number];

/** Throws `ContainerFault` when the bytes are broken, or when more than `most` come out. */
export type UnpackBlock = (bytes: Uint8Array, most: number) => Promise<Uint8Array>;

/** Thrown by the codecs' streams for bytes that are not what they say they are. */
export class ContainerFault extends Error {
  override readonly name = 'ContainerFault';
}

/** Whether all bytes are zero. Looks at eight at a time, since containers ask it of every block. */
export function isZero(bytes: Uint8Array): boolean {
  const words = bytes.length >> 3;
  if ((bytes.byteOffset & 7) !== 0 || words === 0) return bytes.every((byte) => byte === 0);
  const view = new BigUint64Array(bytes.buffer, bytes.byteOffset, words);
  for (let i = 0; i < words; i++) if (view[i] !== 0n) return false;
  for (let i = words << 3; i < bytes.length; i++) if (bytes[i] !== 0) return false;
  return true;
}
