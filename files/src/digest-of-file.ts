import { createHash } from 'node:crypto';
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
