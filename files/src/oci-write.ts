/** Writes a tree as an OCI image layout: the same tree gives the same bytes. */
import { mkdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import type { PackedFile } from '@vatline/core/container/bill-of-materials';
import type { Hasher } from '@vatline/core/container/bytes';
import { tarHeader, type TarEntry } from '@vatline/core/container/tar/write-header';
import { dateIn, newestOf, type Tree, type TreeEntry } from '@vatline/core/container/tree';
import type { PackageManifest } from '@vatline/core/container/manifest';
import { nodeCodecs } from './codecs.ts';
import { digestOfPiece } from './digest-of-file.ts';
import { writeImageDocuments } from './image-documents.ts';
import { LayerStream, paddingAfter } from './layer-stream.ts';

export interface OciOptions {
  readonly manifest: PackageManifest;
  /** Seconds since 1970 that every entry gets as its date; without it files keep their own. */
  readonly epoch?: number;
  /** Told after every entry. */
  readonly onProgress?: (done: number, of: number) => void;
  /** Asked between entries; throw in it to stop. */
  readonly checkCancelled?: () => void;
}

export interface WrittenLayout {
  readonly files: readonly PackedFile[];
  readonly bytesOut: number;
  /** Digest of the manifest in hex: it pins everything else. */
  readonly digest: string;
}

/** Files are read in pieces of this many bytes; smaller ones whole. */
const PIECE = 1 << 20;

/** Writes the layout into a folder, which is made. */
export async function writeOci(tree: Tree, folder: string, options: OciOptions): Promise<WrittenLayout> {
  const blobs = join(folder, 'blobs', 'sha256');
  mkdirSync(blobs, { recursive: true });
  const unfinished = join(blobs, 'layer.part');
  const layer = new LayerStream(unfinished);
  const headerOf = headersFor(options.epoch, tree.entries);
  const digests = new Map<string, string>();
  try {
    for (const [i, entry] of tree.entries.entries()) {
      options.checkCancelled?.();
      const { sameAs } = entry;
      if (sameAs === undefined) digests.set(entry.path, await addEntry(layer, tree, entry, headerOf(entry)));
      else {
        await layer.write(tarHeader({ ...headerOf(entry), type: 'same', size: 0, target: sameAs }));
        digests.set(entry.path, digests.get(sameAs) ?? '');
      }
      options.onProgress?.(i + 1, tree.entries.length);
    }
    const finished = await layer.end();
    renameSync(unfinished, join(blobs, finished.digest));
    const created = (options.epoch ?? newestOf(tree.entries)) * 1000;
    const documents = writeImageDocuments(folder, finished, created, options.manifest);
    const bytesOut = finished.size + documents.bytes;
    return { files: packedFiles(tree, digests), bytesOut, digest: documents.digest };
  } catch (error) {
    await layer.abandon();
    throw error;
  }
}

function packedFiles(tree: Tree, digests: ReadonlyMap<string, string>): PackedFile[] {
  return tree.entries.flatMap(({ path, kind, size }) =>
    kind === 'file' ? [{ path, size, sha256: digests.get(path) ?? '' }] : [],
  );
}

/** A file or link keeps its own date to the nanosecond, unless all get one; a folder is given one anyhow. */
function headersFor(
  epoch: number | undefined,
  entries: readonly TreeEntry[],
): (entry: TreeEntry) => TarEntry {
  const date = dateIn(epoch, newestOf(entries));
  return (entry) => {
    const keepsOwn = epoch === undefined && entry.kind !== 'folder';
    const { nanos = 0, ...rest } = entry;
    return { ...rest, type: entry.kind, modified: date(entry), nanos: keepsOwn ? nanos : 0 };
  };
}

/** Gives the digest of a file; of others, nothing. */
async function addEntry(layer: LayerStream, tree: Tree, entry: TreeEntry, header: TarEntry): Promise<string> {
  const { kind, size } = entry;
  await layer.write(tarHeader(header));
  if (kind !== 'file') return '';
  let hash: Hasher | undefined;
  let only: Uint8Array = new Uint8Array();
  for await (const piece of tree.read(entry, PIECE)) {
    if (size > PIECE) (hash ??= nodeCodecs.newHash()).update(piece);
    else only = piece;
    await layer.write(piece);
  }
  await layer.write(paddingAfter(size));
  return hash?.hex() ?? digestOfPiece(only);
}
