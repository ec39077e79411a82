/** Streams as answers: an error before the first byte is a problem document, one after it ends the connection. */
import { createReadStream } from 'node:fs';
import { open } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Response } from 'express';

/** Sends a stream to its end. Somebody who leaves before the end is no error. */
export async function sendStream(stream: Readable, response: Response): Promise<void> {
  try {
    await pipeline(stream, response);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ERR_STREAM_PREMATURE_CLOSE') throw error;
  }
}

/** Sends a file with its length. Throws, with nothing sent, when it cannot be opened. */
export async function sendFile(path: string, response: Response): Promise<void> {
  const handle = await open(path);
  const { size } = await handle.stat().catch(async (error: unknown) => {
    await handle.close();
    throw error;
  });
  response.setHeader('content-length', size);
  await sendStream(createReadStream(path, { fd: handle }), response);
}
