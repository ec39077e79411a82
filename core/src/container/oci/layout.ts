/**
 * The documents of an OCI image layout (OCI image specification 1.1): index, manifest, config.
 * One layer, one manifest; a general tool can unpack it.
 */
import { manifestText, readManifest, type PackageManifest } from '../manifest.ts';
import { formatInstant } from '../../time/instant.ts';
import { ok, refuse, type Result } from '../../result.ts';

export const mediaTypes = {
  index: 'application/vnd.oci.image.index.v1+json',
  manifest: 'application/vnd.oci.image.manifest.v1+json',
  config: 'application/vnd.oci.image.config.v1+json',
  layer: 'application/vnd.oci.image.layer.v1.tar+gzip',
} as const;

/** Points to a blob: digest as `sha256:<hex>`, size in bytes. */
export interface Descriptor {
  readonly mediaType: string;
  readonly digest: string;
  readonly size: number;
  readonly annotations?: Readonly<Record<string, string>>;
}

export interface Manifest {
  readonly schemaVersion: 2;
  readonly mediaType: string;
  readonly config: Descriptor;
  readonly layers: readonly Descriptor[];
  readonly annotations?: Readonly<Record<string, string>>;
}

export interface Index {
  readonly schemaVersion: 2;
  readonly mediaType?: string;
  readonly manifests: readonly Descriptor[];
}

export interface Config {
  readonly rootfs: { readonly type: string; readonly diff_ids: readonly string[] };
}

const TITLE = 'org.opencontainers.image.title';
const VERSION = 'org.opencontainers.image.version';
const VENDOR = 'org.opencontainers.image.vendor';
const CREATED = 'org.opencontainers.image.created';
const REF = 'org.opencontainers.image.ref.name';
const MANIFEST = 'vatline.manifest';

/** The file `oci-layout`. */
export const layoutFile = '{"imageLayoutVersion":"1.0.0"}';

/** The config: the platform that general tools ask for, and the digest of the uncompressed layer. */
export function configDocument(diffId: string, created: number, manifest: PackageManifest): string {
  return JSON.stringify({
    created: formatInstant(created),
    architecture: 'amd64',
    os: 'linux',
    config: { Labels: { [TITLE]: manifest.name, [VERSION]: manifest.version } },
    rootfs: { type: 'layers', diff_ids: [diffId] },
    history: [{ created: formatInstant(created), created_by: 'vatline pack' }],
  });
}

export function manifestDocument(
  config: Omit<Descriptor, 'mediaType'>,
  layer: Omit<Descriptor, 'mediaType'>,
  created: number,
  manifest: PackageManifest,
): string {
  const document: Manifest = {
    schemaVersion: 2,
    mediaType: mediaTypes.manifest,
    config: { mediaType: mediaTypes.config, ...config },
    layers: [{ mediaType: mediaTypes.layer, ...layer }],
    annotations: {
      [TITLE]: manifest.name,
      [VERSION]: manifest.version,
      ...(manifest.publisher ? { [VENDOR]: manifest.publisher } : {}),
      [CREATED]: formatInstant(created),
      [MANIFEST]: manifestText(manifest),
    },
  };
  return JSON.stringify(document);
}

/** The index with the one manifest, tagged with the version so that tools find it by name. */
export function indexDocument(manifest: Omit<Descriptor, 'mediaType'>, version: string): string {
  const document: Index = {
    schemaVersion: 2,
    mediaType: mediaTypes.index,
    manifests: [{ mediaType: mediaTypes.manifest, ...manifest, annotations: { [REF]: tagOf(version) } }],
  };
  return JSON.stringify(document);
}

/** A tag holds letters, digits and `_.-` only, and begins with a letter or digit. */
export function tagOf(version: string): string {
  return version.replace(/[^A-Za-z0-9_.-]+/g, '-').replace(/^[^A-Za-z0-9]+/, '') || 'latest';
}

/** What a manifest's annotations say of the package; of images of others, their title and version. */
export function packageManifestOf(manifest: Manifest): PackageManifest {
  const notes = manifest.annotations ?? {};
  const said = readManifest(notes[MANIFEST] ?? '');
  return {
    ...said,
    name: said.name || (notes[TITLE] ?? ''),
    version: said.version || (notes[VERSION] ?? ''),
    publisher: said.publisher || (notes[VENDOR] ?? ''),
  };
}

/** The hex part of a `sha256:` digest. Error: any other form; blobs are found by it on disk. */
export function digestHex(digest: unknown): Result<string> {
  const match = typeof digest === 'string' ? /^sha256:([0-9a-f]{64})$/.exec(digest) : null;
  return match?.[1] ? ok(match[1]) : refuse('digest', `${JSON.stringify(digest)} is not a sha256 digest`);
}

/** Reads a JSON document of the layout. Errors: no JSON, or not the shape that we rely on, told where. */
export function parseDocument<T extends Index | Manifest | Config>(
  kind: 'index' | 'manifest' | 'config',
  text: string,
): Result<T> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return refuse(kind, 'is not JSON');
  }
  const wrong = isRecord(value) ? shapeFaults[kind](value) : 'it is no object';
  return wrong === undefined
    ? ok(value as T)
    : refuse(kind, `does not have the shape of an OCI ${kind}: ${wrong}`);
}

/** More layers than any tool makes of one image (overlay file systems take 128 at the most). */
const MOST_LAYERS = 500;

const shapeFaults: Readonly<
  Record<'index' | 'manifest' | 'config', (value: Record<string, unknown>) => string | undefined>
> = {
  index: ({ manifests }) => listFault('manifests', manifests, 1),
  manifest: ({ layers, config, annotations }) =>
    listFault('layers', layers, 0) ?? descriptorFault('config', config) ?? annotationsFault(annotations),
  config: ({ rootfs }) =>
    isRecord(rootfs) && Array.isArray(rootfs['diff_ids']) && rootfs['diff_ids'].every(isText)
      ? undefined
      : 'rootfs.diff_ids is no list of digests',
};

const isText = (value: unknown): value is string => typeof value === 'string';

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function listFault(name: string, list: unknown, least: number): string | undefined {
  if (!Array.isArray(list) || list.length < least) return `${name} is no list of descriptors`;
  if (list.length > MOST_LAYERS) return `${name} has over ${MOST_LAYERS} descriptors`;
  return list.map((one, i) => descriptorFault(`${name}.${i}`, one)).find((fault) => fault !== undefined);
}

function descriptorFault(name: string, value: unknown): string | undefined {
  if (!isRecord(value)) return `${name} is no descriptor`;
  if (!isText(value['mediaType']) && name !== 'manifests.0') return `${name} has no mediaType`;
  const digest = digestHex(value['digest']);
  if (!digest.ok) return `${name}: ${digest.error[0]?.message ?? ''}`;
  if (value['size'] !== undefined && !(Number.isSafeInteger(value['size']) && Number(value['size']) >= 0))
    return `${name} has a size that is none`;
  return annotationsFault(value['annotations']);
}

function annotationsFault(value: unknown): string | undefined {
  if (value === undefined || value === null) return undefined;
  return isRecord(value) && Object.values(value).every(isText) ? undefined : 'annotations are no texts';
}
