/**
 * The Mann–Whitney rank test: whether the numbers of one sample tend to be larger than those of another.
 * Normal approximation with correction for ties and continuity (Mann & Whitney 1947; Lehmann,
 * "Nonparametrics", 1975, 1.4), which holds from about eight numbers in each sample.
 */

/** Pairs of which the first is the larger one, ties as halves; and the chance of so many where nothing differs. */
export interface RankTest {
  /** The U statistic of the first sample: 0 to the product of both sizes. */
  readonly u: number;
  /** One-sided, 0 to 1; 1 where a sample is empty or all numbers are the same. */
  readonly p: number;
}

/** Tests whether the first sample is larger. Takes n log n. */
export function mannWhitney(first: readonly number[], second: readonly number[]): RankTest {
  const [n, m] = [first.length, second.length];
  if (n === 0 || m === 0) return { u: 0, p: 1 };
  const all = [
    ...first.map((value) => ({ value, isFirst: true })),
    ...second.map((value) => ({ value, isFirst: false })),
  ].sort((a, b) => a.value - b.value);
  let [rankSum, ties] = [0, 0];
  for (let i = 0; i < all.length;) {
    let j = i;
    while (j < all.length && all[j]?.value === all[i]?.value) j++;
    // The numbers from i to j have the mean of the ranks i + 1 to j.
    for (let k = i; k < j; k++) if (all[k]?.isFirst) rankSum += (i + 1 + j) / 2;
    const same = j - i;
    ties += same ** 3 - same;
    i = j;
  }
  const u = rankSum - (n * (n + 1)) / 2;
  const total = n + m;
  const variance = ((n * m) / 12) * (total + 1 - ties / (total * (total - 1)));
  if (variance <= 0) return { u, p: 1 };
  return { u, p: upperTail((u - (n * m) / 2 - 0.5) / Math.sqrt(variance)) };
}

/** The chance that a standard normal number is above `z`; to 1.5e-7 (Abramowitz & Stegun 7.1.26). */
function upperTail(z: number): number {
  const x = Math.abs(z) / Math.SQRT2;
  const t = 1 / (1 + 0.3275911 * x);
  const poly =
    t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429))));
  const tail = (poly * Math.exp(-x * x)) / 2;
  return z >= 0 ? tail : 1 - tail;
}
