/** SHA-256 of files, streams and pieces of bytes. */
import { createHash, hash as hashOnce, webcrypto } from 'node:crypto';
import { createReadStream } from 'node:fs';

/** SHA-256 of a file in hex, without holding it in memory. */
export async function digestOfFile(path: string): Promise<string> {
  return digestOfBytes(createReadStream(path, { highWaterMark: 1 << 20 }));
}

/** SHA-256 of a stream in hex. */
export async function digestOfBytes(bytes: AsyncIterable<Uint8Array>): Promise<string> {
  const hash = createHash('sha256');
  for await (const piece of bytes) hash.update(piece);
  return hash.digest('hex');
}

/** Below this many bytes, handing a digest to another thread takes longer than working it out. */
const WORTH_A_THREAD = 64 * 1024;

/** SHA-256 in hex of bytes that nobody changes meanwhile; of many bytes on a thread of the pool. */
export async function digestOfPiece(bytes: Uint8Array): Promise<string> {
  return bytes.length < WORTH_A_THREAD
    ? hashOnce('sha256', bytes, 'hex')
    : Buffer.from(await webcrypto.subtle.digest('SHA-256', bytes)).toString('hex');
}
