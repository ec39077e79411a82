/** A delta between two inventories as an OCI layer, its files read from wherever they are. */
import { createHash } from 'node:crypto';
import { mkdirSync, renameSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { PackageManifest } from '@vatline/core/container/manifest';
import { tarHeader } from '@vatline/core/container/tar/write-header';
import type { Delta, TreeEntry } from '@vatline/core/image/delta';
import { temporaryName } from './atomic.ts';
import { writeImageDocuments } from './image-documents.ts';
import { InputError } from './input-error.ts';
import { LayerStream, paddingAfter } from './layer-stream.ts';

export interface DeltaRequest {
  readonly delta: Pick<Delta, 'puts' | 'whiteouts'>;
  /** Gives the bytes of a file that is put. */
  read(path: string): Promise<AsyncIterable<Uint8Array> | Iterable<Uint8Array>>;
  /** Where the layout folder goes; what is there is replaced. */
  readonly out: string;
  readonly about: PackageManifest;
  /** Date of folders and whiteouts, seconds since 1970. */
  readonly epoch: number;
  readonly onProgress?: (share: number) => void;
  readonly cancelled?: () => boolean;
}

export interface WrittenDelta {
  /** Digest of the layer, hex, and its compressed size in bytes. */
  readonly digest: string;
  readonly sizeBytes: number;
}

/**
 * Writes the layer, in a layout of its own with one manifest. Throws `InputError` where a file does
 * not have the size or digest that its inventory names; nothing is left at `out` then.
 */
export async function writeDelta(request: DeltaRequest): Promise<WrittenDelta> {
  mkdirSync(dirname(request.out), { recursive: true });
  const temporary = temporaryName(request.out);
  const blobs = join(temporary, 'blobs', 'sha256');
  mkdirSync(blobs, { recursive: true });
  const layer = new LayerStream(join(blobs, 'layer.part'));
  try {
    await writeEntries(layer, request);
    const { digest, diffId, size } = await layer.end();
    renameSync(join(blobs, 'layer.part'), join(blobs, digest));
    writeImageDocuments(temporary, { digest, diffId, size }, request.epoch * 1000, request.about);
    rmSync(request.out, { recursive: true, force: true });
    renameSync(temporary, request.out);
    return { digest, sizeBytes: size };
  } catch (error) {
    await layer.abandon();
    rmSync(temporary, { recursive: true, force: true });
    throw error;
  }
}

async function writeEntries(layer: LayerStream, request: DeltaRequest): Promise<void> {
  const { puts, whiteouts } = request.delta;
  // What goes is said before what comes: a file may come where a folder was.
  for (const path of whiteouts)
    await layer.write(tarHeader({ path, type: 'file', size: 0, mode: 0o644, modified: request.epoch }));
  for (const [i, entry] of puts.entries()) {
    if (request.cancelled?.()) throw new Error('cancelled');
    await writeEntry(layer, entry, request);
    request.onProgress?.((i + 1) / puts.length);
  }
}

async function writeEntry(layer: LayerStream, entry: TreeEntry, request: DeltaRequest): Promise<void> {
  const { path } = entry;
  if (entry.kind === 'folder')
    return layer.write(tarHeader({ path, type: 'folder', size: 0, mode: 0o755, modified: request.epoch }));
  if (entry.kind === 'link') {
    const { target } = entry;
    return layer.write(
      tarHeader({ path, type: 'link', size: 0, mode: 0o777, modified: request.epoch, target }),
    );
  }
  const { size } = entry;
  const modified = Math.floor(Date.parse(entry.modified) / 1000) || request.epoch;
  await layer.write(tarHeader({ path, type: 'file', size, mode: parseInt(entry.mode, 8), modified }));
  const hash = createHash('sha256');
  let read = 0;
  for await (const piece of await request.read(path)) {
    hash.update(piece);
    read += piece.length;
    if (read > size) break;
    await layer.write(piece);
  }
  if (read !== size) throw InputError.of(path, `has ${read} bytes where its inventory names ${size}`);
  if (hash.digest('hex') !== entry.sha256)
    throw InputError.of(path, 'has another digest than its inventory names');
  await layer.write(paddingAfter(size));
}
