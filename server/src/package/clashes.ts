/** What clashes between packages of the library, or between them and a capture. */
import type { Clash } from '@vatline/contract/package';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import { captureFiles } from './capture-files.ts';
import type { ClashTask, ClashingPackage } from './container-worker.ts';
import type { PackageStore } from './store.ts';
import { containerWork } from './work.ts';

/**
 * Between the newest offered version of every package, and the capture where one is given; then only
 * what the capture has part in. Works in a worker: the library can have millions of files.
 */
export async function clashesOf(
  parts: Parts,
  store: PackageStore,
  captureId: string | undefined,
): Promise<Clash[]> {
  const capture = captureId === undefined ? undefined : await store.capture(captureId);
  const own = capture && captured(store, capture);
  const others = (await newestOffered(store)).filter((one) => one.name !== own?.name);
  const task: ClashTask = { packages: own ? [own, ...others] : others };
  const clashes = await containerWork(parts, 'findClashes', task);
  return own ? clashes.filter((clash) => clash.packages.some((one) => one.id === own.id)) : clashes;
}

function captured(store: PackageStore, capture: { id: string; proposal_json: string }): ClashingPackage {
  const { name, version, entryPoints } = fromJson<Pick<ClashingPackage, 'name' | 'version' | 'entryPoints'>>(
    capture.proposal_json,
  );
  return { id: capture.id, name, version, entryPoints, comparison: comparisonOf(store, capture.id) };
}

async function newestOffered(store: PackageStore): Promise<ClashingPackage[]> {
  const newest = new Map<string, ClashingPackage>();
  // Versions come newest first.
  for (const { id, name, version, entryPoints, digest, captureId, state } of await store.versions()) {
    if (newest.has(name) || state !== 'live') continue;
    newest.set(name, {
      id,
      name,
      version,
      entryPoints,
      bom: `${store.containerPath(digest)}.cdx.json`,
      ...(captureId === null ? {} : { comparison: comparisonOf(store, captureId) }),
    });
  }
  return [...newest.values()];
}

function comparisonOf(store: PackageStore, captureId: string): string {
  return captureFiles(store.captureFolder(captureId)).comparison;
}
