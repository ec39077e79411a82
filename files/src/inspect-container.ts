/** What a container holds, with the digest of every file. */
import type { ContainerFormat } from '@vatline/core/container/formats';
import type { PackageManifest } from '@vatline/core/container/manifest';
import type { TreeEntry } from '@vatline/core/container/tree';
import { digestOfBytes } from './digest-of-file.ts';
import { asInputError, openContainer } from './open-container.ts';

export interface ContainerEntry {
  readonly path: string;
  readonly kind: 'file' | 'folder' | 'link';
  readonly size: number;
  /** Hex digest of a file, target of a link, empty for a folder. */
  readonly digest: string;
}

export interface Inspection {
  readonly format: ContainerFormat;
  readonly label: string;
  readonly manifest: PackageManifest;
  readonly entries: readonly ContainerEntry[];
}

/** Reads all of a container. Throws `InputError` for what is none, or is broken anywhere. */
export async function inspectContainer(path: string): Promise<Inspection> {
  const container = await openContainer(path);
  try {
    const digests = new Map<TreeEntry, string>();
    for await (const { entry, bytes } of container.contents()) digests.set(entry, await digestOfBytes(bytes));
    const { format, label, manifest, tree } = container;
    const entries = tree.entries.map((entry) => ({
      path: entry.path,
      kind: entry.kind,
      size: entry.size,
      digest: digests.get(entry) ?? entry.target ?? '',
    }));
    return { format, label, manifest, entries };
  } catch (error) {
    throw asInputError(path, error);
  } finally {
    container.close();
  }
}
