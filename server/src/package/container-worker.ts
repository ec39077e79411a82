/** Building, verifying and comparing containers, run in the worker pool. */
import { readFileSync } from 'node:fs';
import type { MessagePort } from 'node:worker_threads';
import type { CaptureComparison } from '@vatline/core/package/noise';
import { packageContents } from '@vatline/core/package/package-contents';
import type { Clash } from '@vatline/contract/package';
import type { ContainerFormat } from '@vatline/core/container/formats';
import { filesOfBom } from '@vatline/core/container/bill-of-materials';
import type { Entry } from '@vatline/core/inventory/entry';
import { findConflicts, type ComparedPackage } from '@vatline/core/package/conflicts';
import { keptEntries } from '@vatline/core/package/findings';
import {
  comparePackages,
  type PackageComparison,
  type PackageContent,
} from '@vatline/core/package/compare-packages';
import type { Dependency, EntryPoint } from '@vatline/core/container/manifest';
import { signatureFindings } from '@vatline/files/sign-container';
import { openContainer } from '@vatline/files/open-container';
import { readCertificates } from '@vatline/files/signing-identity';
import { failed, held, type Finding } from '@vatline/files/finding';
import { verifyContainer } from '@vatline/files/verify-container';
import { InputError } from '@vatline/files/input-error';
import { folderTree } from '@vatline/files/folder-tree';
import { packContainer as pack, type PackRequest, type Packed } from '@vatline/files/pack-container';

export interface VerifyTask {
  readonly container: string;
  /** What the hosts of each pool trust, as PEM. */
  readonly trust: readonly { readonly pool: string; readonly pem: string }[];
  /** Milliseconds. */
  readonly at: number;
}

/** Reads all of a container and its signature. What hosts trust is one finding for all pools together. */
export async function verifyForPools({ container, trust, at }: VerifyTask): Promise<Finding[]> {
  const { findings, sha256 } = await verifyContainer(container);
  const byPool = trust.map(({ pool, pem }) => ({
    pool,
    found: signatureFindings(container, sha256, pem ? readCertificates(pool, pem) : [], at),
  }));
  const isChain = (finding: Finding) => finding.kind === 'chain';
  const own = byPool[0]?.found ?? signatureFindings(container, sha256, [], at);
  const not = byPool.filter(({ found }) => found.some((finding) => isChain(finding) && !finding.holds));
  const why = not[0]?.found.find((finding) => isChain(finding) && !finding.holds)?.what ?? '';
  const names = (pools: readonly { readonly pool: string }[]) => pools.map((one) => one.pool).join(', ');
  const chain = why
    ? failed(`${why}: by ${names(not)}`, 'chain')
    : held(`chain: trusted by the hosts of ${names(trust)}`, 'chain');
  return [
    ...findings,
    ...own.filter((finding) => !isChain(finding)),
    ...(own.some(isChain) && trust.length > 0 ? [chain] : []),
  ];
}

/** A package with where its files and settings are written down. */
export interface ClashingPackage {
  readonly id: string;
  readonly name: string;
  readonly version: string;
  readonly entryPoints: readonly EntryPoint[];
  readonly sideBySide: boolean;
  readonly dependencies: readonly Dependency[];
  /** Bill of materials of its container: its files. */
  readonly bom?: string;
  /** Comparison of its capture: its settings, and its files where there is no container. */
  readonly comparison?: string;
}

export interface ClashTask {
  readonly packages: readonly ClashingPackage[];
}

export function findClashes({ packages }: ClashTask): Clash[] {
  const byId = new Map(packages.map((one) => [one.id, one]));
  return findConflicts(packages.map(comparedPackage)).map((clash) => ({
    ...clash,
    packages: clash.packages.flatMap((id) => {
      const one = byId.get(id);
      return one ? [{ id, name: one.name, version: one.version }] : [];
    }),
  }));
}

export interface ComparedVersion {
  readonly version: string;
  readonly container: string;
  readonly entryPoints: readonly EntryPoint[];
  readonly contentBytes: number;
  readonly containerBytes: number;
}

export interface CompareVersionsTask {
  readonly before: ComparedVersion;
  readonly after: ComparedVersion;
}

/** What lies between two versions, by their bills of materials and the settings in their containers. */
export async function compareVersions({ before, after }: CompareVersionsTask): Promise<PackageComparison> {
  return comparePackages(await contentOf(before), await contentOf(after));
}

async function contentOf({ container, ...version }: ComparedVersion): Promise<PackageContent> {
  const opened = await openContainer(container);
  const { settings = [] } = opened.manifest;
  opened.close();
  return { ...version, entries: [...bomEntries(`${container}.cdx.json`), ...settings] };
}

function* bomEntries(path: string): Generator<Entry> {
  for (const file of filesOfBom(readFileSync(path, 'utf8')))
    yield { kind: 'file', ...file, mode: '', modified: '' };
}

function comparedPackage(one: ClashingPackage): ComparedPackage {
  const { id, name, version, entryPoints, sideBySide, dependencies } = one;
  return {
    id,
    name,
    version,
    entryPoints,
    sideBySide,
    dependencies,
    entries: () => entriesOf(one),
  };
}

/** Read anew each time it is walked, so that no more than one package is in memory. */
function* entriesOf({ bom, comparison }: ClashingPackage): Generator<Entry> {
  if (comparison) {
    const kept = keptEntries(readComparison(comparison));
    for (const entry of kept) if (!bom || entry.kind !== 'file') yield entry;
  }
  if (!bom) return;
  yield* bomEntries(bom);
}

export interface PackTask extends Omit<PackRequest, 'tree' | 'onProgress' | 'cancelled'> {
  readonly folder: string;
  /** Comparison of the capture that it is made of. */
  readonly comparison: string;
  readonly updatersOff: boolean;
  readonly port?: MessagePort;
}

/** Builds a container of what a capture kept, with the settings in its manifest; tells its progress over the port. */
export async function packContainer({
  port,
  folder,
  comparison,
  updatersOff,
  manifest,
  ...request
}: PackTask): Promise<Packed & { settings: number }> {
  try {
    const { paths, settings } = packageContents(readComparison(comparison), { updatersOff });
    if (paths.length === 0) throw InputError.of('capture', 'holds no file to pack');
    const packed = await pack({
      ...request,
      manifest: { ...manifest, settings },
      tree: folderTree(folder, new Set(paths)),
      onProgress: (done, of) => port?.postMessage(done / of),
    });
    return { ...packed, settings: settings.length };
  } finally {
    port?.close();
  }
}

export interface ConvertTask {
  readonly from: string;
  readonly out: string;
  readonly format: ContainerFormat;
}

/** Builds a container of another format from a container: the same files, the same manifest. */
export async function convertContainer({ from, out, format }: ConvertTask): Promise<Packed> {
  const container = await openContainer(from);
  try {
    return await pack({ tree: container.tree, manifest: container.manifest, format, out });
  } finally {
    container.close();
  }
}

function readComparison(path: string): CaptureComparison {
  return JSON.parse(readFileSync(path, 'utf8')) as CaptureComparison;
}
