/** Reads an OCI image layout: what is in it, whether it is what it says, and the tree back. */
import { createHash } from 'node:crypto';
import {
  createReadStream,
  createWriteStream,
  lstatSync,
  mkdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  chmodSync,
  existsSync,
} from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGunzip } from 'node:zlib';
import tar from 'tar-stream';
import { safePath } from '@vatline/core/container/safe-path';
import {
  digestHex,
  packageManifestOf,
  parseDocument,
  type Config,
  type Descriptor,
  type Index,
  type Manifest,
  type PackageManifest,
} from '@vatline/core/container/oci/layout';
import { InputError } from './input-error.ts';

export interface ContainerEntry {
  readonly path: string;
  readonly kind: 'file' | 'folder' | 'link';
  readonly size: number;
  /** Hex digest of a file, target of a link, empty for a folder. */
  readonly digest: string;
}

export interface Inspection {
  readonly format: 'oci';
  readonly label: string;
  readonly manifest: PackageManifest;
  readonly layers: number;
  readonly entries: readonly ContainerEntry[];
}

export interface Finding {
  readonly holds: boolean;
  readonly what: string;
}

interface Layout {
  readonly folder: string;
  readonly tag: string;
  readonly manifestDigest: string;
  readonly manifest: Manifest;
  readonly config: Config;
}

function readText(path: string, subject: string): string {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    throw InputError.of(subject, 'cannot be read; is this an OCI image layout?');
  }
}

function blobPath(folder: string, descriptor: Descriptor): string {
  const hex = digestHex(descriptor.digest);
  if (!hex.ok) throw InputError.from(folder, hex.error);
  return join(folder, 'blobs', 'sha256', hex.value);
}

function openLayout(folder: string): Layout {
  if (!existsSync(join(folder, 'oci-layout')))
    throw InputError.of(folder, 'is not an OCI image layout: it has no file oci-layout');
  const index = parseDocument<Index>('index', readText(join(folder, 'index.json'), 'index.json'));
  if (!index.ok) throw InputError.from(folder, index.error);
  const first = index.value.manifests[0] as Descriptor;
  const manifest = parseDocument<Manifest>('manifest', readText(blobPath(folder, first), 'manifest'));
  if (!manifest.ok) throw InputError.from(folder, manifest.error);
  const config = parseDocument<Config>('config', readText(blobPath(folder, manifest.value.config), 'config'));
  if (!config.ok) throw InputError.from(folder, config.error);
  return {
    folder,
    tag: first.annotations?.['org.opencontainers.image.ref.name'] ?? '',
    manifestDigest: first.digest,
    manifest: manifest.value,
    config: config.value,
  };
}

type TarEntry = Readable & { header: tar.Header };

/** The entries of all layers, lowest first. */
async function* layerEntries(layout: Layout): AsyncGenerator<TarEntry> {
  for (const layer of layout.manifest.layers) {
    const extract = tar.extract();
    const zipped = layer.mediaType.endsWith('gzip');
    const source = createReadStream(blobPath(layout.folder, layer));
    const feeding = zipped ? pipeline(source, createGunzip(), extract) : pipeline(source, extract);
    feeding.catch(() => undefined); // the loop ends with the same error
    for await (const entry of extract) yield entry as unknown as TarEntry;
    await feeding;
  }
}

async function digestOf(stream: AsyncIterable<Buffer | string>): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of stream) hash.update(chunk);
  return hash.digest('hex');
}

/** Lists what a container holds. Throws `InputError` when it is not an OCI image layout. */
export async function inspectOci(folder: string): Promise<Inspection> {
  const layout = openLayout(folder);
  const entries: ContainerEntry[] = [];
  for await (const entry of layerEntries(layout)) {
    const { name, type, size, linkname } = entry.header;
    const path = name.replace(/\/$/, '');
    if (type === 'directory') entries.push({ path, kind: 'folder', size: 0, digest: '' });
    else if (type === 'symlink') entries.push({ path, kind: 'link', size: 0, digest: linkname ?? '' });
    else if (type === 'file') {
      entries.push({ path, kind: 'file', size: size ?? 0, digest: await digestOf(entry) });
      continue;
    }
    entry.resume();
  }
  return {
    format: 'oci',
    label: layout.tag,
    manifest: packageManifestOf(layout.manifest),
    layers: layout.manifest.layers.length,
    entries,
  };
}

/** Checks every blob against its digest and size, and each layer's contents against the config. */
export async function verifyOci(folder: string): Promise<Finding[]> {
  const layout = openLayout(folder);
  const findings: Finding[] = [{ holds: true, what: `layout, index, manifest and config can be read` }];
  const check = async (name: string, descriptor: Descriptor) => {
    const path = blobPath(folder, descriptor);
    const size = statSync(path, { throwIfNoEntry: false })?.size;
    if (size === undefined)
      return findings.push({ holds: false, what: `${name}: blob ${descriptor.digest} is missing` });
    const digest = `sha256:${await digestOf(createReadStream(path))}`;
    const holds = digest === descriptor.digest && size === descriptor.size;
    const got = holds ? '' : `, but it has ${digest} and ${size} bytes instead of ${descriptor.size}`;
    return findings.push({ holds, what: `${name}: ${descriptor.digest}${got}` });
  };
  await check('manifest', {
    mediaType: '',
    digest: layout.manifestDigest,
    size: statSync(blobPath(folder, { mediaType: '', digest: layout.manifestDigest, size: 0 })).size,
  });
  await check('config', layout.manifest.config);
  for (const [i, layer] of layout.manifest.layers.entries()) {
    await check(`layer ${i + 1}`, layer);
    findings.push(await checkContents(folder, layer, layout.config.rootfs.diff_ids[i], i + 1));
  }
  return findings;
}

async function checkContents(
  folder: string,
  layer: Descriptor,
  expected: string | undefined,
  number: number,
): Promise<Finding> {
  const what = `layer ${number} unpacked: ${expected ?? 'the config names no digest'}`;
  try {
    const zip = createGunzip();
    createReadStream(blobPath(folder, layer))
      .on('error', (e) => zip.destroy(e))
      .pipe(zip);
    const digest = `sha256:${await digestOf(zip)}`;
    return digest === expected
      ? { holds: true, what }
      : { holds: false, what: `${what}, but it has ${digest}` };
  } catch (error) {
    return {
      holds: false,
      what: `${what}, but it cannot be unpacked: ${error instanceof Error ? error.message : String(error)}`,
    };
  }
}

/** Writes the tree back. Throws `InputError` on paths that leave the folder; it must be new or empty. */
export async function unpackOci(container: string, out: string): Promise<{ files: number; bytes: number }> {
  const layout = openLayout(container);
  const root = resolve(out);
  if (existsSync(root)) throw InputError.of(out, 'exists already; name a new folder');
  mkdirSync(root, { recursive: true });
  const dates: { path: string; mtime: Date }[] = [];
  let files = 0;
  let bytes = 0;
  try {
    for await (const entry of layerEntries(layout)) {
      const size = await place(root, entry, dates);
      if (size !== undefined) files++;
      bytes += size ?? 0;
      entry.resume();
    }
  } catch (error) {
    rmSync(root, { recursive: true, force: true });
    throw error instanceof InputError
      ? error
      : InputError.of(container, error instanceof Error ? error.message : String(error));
  }
  for (const { path, mtime } of dates.reverse()) utimesSync(path, mtime, mtime);
  return { files, bytes };
}

const WHITEOUT = '.wh.';

async function place(
  root: string,
  entry: TarEntry,
  dates: { path: string; mtime: Date }[],
): Promise<number | undefined> {
  const { name, type, linkname, mode, mtime } = entry.header;
  const path = safePath(name);
  if (!path.ok) throw InputError.from('container', path.error);
  const target = join(root, path.value);
  makeParents(root, path.value);
  const base = path.value.split('/').pop() ?? '';
  if (base.startsWith(WHITEOUT)) {
    rmSync(join(dirname(target), base.slice(WHITEOUT.length)), { recursive: true, force: true });
    return undefined;
  }
  if (type === 'directory') {
    if (lstatSync(target, { throwIfNoEntry: false })?.isSymbolicLink()) rmSync(target);
    mkdirSync(target, { recursive: true });
    chmodSync(target, mode ?? 0o755);
    dates.push({ path: target, mtime: mtime ?? new Date(0) });
    return undefined;
  }
  rmSync(target, { recursive: true, force: true });
  if (type === 'symlink') {
    symlinkSync(linkname ?? '', target);
    return undefined;
  }
  if (type !== 'file')
    throw InputError.of(
      'container',
      `is a ${type ?? 'special entry'}; only files, folders and links are written`,
      name,
    );
  await pipeline(entry, createWriteStream(target, { flags: 'wx' }));
  chmodSync(target, mode ?? 0o644);
  utimesSync(target, mtime ?? new Date(0), mtime ?? new Date(0));
  return entry.header.size ?? 0;
}

/** Makes the folders above a path, refusing to walk through a link that an earlier entry made. */
function makeParents(root: string, path: string): void {
  let folder = root;
  for (const part of path.split('/').slice(0, -1)) {
    folder = join(folder, part);
    const stat = lstatSync(folder, { throwIfNoEntry: false });
    if (stat?.isSymbolicLink()) throw InputError.of('container', 'would be written through a link', path);
    if (!stat) mkdirSync(folder);
  }
}
