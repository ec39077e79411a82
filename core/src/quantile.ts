/**
 * The value below which a share `p` (0 to 1) of the sorted numbers lie, by the nearest-rank
 * definition: always one of the numbers, so that an answer names a run that happened.
 * Undefined for an empty list.
 */
export function quantile(sorted: ArrayLike<number>, p: number): number | undefined {
  return sorted[Math.min(sorted.length - 1, Math.max(0, Math.ceil(p * sorted.length) - 1))];
}

/** The middle of the numbers (mean of the two middle ones when even); undefined for an empty list. */
export function median(numbers: readonly number[]): number | undefined {
  const sorted = [...numbers].sort((a, b) => a - b);
  const half = sorted.length >> 1;
  const upper = sorted[half];
  if (upper === undefined) return undefined;
  return sorted.length % 2 === 1 ? upper : ((sorted[half - 1] ?? upper) + upper) / 2;
}
