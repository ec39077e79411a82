/** What the container codecs of the core ask of the platform, by Node's own zlib and digests. */
import { createHash } from 'node:crypto';
import { deflate, inflate, type ZlibOptions } from 'node:zlib';
import { ContainerFault, type Codecs } from '@vatline/core/container/bytes';
import { newDigestQueue } from './digest-queue.ts';
import { unpackXz } from './xz.ts';
import { unpackZstd } from './zstd.ts';

/** One call to a thread for a whole block, not one for every 16 KiB of what comes out. Six is zlib's own choice: a higher level takes twice as long for half a hundredth of the size. */
const LEVEL: ZlibOptions = { level: 6, chunkSize: 128 * 1024 };

/** zlib works on the threads of the libuv pool, so several blocks are done at once. */
export const nodeCodecs: Codecs = {
  newHash() {
    const hash = createHash('sha256');
    return { update: (bytes) => void hash.update(bytes), hex: () => hash.digest('hex') };
  },
  newDigestQueue,
  newBlock: (bytes) => new Uint8Array(new SharedArrayBuffer(bytes)),
  deflate: (bytes) =>
    new Promise((done, fail) => {
      deflate(bytes, LEVEL, (error, packed) => (error ? fail(error) : done(packed)));
    }),
  unpack: { zlib: unpackZlib, xz: unpackXz, zstd: unpackZstd },
};

function unpackZlib(bytes: Uint8Array, most: number): Promise<Uint8Array> {
  return new Promise((done, fail) => {
    inflate(
      bytes,
      { maxOutputLength: most, chunkSize: Math.min(Math.max(64, most), 128 * 1024) },
      (error, plain) => (error ? fail(new ContainerFault(whyInflateFailed(error, most))) : done(plain)),
    );
  });
}

function whyInflateFailed(error: NodeJS.ErrnoException, most: number): string {
  return error.code === 'ERR_BUFFER_TOO_LARGE'
    ? `a block unpacks to more than the ${most} bytes it may have`
    : `a block cannot be unpacked: ${error.message}`;
}
