/** The documents around a finished layer: config, manifest, index. */
import { createHash } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  configDocument,
  indexDocument,
  layoutFile,
  manifestDocument,
} from '@vatline/core/container/oci/layout';
import type { PackageManifest } from '@vatline/core/container/manifest';

/** Digests are hex, sizes bytes. */
export interface FinishedLayer {
  readonly digest: string;
  /** Digest of the tar before compression. */
  readonly diffId: string;
  readonly size: number;
}

/** Writes them into a layout folder; `created` in milliseconds. Gives the manifest's digest and the bytes written. */
export function writeImageDocuments(
  folder: string,
  layer: FinishedLayer,
  created: number,
  about: PackageManifest,
): { readonly digest: string; readonly bytes: number } {
  const blobs = join(folder, 'blobs', 'sha256');
  const config = writeBlob(blobs, configDocument(`sha256:${layer.diffId}`, created, about));
  const { digest, size } = layer;
  const manifest = writeBlob(
    blobs,
    manifestDocument(config, { digest: `sha256:${digest}`, size }, created, about),
  );
  const index = indexDocument(manifest, about.version);
  writeFileSync(join(folder, 'oci-layout'), layoutFile);
  writeFileSync(join(folder, 'index.json'), index);
  return {
    digest: manifest.digest.slice('sha256:'.length),
    bytes: config.size + manifest.size + index.length + layoutFile.length,
  };
}

function writeBlob(blobs: string, content: string): { digest: string; size: number } {
  const digest = createHash('sha256').update(content).digest('hex');
  writeFileSync(join(blobs, digest), content);
  return { digest: `sha256:${digest}`, size: Buffer.byteLength(content) };
}
