/** What lies between two versions of a package: files, settings, entry points, and what an update costs. */
import { compareInventories, type Changed, type Moved } from '../inventory/compare.ts';
import type { Entry } from '../inventory/entry.ts';
import type { EntryPoint } from '../container/manifest.ts';

export interface PackageContent {
  readonly version: string;
  /** Files with their digests, and the settings that its manifest makes. */
  readonly entries: readonly Entry[];
  readonly entryPoints: readonly EntryPoint[];
  /** Bytes of its files, and of the container that hosts get. */
  readonly contentBytes: number;
  readonly containerBytes: number;
}

export interface PackageComparison {
  readonly added: readonly Entry[];
  readonly removed: readonly Entry[];
  readonly changed: readonly Changed[];
  readonly moved: readonly Moved[];
  readonly same: number;
  readonly entryPoints: {
    readonly added: readonly string[];
    readonly removed: readonly string[];
    /** Same name, another program, arguments or association. */
    readonly changed: readonly string[];
  };
  /** What a host that has the earlier version must fetch. */
  readonly update: {
    /** The whole container, as hosts fetch it. */
    readonly wholeBytes: number;
    /** Bytes of files whose content the earlier version does not have under any name. */
    readonly newBytes: number;
    /** The same, compressed as the container compresses on average. */
    readonly deltaBytes: number;
  };
}

export function comparePackages(before: PackageContent, after: PackageContent): PackageComparison {
  const { added, removed, changed, moved, same } = compareInventories(before.entries, after.entries, true);
  const newBytes = bytesNotIn(before.entries, after.entries);
  const ratio = after.contentBytes === 0 ? 1 : after.containerBytes / after.contentBytes;
  return {
    added,
    removed,
    changed,
    moved,
    same,
    entryPoints: compareEntryPoints(before.entryPoints, after.entryPoints),
    update: {
      wholeBytes: after.containerBytes,
      newBytes,
      deltaBytes: Math.round(Math.min(after.containerBytes, newBytes * ratio)),
    },
  };
}

/** Each content once, however many files have it. */
function bytesNotIn(before: readonly Entry[], after: readonly Entry[]): number {
  const known = new Set(before.flatMap((entry) => (entry.kind === 'file' ? [entry.sha256] : [])));
  let bytes = 0;
  for (const entry of after) {
    if (entry.kind !== 'file' || known.has(entry.sha256)) continue;
    known.add(entry.sha256);
    bytes += entry.size;
  }
  return bytes;
}

function compareEntryPoints(
  before: readonly EntryPoint[],
  after: readonly EntryPoint[],
): PackageComparison['entryPoints'] {
  const old = new Map(before.map((entry) => [entry.name, JSON.stringify(entry)]));
  const now = new Map(after.map((entry) => [entry.name, JSON.stringify(entry)]));
  return {
    added: [...now.keys()].filter((name) => !old.has(name)),
    removed: [...old.keys()].filter((name) => !now.has(name)),
    changed: [...now.keys()].filter((name) => old.has(name) && old.get(name) !== now.get(name)),
  };
}
