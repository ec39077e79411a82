/** Blocks in the xz format, unpacked by a decoder in WebAssembly. */
import { createRequire } from 'node:module';
import { ContainerFault } from '@vatline/core/container/bytes';
import { joined } from '@vatline/core/container/pieces';

// Its names are not seen by an import, since the module is built for browsers as well.
const { XzReadableStream } = createRequire(import.meta.url)(
  'xz-decompress',
) as typeof import('xz-decompress');

/** One block of a SquashFS image. Throws `ContainerFault` when it is broken or unpacks to more than `most` bytes. */
export async function unpackXz(bytes: Uint8Array, most: number): Promise<Uint8Array> {
  const packed = new ReadableStream<Uint8Array>({
    start(controller) {
      controller.enqueue(bytes);
      controller.close();
    },
  });
  const parts: Uint8Array[] = [];
  let length = 0;
  try {
    // Leaving the loop cancels the stream, which gives the decoder's memory back.
    for await (const part of new XzReadableStream(packed)) {
      length += part.length;
      if (length > most)
        throw new ContainerFault(`a block unpacks to more than the ${most} bytes it may have`);
      parts.push(part);
    }
  } catch (error) {
    if (error instanceof ContainerFault) throw error;
    const why = error instanceof Error ? error.message : String(error);
    throw new ContainerFault(`a block cannot be unpacked: ${why}`);
  }
  return joined(parts);
}
