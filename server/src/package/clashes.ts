/** What clashes between packages of the library, or between them and a capture. */
import type { CaptureDraft } from '@vatline/contract/capture';
import type { Clash } from '@vatline/contract/package';
import type { PackageManifest } from '@vatline/core/package/manifest';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import { captureFiles } from './capture-files.ts';
import type { ClashTask, ClashingPackage } from './container-worker.ts';
import type { CaptureRow, PackageStore } from './store.ts';
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
  const capture = captureId === undefined ? undefined : await store.capture(captureId);
  const own = capture && captured(store, capture);
  const others = (await offered(store)).filter((one) => one.name !== own?.name);
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

/** Of each package the newest offered version; all that are offered where they run side by side. */
async function offered(store: PackageStore): Promise<ClashingPackage[]> {
  const sideBySide = await store.sideBySide();
  const seen = new Set<string>();
  // Versions come newest first.
  return (await store.versions()).flatMap((row): ClashingPackage[] => {
    const { id, packageId, name, version, entryPoints, digest, captureId, state, details } = row;
    const isSideBySide = sideBySide.has(packageId);
    if (state !== 'live' || (seen.has(packageId) && !isSideBySide)) return [];
    seen.add(packageId);
    return [
      {
        id,
        name,
        version,
        entryPoints,
        sideBySide: isSideBySide,
        dependencies: details.dependencies ?? [],
        bom: `${store.containerPath(digest)}.cdx.json`,
        ...(captureId === null ? {} : { comparison: comparisonOf(store, captureId) }),
      },
    ];
  });
}

function comparisonOf(store: PackageStore, captureId: string): string {
  return captureFiles(store.captureFolder(captureId)).comparison;
}
