import { dropNoise } from '../package/noise.ts';
import { must } from '../result.ts';
import { compareInventories } from '../inventory/compare.ts';
import { entryName, type Entry } from '../inventory/entry.ts';

/** What differs on a build machine from the checkpoint that it was built to. */
export interface HandChanges {
  readonly count: number;
  /** What the first of them is called; empty when there is none. */
  readonly first: string;
}

/** Counts what people changed by hand; what a system changes by itself does not count. */
export function handChanges(before: readonly Entry[], now: readonly Entry[]): HandChanges {
  const { added, changed, removed, moved } = must(dropNoise(compareInventories(before, now, false)));
  const differing = [...added, ...changed.map((row) => row.after), ...removed, ...moved.map((row) => row.to)];
  const [first] = differing;
  return { count: differing.length, first: first ? entryName(first) : '' };
}
