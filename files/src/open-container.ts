/** A container of any format, opened: what it says of itself, its tree, and the bytes of its files. */
import { statSync } from 'node:fs';
import { ContainerFault } from '@vatline/core/container/bytes';
import type { ContainerFormat } from '@vatline/core/container/formats';
import { packageManifestOf } from '@vatline/core/container/oci/layout';
import { SquashfsImage } from '@vatline/core/container/squashfs/read';
import { readTrailer } from '@vatline/core/container/squashfs/trailer';
import type { Tree, TreeEntry } from '@vatline/core/container/tree';
import { openVhdx } from '@vatline/core/container/vhdx/read';
import { readManifest, type PackageManifest } from '@vatline/core/container/manifest';
import { FileSource } from './byte-files.ts';
import { nodeCodecs } from './codecs.ts';
import { formatOf } from './container-format.ts';
import { InputError } from './input-error.ts';
import { blobPath, openLayout, type Layout } from './oci-layout.ts';
import { OciTree } from './oci-tree.ts';

export interface OpenContainer {
  readonly format: ContainerFormat;
  /** Tag of an image layout, label of a volume; empty where there is none. */
  readonly label: string;
  readonly manifest: PackageManifest;
  readonly tree: Tree;
  /** All files, each read to its end before the next, in the order that is quickest. */
  contents(): AsyncIterable<{ entry: TreeEntry; bytes: AsyncIterable<Uint8Array> }>;
  /** Ranges of the container that hold content, where the format has such. */
  readonly storedRanges?: () => [number, number][];
  readonly layout?: Layout;
  close(): void;
}

const PIECE = 1 << 20;

/**
 * Opens a container. Throws `InputError` for what is none, or is broken. The caller closes it.
 * `onRead` is told the bytes of every read of an image or disk.
 */
export async function openContainer(path: string, onRead?: (bytes: number) => void): Promise<OpenContainer> {
  const format = await formatOf(path);
  try {
    if (format === 'oci') return await openOci(path);
    const source = FileSource.open(path, onRead);
    try {
      return await (format === 'squashfs' ? openSquashfs(source) : openDisk(source));
    } catch (error) {
      source.close();
      throw error;
    }
  } catch (error) {
    throw asInputError(path, error);
  }
}

/** What a codec found wrong, as bad input; anything else as it is. */
export function asInputError(path: string, error: unknown): unknown {
  return error instanceof ContainerFault ? InputError.of(path, error.message) : error;
}

async function openSquashfs(source: FileSource): Promise<OpenContainer> {
  const image = await SquashfsImage.open(source, nodeCodecs);
  return {
    format: 'squashfs',
    label: '',
    manifest: readManifest(await readTrailer(source, image.superblock.used)),
    tree: image,
    contents: () => inOrder(image),
    storedRanges: () => image.storedRanges(),
    close: () => source.close(),
  };
}

async function openDisk(source: FileSource): Promise<OpenContainer> {
  const { disk, place, volume } = await openVhdx(source);
  return {
    format: disk.facts.kind === 'fixed' ? 'vhdx-fixed' : 'vhdx',
    label: volume.label || place.name,
    manifest: readManifest(disk.facts.manifest),
    tree: volume,
    contents: () => inOrder(volume),
    close: () => source.close(),
  };
}

async function openOci(folder: string): Promise<OpenContainer> {
  const layout = openLayout(folder);
  const sizes = layout.manifest.layers.map(
    (layer) => statSync(blobPath(folder, layer), { throwIfNoEntry: false })?.size,
  );
  const missing = sizes.indexOf(undefined);
  if (missing >= 0) throw InputError.of(folder, `lacks the blob of layer ${missing + 1}`);
  const tree = await OciTree.open(
    layout,
    sizes.reduce<number>((sum, size) => sum + (size ?? 0), 0),
  );
  return {
    format: 'oci',
    label: layout.tag,
    manifest: packageManifestOf(layout.manifest),
    tree,
    contents: () => tree.contents(),
    layout,
    close: () => undefined,
  };
}

async function* inOrder(tree: Tree): AsyncGenerator<{ entry: TreeEntry; bytes: AsyncIterable<Uint8Array> }> {
  for (const entry of tree.entries)
    if (entry.kind === 'file') yield { entry, bytes: await Promise.resolve(tree.read(entry, PIECE)) };
}
