/** What clashes between packages of the library, or between them and a capture. */
import type { Clash } from '@vatline/contract/package';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import { workerFile } from '../platform/workers.ts';
import type { ClashTask, ClashingPackage } from './heavy-worker.ts';
import type { PackageStore } from './store.ts';

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
  const clashes = (await parts.workers.run(task, {
    filename: workerFile('package/heavy-worker.js'),
    name: 'findClashes',
  })) as Clash[];
  return own ? clashes.filter((clash) => clash.packages.some((one) => one.id === own.id)) : clashes;
}

function captured(store: PackageStore, capture: { id: string; proposal_json: string }): ClashingPackage {
  const { name, version, entryPoints } = fromJson<Pick<ClashingPackage, 'name' | 'version' | 'entryPoints'>>(
    capture.proposal_json,
  );
  return { id: capture.id, name, version, entryPoints, comparison: store.comparisonPath(capture.id) };
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
      ...(captureId === null ? {} : { comparison: store.comparisonPath(captureId) }),
    });
  }
  return [...newest.values()];
}
