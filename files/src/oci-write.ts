/** Builds an OCI image layout from a folder tree: the same tree gives the same bytes. */
import { createHash } from 'node:crypto';
import {
  createReadStream,
  createWriteStream,
  lstatSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  readlinkSync,
  renameSync,
  rmSync,
  writeFileSync,
  existsSync,
  statSync,
} from 'node:fs';
import { join, resolve } from 'node:path';
import { PassThrough, type Readable } from 'node:stream';
import { finished, pipeline } from 'node:stream/promises';
import { ParallelGzip } from './parallel-gzip.ts';
import tar from 'tar-stream';
import { billOfMaterials, type PackedFile } from '@vatline/core/container/bill-of-materials';
import { compareBytes } from '@vatline/core/image/inventory';
import {
  configDocument,
  indexDocument,
  layoutFile,
  manifestDocument,
  type PackageManifest,
} from '@vatline/core/container/oci/layout';
import { temporaryName, writeAtomic } from './atomic.ts';
import { InputError } from './input-error.ts';

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
    const config = writeBlob(blobs, configDocument(`sha256:${layer.diffId}`, created, request.manifest));
    const manifest = writeBlob(
      blobs,
      manifestDocument(
        config,
        { digest: `sha256:${layer.digest}`, size: layer.size },
        created,
        request.manifest,
      ),
    );
    const index = indexDocument(manifest, request.manifest.version);
    writeFileSync(join(temporary, 'oci-layout'), layoutFile);
    writeFileSync(join(temporary, 'index.json'), index);
    renameSync(temporary, request.out);
    const files = layer.files;
    writeAtomic(`${request.out}.cdx.json`, (append) => append(billOfMaterials(request.manifest, files)));
    return {
      format: 'oci',
      files: files.length,
      bytesIn: files.reduce((sum, file) => sum + file.size, 0),
      bytesOut: layer.size + config.size + manifest.size + index.length + layoutFile.length,
      sha256: manifest.digest.slice('sha256:'.length),
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

function writeBlob(blobs: string, content: string): { digest: string; size: number } {
  const digest = createHash('sha256').update(content).digest('hex');
  writeFileSync(join(blobs, digest), content);
  return { digest: `sha256:${digest}`, size: Buffer.byteLength(content) };
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
  const pack = tar.pack();
  const plain = createHash('sha256');
  const zipped = createHash('sha256');
  let size = 0;
  const temporary = join(blobs, 'layer.part');
  const zip = new ParallelGzip();
  const hashPlain = new PassThrough({ highWaterMark: 1 << 20 });
  hashPlain.on('data', (chunk: Buffer) => plain.update(chunk));
  zip.on('data', (chunk: Buffer) => {
    zipped.update(chunk);
    size += chunk.length;
  });
  const writing = pipeline(pack as unknown as Readable, hashPlain, zip, createWriteStream(temporary));
  writing.catch((error: unknown) => pack.destroy(error as Error));
  const files: PackedFile[] = [];
  let done = 0;
  for (const entry of entries) {
    if (request.cancelled?.()) {
      pack.destroy();
      await writing.catch(() => undefined);
      throw new Error('cancelled');
    }
    const date = request.epoch ?? (entry.kind === 'folder' ? newest : entry.modified);
    const file = await addEntry(pack, root, entry, date);
    if (file) files.push(file);
    if (++done % 200 === 0) request.onProgress?.(done, entries.length);
  }
  pack.finalize();
  await writing;
  const digest = zipped.digest('hex');
  renameSync(temporary, join(blobs, digest));
  return { digest, diffId: plain.digest('hex'), size, newest, files };
}

async function addEntry(
  pack: tar.Pack,
  root: string,
  entry: TreeEntry,
  seconds: number,
): Promise<PackedFile | undefined> {
  const header = { mode: entry.mode, mtime: new Date(seconds * 1000), uid: 0, gid: 0, uname: '', gname: '' };
  const source = join(root, entry.path);
  if (entry.kind === 'folder') {
    pack.entry({ ...header, name: `${entry.path}/`, type: 'directory' });
    return undefined;
  }
  if (entry.kind === 'link') {
    pack.entry({ ...header, name: entry.path, type: 'symlink', linkname: readlinkSync(source) });
    return undefined;
  }
  if (entry.size <= WHOLE) {
    const content = readFileSync(source);
    await new Promise<void>((done, fail) =>
      pack.entry({ ...header, name: entry.path, size: content.length }, content, (error) =>
        error ? fail(error) : done(),
      ),
    );
    return {
      path: entry.path,
      size: content.length,
      sha256: createHash('sha256').update(content).digest('hex'),
    };
  }
  const hash = createHash('sha256');
  const target = pack.entry({ ...header, name: entry.path, size: entry.size });
  const stream = createReadStream(source, { highWaterMark: WHOLE });
  stream.on('data', (chunk) => hash.update(chunk));
  stream.pipe(target as unknown as NodeJS.WritableStream);
  await finished(target as unknown as NodeJS.WritableStream);
  return { path: entry.path, size: entry.size, sha256: hash.digest('hex') };
}
