/** Zstandard (RFC 8878), unpacked by a decoder in WebAssembly that takes windows up to 128 MiB. */
import { ContainerFault } from '@vatline/core/container/bytes';
import { inPieces } from '@vatline/core/container/pieces';
import { ZSTDDecoder } from 'zstddec/stream';

/** The decoder is given so much at once, which bounds what it still unpacks when nobody reads on. */
const PIECE = 16_384;
/** An empty frame, and one to be skipped, has at least 8 bytes; so often in a row may nothing come out. */
const MOST_EMPTY = PIECE / 8;

/**
 * One block of a SquashFS image. Throws `ContainerFault` when it is broken or unpacks to more than
 * `most` bytes: the decoder gets so much room and no more, and says nothing but that it failed.
 */
export async function unpackZstd(bytes: Uint8Array, most: number): Promise<Uint8Array> {
  const decoder = await ready();
  const plain = decoder.decode(bytes, most);
  if (plain.length === 0)
    throw new ContainerFault(`a block cannot be unpacked, or to more than the ${most} bytes it may have`);
  return plain;
}

/** A whole stream, as it comes. Throws `ContainerFault` when it is broken or ends early. */
export async function* zstdStream(source: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const decoder = await ready();
  const input = new NextPiece();
  const output = decoder.decodeStreaming(input);
  const pieces = inPieces(source, PIECE);
  try {
    for (let empty = 0; ;) {
      // The decoder asks for the next piece when it has gone through the last one, and cannot wait.
      if (!input.piece) {
        const next = await pieces.next();
        if (!next.done) {
          input.piece = next.value;
          empty = 0;
        }
      }
      const step = stepOf(output);
      if (step.done) return;
      if (step.value.length > 0) yield step.value;
      else if (++empty > MOST_EMPTY) throw new ContainerFault('is no sound Zstandard');
    }
  } finally {
    endDecoder(input, output);
    await pieces.return(undefined);
  }
}

/** The input of the decoder: one piece at a time. */
class NextPiece implements Iterable<Uint8Array> {
  piece: Uint8Array | undefined;

  *[Symbol.iterator](): Generator<Uint8Array> {
    for (let piece = this.piece; piece; piece = this.piece) {
      this.piece = undefined;
      yield piece;
    }
  }
}

function stepOf(output: Generator<Uint8Array>): IteratorResult<Uint8Array, unknown> {
  try {
    return output.next();
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    throw new ContainerFault(/incomplete/i.test(why) ? 'is cut short' : `is no sound Zstandard: ${why}`);
  }
}

/** The decoder gives its memory back only at its end, so it is brought there with what it still holds. */
function endDecoder(input: NextPiece, output: Generator<Uint8Array>): void {
  input.piece = undefined;
  try {
    for (let empty = 0; empty <= MOST_EMPTY; empty++) {
      const step = output.next();
      if (step.done) return;
      if (step.value.length > 0) empty = 0;
    }
  } catch {
    // It says that there should have been more, after it gave its memory back.
  }
}

let decoding: Promise<ZSTDDecoder> | undefined;

function ready(): Promise<ZSTDDecoder> {
  return (decoding ??= (async () => {
    const decoder = new ZSTDDecoder();
    await decoder.init();
    return decoder;
  })());
}
