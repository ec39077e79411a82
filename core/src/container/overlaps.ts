/** Stretches of a container that hold content. */

/**
 * The first two of the ranges `[start, length]` that share bytes without being the same, which no
 * writer does: content stored once for several files is the same range.
 */
export function overlappingRanges(
  ranges: readonly (readonly [number, number])[],
): readonly [number, number] | undefined {
  const sorted = [...ranges].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  for (let i = 1; i < sorted.length; i++) {
    const [before, own] = [sorted[i - 1], sorted[i]];
    if (!before || !own) continue;
    const isSame = before[0] === own[0] && before[1] === own[1];
    if (!isSame && before[0] + before[1] > own[0]) return [before[0], own[0]];
  }
  return undefined;
}
