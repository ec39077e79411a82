/**
 * Noise: what a machine writes by itself while an application is being installed. Rules are
 * ordered; the first that matches decides; a person's rules come before the built-in ones and may
 * keep as well as drop.
 */
import { entryName, type Entry, type EntryKind, type FileEntry } from '../inventory/entry.ts';
import type { Changed, InventoryDifference, Moved } from '../inventory/compare.ts';
import { must, ok, refuseAll, type Fault, type Result } from '../result.ts';
import { compileExpression } from './expression.ts';
import { compileGlob, MatchedPath } from './glob.ts';

export interface NoiseRule {
  readonly id: string;
  readonly action: 'drop' | 'keep';
  /** Kinds it looks at; all when absent. */
  readonly kinds?: readonly EntryKind[];
  /** Glob on the entry's name with `/` between parts, without regard to case. */
  readonly glob?: string;
  /** Regular expression on the same, in place of a glob. */
  readonly expression?: string;
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

/** A change that a rule took out; it can be put back as it was. */
export interface Dropped {
  readonly entry: Entry;
  readonly change: ChangeKind;
  readonly rule: string;
  readonly reason: string;
  /** Of what was changed: how it was, and the fields that differ. */
  readonly before?: Entry;
  readonly fields?: readonly string[];
  /** Of what was moved: where it was. */
  readonly from?: FileEntry;
}

export interface CaptureComparison {
  readonly added: readonly Entry[];
  readonly removed: readonly Entry[];
  readonly changed: readonly Changed[];
  readonly moved: readonly Moved[];
  readonly dropped: readonly Dropped[];
  readonly same: number;
}

/** The rule that decides about an entry; none when it simply stays. */
export type NoiseMatcher = (entry: Entry) => NoiseRule | undefined;

/**
 * A function that gives the first rule matching an entry. Errors at `<index>.<field>`: a rule with
 * neither glob nor expression, or with both, or an expression that cannot be read; an id that two have.
 */
export function noiseMatcher(rules: readonly NoiseRule[]): Result<NoiseMatcher> {
  const faults = rules.flatMap((own, i) => ruleFaults(own, i, rules));
  if (faults.length > 0) return refuseAll(faults);
  const compiled = rules.map((noise) => ({
    noise,
    matches: must(testOf(noise)),
    kinds: noise.kinds && new Set(noise.kinds),
  }));
  return ok((entry: Entry) => {
    const name = matchedName(entry);
    const path = new MatchedPath(name);
    return compiled.find((row) => (!row.kinds || row.kinds.has(entry.kind)) && row.matches(name, path))
      ?.noise;
  });
}

/** What globs and expressions are held against. */
export function matchedName(entry: Entry): string {
  return entryName(entry).replaceAll('\\', '/');
}

function testOf({ glob = '', expression }: NoiseRule): Result<(name: string, path: MatchedPath) => boolean> {
  if (expression !== undefined) return compileExpression(expression, { caseless: true });
  const compiled = compileGlob(glob);
  return compiled.ok ? ok((_name, path) => compiled.value(path)) : compiled;
}

function ruleFaults(own: NoiseRule, i: number, all: readonly NoiseRule[]): Fault[] {
  const faults: Fault[] = [];
  const fault = (field: string, message: string) => faults.push({ path: `${i}.${field}`, message });
  if (all.findIndex((other) => other.id === own.id) < i) fault('id', `is the id of an earlier rule too`);
  if (own.glob === undefined && own.expression === undefined)
    fault('glob', 'is missing, and so is expression');
  if (own.glob !== undefined && own.expression !== undefined)
    fault('expression', 'stands beside a glob; give one');
  if (own.glob?.trim() === '') fault('glob', 'is empty');
  else if (faults.length === 0) {
    const test = testOf(own);
    const field = own.expression === undefined ? 'glob' : 'expression';
    if (!test.ok) for (const { message } of test.error) fault(field, message);
  }
  return faults;
}

/** Takes the noise out of a difference. The person's rules are asked first. */
export function dropNoise(
  difference: InventoryDifference,
  ownRules: readonly NoiseRule[] = [],
): Result<CaptureComparison> {
  const matcher = noiseMatcher([...ownRules, ...builtInNoise]);
  if (!matcher.ok) return matcher;
  const dropped: Dropped[] = [];
  const keeps = (row: Omit<Dropped, 'rule' | 'reason'>): boolean => {
    const noise = matcher.value(row.entry);
    if (!noise || noise.action === 'keep') return true;
    dropped.push({ ...row, rule: noise.id, reason: noise.reason });
    return false;
  };
  return ok({
    added: difference.added.filter((entry) => keeps({ entry, change: 'added' })),
    removed: difference.removed.filter((entry) => keeps({ entry, change: 'removed' })),
    changed: difference.changed.filter(({ before, after, fields }) =>
      keeps({ entry: after, change: 'changed', before, fields }),
    ),
    moved: difference.moved.filter(({ from, to }) => keeps({ entry: to, change: 'moved', from })),
    dropped,
    same: difference.same,
  });
}

/** The difference before anything was dropped, so that other rules can judge it. */
export function differenceOf(comparison: CaptureComparison): InventoryDifference {
  const back = (change: ChangeKind) => comparison.dropped.filter((row) => row.change === change);
  return {
    added: [...comparison.added, ...back('added').map((row) => row.entry)],
    removed: [...comparison.removed, ...back('removed').map((row) => row.entry)],
    changed: [
      ...comparison.changed,
      ...back('changed').map(({ entry, before = entry, fields = [] }) => ({ before, after: entry, fields })),
    ],
    moved: [
      ...comparison.moved,
      ...back('moved').flatMap(({ entry, from }) =>
        from && entry.kind === 'file' ? [{ from, to: entry }] : [],
      ),
    ],
    same: comparison.same,
  };
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
