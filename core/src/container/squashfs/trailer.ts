/**
 * The package's manifest behind a SquashFS image. Readers of the format look no further than the
 * superblock says, so what follows is free; being in the same file, it is under the same digest
 * and signature. It is JSON, zeros, and in the last sixteen bytes: length, CRC-32, a mark.
 */
import type { ByteSource } from '../bytes.ts';
import { crc32 } from '../crc.ts';
import { StructReader, StructWriter } from '../struct.ts';
import { PADDING } from './format.ts';

const MARK = 'VATLINE1';
const FOOT_BYTES = 16;

/** What goes behind the image; as long as a whole number of blocks. */
export function manifestTrailer(manifest: string): Uint8Array {
  const text = new TextEncoder().encode(manifest);
  const size = trailerBytes(text.length);
  return new StructWriter(size)
    .raw(text)
    .seek(size - FOOT_BYTES)
    .u32(text.length)
    .u32(crc32(text))
    .text(MARK).bytes;
}

function trailerBytes(textBytes: number): number {
  return Math.ceil((textBytes + FOOT_BYTES) / PADDING) * PADDING;
}

/** The manifest behind an image, or empty text where there is none that is whole. */
export async function readTrailer(source: ByteSource, imageBytes: number): Promise<string> {
  if (source.size < imageBytes + FOOT_BYTES) return '';
  const foot = new StructReader(await source.read(source.size - FOOT_BYTES, FOOT_BYTES), 'the trailer');
  const [length, sum] = [foot.u32(), foot.u32()];
  if (foot.text(8) !== MARK) return '';
  const start = source.size - trailerBytes(length);
  if (start < imageBytes) return '';
  const text = await source.read(start, length);
  return crc32(text) === sum ? new TextDecoder().decode(text) : '';
}
