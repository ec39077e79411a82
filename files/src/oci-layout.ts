/** The documents of an OCI image layout on disk, and its blobs against their digests. */
import { createReadStream, existsSync, readFileSync, statSync, type ReadStream } from 'node:fs';
import { join } from 'node:path';
import { createGunzip } from 'node:zlib';
import {
  digestHex,
  parseDocument,
  type Config,
  type Descriptor,
  type Index,
  type Manifest,
} from '@vatline/core/container/oci/layout';
import { digestOfBytes, digestOfFile } from './digest-of-file.ts';
import type { Finding } from './finding.ts';
import { InputError } from './input-error.ts';
import { zstdStream } from './zstd.ts';

export interface Layout {
  readonly folder: string;
  readonly tag: string;
  readonly manifestDigest: string;
  readonly manifest: Manifest;
  readonly config: Config;
}

/** No document of a layout is larger than this. */
const MOST_DOCUMENT_BYTES = 16 * 1024 * 1024;

/** Throws `InputError` for what is no layout. */
export function openLayout(folder: string): Layout {
  if (!existsSync(join(folder, 'oci-layout')))
    throw InputError.of(folder, 'is not an OCI image layout: it has no file oci-layout');
  const index = parseDocument<Index>('index', readText(join(folder, 'index.json'), 'index.json'));
  if (!index.ok) throw InputError.from(folder, index.error);
  const [first, ...others] = index.value.manifests as [Descriptor, ...Descriptor[]];
  if (others.length > 0)
    throw InputError.of(
      folder,
      `holds ${others.length + 1} images (${[first, ...others].slice(0, 5).map(tagOfImage).join(', ')}); one is read, so give a layout with that one alone`,
    );
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

function tagOfImage({ annotations, digest }: Descriptor): string {
  return annotations?.['org.opencontainers.image.ref.name'] ?? digest.slice(0, 19);
}

/** The file of the layout that pins all others, and that is signed. */
export function manifestPath(layout: Layout): string {
  return blobPath(layout.folder, { digest: layout.manifestDigest });
}

/** Throws `InputError` for a digest that cannot be the name of a blob. */
export function blobPath(folder: string, descriptor: Pick<Descriptor, 'digest'>): string {
  const hex = digestHex(descriptor.digest);
  if (!hex.ok) throw InputError.from(folder, hex.error);
  return join(folder, 'blobs', 'sha256', hex.value);
}

function readText(path: string, subject: string): string {
  const stat = statSync(path, { throwIfNoEntry: false });
  if (!stat?.isFile()) throw InputError.of(subject, 'cannot be read; is this an OCI image layout?');
  if (stat.size > MOST_DOCUMENT_BYTES)
    throw InputError.of(subject, `has ${stat.size} bytes, which no such document has`);
  return readFileSync(path, 'utf8');
}

/** Checks every blob against its digest and size, and each layer's contents against the config. */
export async function layoutFindings(layout: Layout, mostBytes: number): Promise<Finding[]> {
  const { folder, manifest, config } = layout;
  const findings = [await blobFinding(folder, 'manifest', { digest: layout.manifestDigest })];
  findings.push(await blobFinding(folder, 'config', manifest.config));
  for (const [i, layer] of manifest.layers.entries()) {
    findings.push(await blobFinding(folder, `layer ${i + 1}`, layer));
    findings.push(await contentFinding(folder, layer, config.rootfs.diff_ids[i], i + 1, mostBytes));
  }
  return findings;
}

async function blobFinding(
  folder: string,
  name: string,
  descriptor: { digest: string; size?: number },
): Promise<Finding> {
  const path = blobPath(folder, descriptor);
  const size = statSync(path, { throwIfNoEntry: false })?.size;
  if (size === undefined) return { holds: false, what: `${name}: blob ${descriptor.digest} is missing` };
  const digest = `sha256:${await digestOfFile(path)}`;
  const holds = digest === descriptor.digest && size === (descriptor.size ?? size);
  const got = holds ? '' : `, but it has ${digest} and ${size} bytes instead of ${descriptor.size ?? size}`;
  return { holds, what: `${name}: ${descriptor.digest}${got}` };
}

async function contentFinding(
  folder: string,
  layer: Descriptor,
  expected: string | undefined,
  number: number,
  mostBytes: number,
): Promise<Finding> {
  const what = `layer ${number} unpacked: ${expected ?? 'the config names no digest'}`;
  try {
    const digest = `sha256:${await digestOfBytes(unzippedLayer(folder, layer, mostBytes))}`;
    return digest === expected
      ? { holds: true, what }
      : { holds: false, what: `${what}, but it has ${digest}` };
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    return { holds: false, what: `${what}, but it cannot be unpacked: ${why}` };
  }
}

/** The tar in a layer. Throws `InputError` when more bytes come out of it than it may have. */
export async function* unzippedLayer(
  folder: string,
  layer: Descriptor,
  mostBytes: number,
): AsyncGenerator<Uint8Array> {
  const open = layerKinds.find(([ending]) => layer.mediaType.endsWith(ending))?.[1];
  if (!open)
    throw InputError.of(
      'layer',
      `is of the type ${layer.mediaType}; tar, and tar with gzip or Zstandard, are read`,
    );
  const source = createReadStream(blobPath(folder, layer), { highWaterMark: 1 << 18 });
  let total = 0;
  try {
    for await (const piece of open(source)) {
      total += piece.length;
      if (total > mostBytes)
        throw InputError.of('layer', `unpacks to more than ${mostBytes} bytes; it is not read further`);
      yield piece;
    }
  } finally {
    source.destroy();
  }
}

/** How the bytes of a layer become those of its tar, by the ending of its media type. */
const layerKinds: readonly [string, (source: ReadStream) => AsyncIterable<Uint8Array>][] = [
  ['.tar', (source) => source as AsyncIterable<Buffer>],
  ['gzip', unzipped],
  ['zstd', (source) => zstdStream(source as AsyncIterable<Buffer>)],
];

function unzipped(source: ReadStream): AsyncIterable<Buffer> {
  const bytes = createGunzip({ chunkSize: 1 << 18 });
  source.on('error', (error) => bytes.destroy(error)).pipe(bytes);
  return bytes as AsyncIterable<Buffer>;
}
