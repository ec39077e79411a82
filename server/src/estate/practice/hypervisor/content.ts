/**
 * The bytes of files on practice machines. A file is made from a text and a size: the same two give
 * the same bytes, of which about half compress away, as programs do. Sizes are a hundredth of what
 * such files have elsewhere, so that their digests can be real.
 */
import { createHash } from 'node:crypto';
import { seededRandom } from '@vatline/core/random';

const BLOCK = 1 << 16;
const known = new Map<string, () => Iterable<Uint8Array>>();
const digests = new Map<string, string>();

/** The bytes, in pieces of at most 64 KiB. */
export function* practiceContent(seed: string, size: number): Generator<Uint8Array> {
  const random = seededRandom(`content ${seed}`);
  const block = Buffer.alloc(Math.min(BLOCK, size));
  // Every other run of 32 bytes repeats, so that compressors find about half.
  for (let i = 0; i < block.length; i++) block[i] = i % 64 < 32 ? Math.floor(random() * 256) : i % 64;
  for (let at = 0, number = 0; at < size; at += BLOCK, number++) {
    const piece = Buffer.from(block.subarray(0, Math.min(BLOCK, size - at)));
    if (piece.length >= 4) piece.writeUInt32LE(number, 0);
    yield piece;
  }
}

/** SHA-256 of a file's bytes, hex. What was worked out once is remembered, with how to make it again. */
export function contentDigest(seed: string, size: number): string {
  const key = `${size} ${seed}`;
  const found = digests.get(key);
  if (found) return found;
  const hash = createHash('sha256');
  for (const piece of practiceContent(seed, size)) hash.update(piece);
  const digest = hash.digest('hex');
  digests.set(key, digest);
  known.set(digest, () => practiceContent(seed, size));
  return digest;
}

/** SHA-256 of a text as a file, hex. */
export function textDigest(text: string): string {
  const digest = createHash('sha256').update(text).digest('hex');
  known.set(digest, () => [Buffer.from(text)]);
  return digest;
}

/** The bytes behind a digest that was given here since the start; undefined for any other. */
export function contentOf(digest: string): Iterable<Uint8Array> | undefined {
  return known.get(digest)?.();
}
