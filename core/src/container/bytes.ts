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

export interface Codecs {
  newHash(): Hasher;
  /** SHA-256 in hex of bytes that nobody changes meanwhile. May work on another thread. */
  digest(bytes: Uint8Array): Promise<string>;
  /** zlib stream (RFC 1950) of the bytes. May work on another thread. */
  deflate(bytes: Uint8Array): Promise<Uint8Array>;
  /** Undoes `deflate`. Throws `ContainerFault` when broken, or when more than `most` bytes come out. */
  inflate(bytes: Uint8Array, most: number): Promise<Uint8Array>;
}

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
