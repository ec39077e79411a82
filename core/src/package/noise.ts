/**
 * Noise: what a machine writes by itself while an application is being installed. Rules are
 * ordered; the first that matches decides; a person's rules come before the built-in ones and may
 * keep as well as drop.
 */
import picomatch from 'picomatch';
import { entryName, type Entry, type EntryKind } from '../image/inventory.ts';
import type { Changed, InventoryDifference, Moved } from '../image/compare-inventories.ts';
import { ok, refuseAll, type Fault, type Result } from '../result.ts';

export interface NoiseRule {
  readonly id: string;
  readonly action: 'drop' | 'keep';
  /** Kinds it looks at; all when absent. */
  readonly kinds?: readonly EntryKind[];
  /** Glob on the entry's name with `/` between parts, without regard to case. */
  readonly glob: string;
  readonly reason: string;
}

export const builtInNoise: readonly NoiseRule[] = [
  rule('temporary', '{**/,}{temp,tmp}{,/**}', 'temporary folder, emptied by the system'),
  rule('temporary file', '**/*.{tmp,temp,~*}', 'temporary file'),
  rule('log', '**/*.log', 'log file, written anew on every machine'),
  rule('log folder', '{**/,}{log,logs}{,/**}', 'log folder, written anew on every machine'),
  rule('prefetch', '{**/,}prefetch{,/**}', 'start-up cache, learned by each machine for itself'),
  rule('cache', '{**/,}{cache,caches,thumbnail cache}{,/**}', 'cache, filled again when needed'),
  rule('search index', '{**/,}{search index,search/data}{,/**}', 'search index of the packaging machine'),
  rule('update store', '{**/,}{update store,softwaredistribution}{,/**}', "the system's own update store"),
  rule('event log', '**/*.{evt,evtx,etl}', 'event log of the packaging machine'),
  rule('recycle bin', '{**/,}{$recycle.bin,.trash}{,/**}', 'thrown-away files'),
  {
    ...rule(
      'volatile registry',
      '{**/,}{volatile environment,recentdocs,muicache,runmru}{,/**}',
      'volatile registry hive',
    ),
    kinds: ['registry'],
  },
];

function rule(id: string, glob: string, reason: string): NoiseRule {
  return { id, action: 'drop', glob, reason };
}

export type ChangeKind = 'added' | 'removed' | 'changed' | 'moved';

export interface Dropped {
  readonly entry: Entry;
  readonly change: ChangeKind;
  readonly rule: string;
  readonly reason: string;
}

export interface CaptureComparison {
  readonly added: readonly Entry[];
  readonly removed: readonly Entry[];
  readonly changed: readonly Changed[];
  readonly moved: readonly Moved[];
  readonly dropped: readonly Dropped[];
  readonly same: number;
}

/** A function that gives the first rule matching an entry. Errors: a glob that cannot be read. */
export function noiseMatcher(rules: readonly NoiseRule[]): Result<(entry: Entry) => NoiseRule | undefined> {
  const faults: Fault[] = [];
  const compiled = rules.map((noise, i) => {
    if (noise.glob.trim() === '') faults.push({ path: `rules.${i}.glob`, message: 'is empty' });
    const pattern = picomatch.makeRe(noise.glob || '*', { nocase: true, dot: true });
    return { noise, pattern, kinds: noise.kinds && new Set(noise.kinds) };
  });
  if (faults.length > 0) return refuseAll(faults);
  return ok((entry: Entry) => {
    const name = entryName(entry).replaceAll('\\', '/');
    return compiled.find((row) => (!row.kinds || row.kinds.has(entry.kind)) && row.pattern.test(name))?.noise;
  });
}

/** Takes the noise out of a difference. The person's rules are asked first. */
export function dropNoise(
  difference: InventoryDifference,
  ownRules: readonly NoiseRule[] = [],
): Result<CaptureComparison> {
  const matcher = noiseMatcher([...ownRules, ...builtInNoise]);
  if (!matcher.ok) return matcher;
  const dropped: Dropped[] = [];
  const keeps = (entry: Entry, change: ChangeKind): boolean => {
    const noise = matcher.value(entry);
    if (!noise || noise.action === 'keep') return true;
    dropped.push({ entry, change, rule: noise.id, reason: noise.reason });
    return false;
  };
  return ok({
    added: difference.added.filter((entry) => keeps(entry, 'added')),
    removed: difference.removed.filter((entry) => keeps(entry, 'removed')),
    changed: difference.changed.filter((change) => keeps(change.after, 'changed')),
    moved: difference.moved.filter((move) => keeps(move.to, 'moved')),
    dropped,
    same: difference.same,
  });
}

export interface ChangeCounts {
  readonly added: number;
  readonly removed: number;
  readonly changed: number;
  readonly moved: number;
  readonly dropped: number;
}

/** How many changes of each kind a comparison holds. */
export function countChanges(comparison: CaptureComparison): ChangeCounts {
  const { added, removed, changed, moved, dropped } = comparison;
  return {
    added: added.length,
    removed: removed.length,
    changed: changed.length,
    moved: moved.length,
    dropped: dropped.length,
  };
}
