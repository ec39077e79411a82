/** Lays items of the tape out in rows so that neither bars nor labels lie on one another. */

export interface TapeSpan {
  readonly id: string;
  readonly label: string;
  readonly start: number;
  readonly end: number;
}

export interface Placed<T> {
  readonly item: T;
  readonly row: number;
  /** Pixels from the left of the strip. */
  readonly left: number;
  readonly width: number;
}

export const TAPE_ROWS = 3;
const LABEL_CHARACTER = 6.4;
const MIN_BAR = 11;

/** Items that find no free row are left out; the journal has them. */
export function layOutTape<T extends TapeSpan>(
  items: readonly T[],
  from: number,
  to: number,
  width: number,
): Placed<T>[] {
  const scale = width / (to - from);
  const free = Array.from({ length: TAPE_ROWS }, () => -Infinity);
  const placed: Placed<T>[] = [];
  for (const item of [...items].sort((a, b) => a.start - b.start)) {
    const left = Math.max(0, (item.start - from) * scale);
    const right = Math.min(width, (item.end - from) * scale);
    const bar = Math.max(MIN_BAR, right - left);
    const row = free.findIndex((until) => until <= left);
    if (row < 0) continue;
    free[row] = left + bar + 14 + item.label.length * LABEL_CHARACTER;
    placed.push({ item, row, left, width: bar });
  }
  return placed;
}
