/** Equal bins over a range that begins at 0. */
export interface Histogram {
  /** Upper end of the range. */
  readonly top: number;
  /** How many values lie in each bin; the last one takes its upper end too. */
  readonly counts: readonly number[];
}

/** Counts values of at least 0 into bins up to `top`; what lies above goes into the last one. */
export function histogram(values: Iterable<number>, bins: number, top: number): Histogram {
  const counts = new Array<number>(bins).fill(0);
  for (const value of values) {
    const bin = Math.min(bins - 1, Math.floor((value / top) * bins));
    counts[bin] = (counts[bin] ?? 0) + 1;
  }
  return { top, counts };
}
