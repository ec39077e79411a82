/** Builds an OCI image layout from a folder tree: the same tree gives the same bytes. */
import { createHash, hash as hashOnce } from 'node:crypto';
import {
  createReadStream,
  lstatSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  readlinkSync,
  renameSync,
  rmSync,
  existsSync,
  statSync,
} from 'node:fs';
import { join, resolve } from 'node:path';
import { billOfMaterials, type PackedFile } from '@vatline/core/container/bill-of-materials';
import { tarHeader } from '@vatline/core/container/tar-header';
import { compareBytes } from '@vatline/core/image/inventory';
import type { PackageManifest } from '@vatline/core/container/oci/layout';
import { temporaryName, writeAtomic } from './atomic.ts';
import { InputError } from './input-error.ts';
import { LayerStream, paddingAfter } from './layer-stream.ts';
import { writeImageDocuments } from './image-documents.ts';

export interface PackRequest {
  readonly folder: string;
  /** Where the image layout goes; must not exist. */
  readonly out: string;
  readonly manifest: PackageManifest;
  /** Paths to take, with the folders above them; everything when absent. */
  readonly only?: ReadonlySet<string>;
  /**
   * Seconds since 1970 that every entry gets as its date. Without it files keep their own dates
   * and folders get that of the newest file, so that nothing depends on when packing happens.
   */
  readonly epoch?: number;
  readonly onProgress?: (done: number, of: number) => void;
  readonly cancelled?: () => boolean;
}

export interface Packed {
  readonly format: 'oci';
  readonly files: number;
  readonly bytesIn: number;
  readonly bytesOut: number;
  /** Digest of the manifest: it pins everything else. */
  readonly sha256: string;
}

interface TreeEntry {
  readonly path: string;
  readonly kind: 'file' | 'folder' | 'link';
  readonly size: number;
  readonly mode: number;
  readonly modified: number;
}

/** Files up to this size are read at once, larger ones streamed. */
const WHOLE = 1 << 20;

/** Packs a tree. Throws `InputError`; nothing is left at `out` unless all of it is. */
export async function packOci(request: PackRequest): Promise<Packed> {
  const root = resolve(request.folder);
  if (!statSync(root, { throwIfNoEntry: false })?.isDirectory())
    throw InputError.of(request.folder, 'is not a folder');
  if (existsSync(request.out))
    throw InputError.of(request.out, 'exists already; remove it or choose another name');
  const entries = select(listTree(root), request.only);
  if (request.only) refuseMissing(entries, request.only);
  const temporary = temporaryName(request.out);
  const blobs = join(temporary, 'blobs', 'sha256');
  mkdirSync(blobs, { recursive: true });
  try {
    const layer = await writeLayer(root, entries, blobs, request);
    const created = (request.epoch ?? layer.newest) * 1000;
    const documents = writeImageDocuments(temporary, layer, created, request.manifest);
    renameSync(temporary, request.out);
    const files = layer.files;
    writeAtomic(`${request.out}.cdx.json`, (append) => append(billOfMaterials(request.manifest, files)));
    return {
      format: 'oci',
      files: files.length,
      bytesIn: files.reduce((sum, file) => sum + file.size, 0),
      bytesOut: layer.size + documents.bytes,
      sha256: documents.digest,
    };
  } catch (error) {
    rmSync(temporary, { recursive: true, force: true });
    throw error;
  }
}

function listTree(root: string): TreeEntry[] {
  const entries: TreeEntry[] = [];
  const walk = (folder: string) => {
    for (const child of readdirSync(join(root, folder), { withFileTypes: true })) {
      const path = folder === '' ? child.name : `${folder}/${child.name}`;
      const kind = child.isFile()
        ? 'file'
        : child.isDirectory()
          ? 'folder'
          : child.isSymbolicLink()
            ? 'link'
            : undefined;
      if (!kind) throw InputError.of(path, 'is a device, socket or pipe and cannot be packed');
      const stat = lstatSync(join(root, path));
      entries.push({
        path,
        kind,
        size: stat.size,
        mode: stat.mode & 0o7777,
        modified: Math.floor(stat.mtimeMs / 1000),
      });
      if (kind === 'folder') walk(path);
    }
  };
  walk('');
  return entries.sort((a, b) => compareBytes(a.path, b.path));
}

function select(entries: TreeEntry[], only: ReadonlySet<string> | undefined): TreeEntry[] {
  if (!only) return entries;
  const wanted = new Set<string>();
  for (const path of only) {
    for (let p = path; p !== ''; p = p.slice(0, Math.max(0, p.lastIndexOf('/')))) wanted.add(p);
  }
  return entries.filter((entry) => wanted.has(entry.path));
}

function refuseMissing(entries: readonly TreeEntry[], only: ReadonlySet<string>): void {
  const there = new Set(entries.map((entry) => entry.path));
  for (const path of only)
    if (!there.has(path)) throw InputError.of(path, 'is to be packed but is not in the folder');
}

interface Layer {
  readonly digest: string;
  readonly diffId: string;
  readonly size: number;
  /** Seconds since 1970 of the newest file. */
  readonly newest: number;
  readonly files: readonly PackedFile[];
}

async function writeLayer(
  root: string,
  entries: readonly TreeEntry[],
  blobs: string,
  request: PackRequest,
): Promise<Layer> {
  const newest = entries.reduce(
    (latest, e) => (e.kind === 'folder' ? latest : Math.max(latest, e.modified)),
    0,
  );
  const temporary = join(blobs, 'layer.part');
  const layer = new LayerStream(temporary);
  const files: PackedFile[] = [];
  try {
    for (const [i, entry] of entries.entries()) {
      if (request.cancelled?.()) throw new Error('cancelled');
      const date = request.epoch ?? (entry.kind === 'folder' ? newest : entry.modified);
      const file = await addEntry(layer, root, entry, date);
      if (file) files.push(file);
      if (i % 200 === 199) request.onProgress?.(i + 1, entries.length);
    }
    const { digest, diffId, size } = await layer.end();
    renameSync(temporary, join(blobs, digest));
    return { digest, diffId, size, newest, files };
  } catch (error) {
    await layer.abandon();
    throw error;
  }
}

async function addEntry(
  layer: LayerStream,
  root: string,
  entry: TreeEntry,
  modified: number,
): Promise<PackedFile | undefined> {
  const { path, mode, kind } = entry;
  const source = join(root, path);
  if (kind === 'folder') {
    await layer.write(tarHeader({ path, type: kind, size: 0, mode, modified }));
    return undefined;
  }
  if (kind === 'link') {
    await layer.write(tarHeader({ path, type: kind, size: 0, mode, modified, target: readlinkSync(source) }));
    return undefined;
  }
  if (entry.size <= WHOLE) {
    const content = readFileSync(source);
    const { length } = content;
    await layer.write(
      tarHeader({ path, type: kind, size: length, mode, modified }),
      content,
      paddingAfter(length),
    );
    return { path, size: length, sha256: hashOnce('sha256', content, 'hex') };
  }
  const hash = createHash('sha256');
  await layer.write(tarHeader({ path, type: kind, size: entry.size, mode, modified }));
  let read = 0;
  for await (const chunk of createReadStream(source, { highWaterMark: WHOLE }) as AsyncIterable<Buffer>) {
    hash.update(chunk);
    read += chunk.length;
    await layer.write(chunk);
  }
  if (read !== entry.size)
    throw InputError.of(path, `changed while it was packed: ${read} bytes instead of ${entry.size}`);
  await layer.write(paddingAfter(read));
  return { path, size: read, sha256: hash.digest('hex') };
}
