/** What clashes between packages of the library, of one blend, or between the library and a capture. */
import type { CaptureDraft } from '@vatline/contract/capture';
import type { Clash } from '@vatline/contract/package';
import type { Dependency, PackageManifest } from '@vatline/core/container/manifest';
import { findConflicts, type Clash as FoundClash } from '@vatline/core/package/conflicts';
import { compareVersionText } from '@vatline/core/version/text';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import { captureFiles } from './capture-files.ts';
import type { ClashTask, ClashingPackage } from './container-worker.ts';
import type { CaptureRow } from './tables.ts';
import { entryPointsByVersion } from './entry-points.ts';
import type { PackageStore } from './store.ts';
import { containerWork } from './work.ts';

/**
 * Between the offered versions of every package, and the capture where one is given; then only
 * what the capture has part in. Works in a worker: the library can have millions of files.
 */
export async function clashesOf(
  parts: Parts,
  store: PackageStore,
  captureId: string | undefined,
): Promise<Clash[]> {
  const capture = captureId === undefined ? undefined : await store.captures.get(captureId);
  const own = capture && captured(store, capture);
  const others = (await offered(parts, store)).filter((one) => one.name !== own?.name);
  const task: ClashTask = { packages: own ? [own, ...others] : others };
  const clashes = await containerWork(parts, 'findClashes', task);
  return own ? clashes.filter((clash) => clash.packages.some((one) => one.id === own.id)) : clashes;
}

/** A capture with what its packager said so far. */
function captured(store: PackageStore, capture: CaptureRow): ClashingPackage {
  const said = fromJson<Pick<PackageManifest, 'name' | 'version' | 'entryPoints'>>(capture.proposal_json);
  const draft = capture.draft_json === null ? undefined : fromJson<CaptureDraft>(capture.draft_json);
  const { name, version, entryPoints, dependencies } = {
    ...said,
    ...(draft?.manifest as Partial<PackageManifest> | undefined),
  };
  return {
    id: capture.id,
    name,
    version,
    entryPoints,
    sideBySide: false,
    dependencies: dependencies ?? [],
    comparison: comparisonOf(store, capture.id),
  };
}

/** Between versions that are attached together. Throws a refusal at the version that there is not. */
export async function clashesBetween(
  parts: Parts,
  store: PackageStore,
  versionIds: readonly string[],
): Promise<Clash[]> {
  const known = new Map((await clashingVersions(parts, store, versionIds)).map((one) => [one.id, one]));
  const packages = versionIds.map((id, i) => {
    const one = known.get(id);
    if (!one)
      throw invalid([{ path: `packageVersionIds.${i}`, message: 'there is no such package version' }]);
    return one;
  });
  return containerWork(parts, 'findClashes', { packages });
}

/** Of each package the newest offered version; all that are offered where they run side by side. */
async function offered(parts: Parts, store: PackageStore): Promise<ClashingPackage[]> {
  const seen = new Set<string>();
  return (await clashingVersions(parts, store)).filter(({ state, packageId, sideBySide }) => {
    if (state !== 'live' || (seen.has(packageId) && !sideBySide)) return false;
    seen.add(packageId);
    return true;
  });
}

/**
 * Between versions that are attached together, by their manifests alone: what they need, what people
 * open, two versions of one. What is in their files is not looked at, so that it is told at once.
 */
export async function clashesByManifest(parts: Parts, versionIds: readonly string[]): Promise<FoundClash[]> {
  if (versionIds.length === 0) return [];
  const versions = await manifestVersions(parts, versionIds);
  return findConflicts(versions.map((one) => ({ ...one, entries: () => [] })));
}

type ClashingVersion = ClashingPackage & { readonly state: string; readonly packageId: string };

/** Versions with where their content is written down, newest first; all, or those that are named. */
async function clashingVersions(
  parts: Parts,
  store: PackageStore,
  versionIds?: readonly string[],
): Promise<ClashingVersion[]> {
  return (await manifestVersions(parts, versionIds)).map(({ digest, captureId, ...version }) => ({
    ...version,
    bom: `${store.containers.path(digest)}.cdx.json`,
    ...(captureId === null ? {} : { comparison: comparisonOf(store, captureId) }),
  }));
}

/** Versions as their manifests have them, newest first; all, or those that are named. */
async function manifestVersions({ db }: Parts, versionIds?: readonly string[]) {
  const all = db
    .selectFrom('package_version')
    .innerJoin('package', 'package.id', 'package_version.package_id')
    .selectAll('package_version')
    .select(['package.name', 'package.side_by_side']);
  const rows = await (versionIds ? all.where('package_version.id', 'in', versionIds) : all).execute();
  const entryPoints = await entryPointsByVersion(db, versionIds);
  return rows
    .sort((a, b) => compareVersionText(b.version, a.version))
    .map((row) => ({
      id: row.id,
      name: row.name,
      version: row.version,
      state: row.state,
      packageId: row.package_id,
      entryPoints: (entryPoints.get(row.id) ?? []).map(({ id: _id, ...entry }) => entry),
      sideBySide: row.side_by_side === 1,
      dependencies: fromJson<{ dependencies?: Dependency[] }>(row.details_json).dependencies ?? [],
      digest: row.digest,
      captureId: row.capture_id,
    }));
}

function comparisonOf(store: PackageStore, captureId: string): string {
  return captureFiles(store.captures.folder(captureId)).comparison;
}
