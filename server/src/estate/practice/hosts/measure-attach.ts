/** Attaches a container as a host does, by our own readers, and measures it. */
import { readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { openContainer } from '@vatline/files/open-container';
import { EstateError } from '../../driver/operations.ts';
import { PRACTICE_SCALE } from '../share.ts';
import type { AttachMeasure } from '../../driver/hosts.ts';

/** A practice host takes so long to register one entry point with the shell, milliseconds. */
const REGISTER_MS = 35;
/** Of each program that people open so much is read before anybody opens it. */
const HEAD_BYTES = 64 * 1024;
/** A layer is read from its beginning to its end, in pieces of this many bytes. */
const LAYER_PIECE = 1 << 20;

/** Opens it, reads what it says and where everything is, and the beginning of every program that people open. */
export async function measureAttach(
  path: string,
  latencyMs: number,
  entryPoints: number,
): Promise<AttachMeasure> {
  let operations = 0;
  let opening: number;
  const started = performance.now();
  try {
    const container = await openContainer(path, () => operations++);
    opening = operations;
    try {
      const programs = new Set(container.manifest.entryPoints.map((entry) => entry.path));
      for (const entry of container.tree.entries)
        if (entry.kind === 'file' && programs.has(entry.path))
          for await (const _piece of container.tree.read(entry, HEAD_BYTES)) break;
      operations += layerReads(path);
    } finally {
      container.close();
    }
  } catch (error) {
    throw new EstateError(
      'failed',
      `the host could not attach it: ${error instanceof Error ? error.message : 'unknown'}`,
    );
  }
  const readingMs = performance.now() - started;
  // What is read of the content grows with it, what opens a container does not.
  const reads = opening + (operations - opening) * PRACTICE_SCALE;
  return {
    operations: reads,
    mountMs: Math.round(readingMs + reads * latencyMs),
    registerMs: entryPoints * REGISTER_MS,
  };
}

/** Reads of an image layout, whose layers are unpacked as a whole, besides three documents. */
function layerReads(path: string): number {
  if (!statSync(path).isDirectory()) return 0;
  const blobs = join(path, 'blobs', 'sha256');
  return readdirSync(blobs).reduce(
    (sum, name) => sum + Math.ceil(statSync(join(blobs, name)).size / LAYER_PIECE),
    0,
  );
}
