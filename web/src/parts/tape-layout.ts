/**
 * Lays items of the tape out in rows so that neither bars nor labels lie on one another, and no label
 * runs over the line of another day or beyond the strip.
 */

export interface TapeSpan {
  readonly id: string;
  readonly label: string;
  readonly start: number;
  readonly end: number;
}

/** Pixels, from the left of the strip. */
export interface Placed<T> {
  readonly item: T;
  readonly row: number;
  readonly left: number;
  readonly width: number;
  /** Where its words stand, at most so wide; none where there is no room for them. */
  readonly label: { readonly left: number; readonly width: number } | undefined;
}

/** A strip: which span of time it shows, how wide it is, and at which instants lines of days stand. */
export interface TapeStrip {
  readonly from: number;
  readonly to: number;
  readonly width: number;
  readonly lines: readonly number[];
}

export const TAPE_ROWS = 3;
const LABEL_CHARACTER = 6.4;
const MIN_BAR = 11;
const GAP = 5;
const BESIDE_NEXT = 9;
/** Fewer letters than this, about five and the dots, say nothing. */
const MIN_LABEL = 44;

/** Items that find no free row are left out; the journal has them. */
export function layOutTape<T extends TapeSpan>(items: readonly T[], strip: TapeStrip): Placed<T>[] {
  const { from, to, width } = strip;
  const scale = width / (to - from);
  const lines = strip.lines.map((at) => (at - from) * scale);
  const free = Array.from({ length: TAPE_ROWS }, () => 0);
  const placed: Placed<T>[] = [];
  for (const item of [...items].sort((a, b) => a.start - b.start)) {
    const left = Math.min(width - MIN_BAR, Math.max(0, (item.start - from) * scale));
    const right = Math.max(left + MIN_BAR, Math.min(width, (item.end - from) * scale));
    const wanted = item.label.length * LABEL_CHARACTER;
    const rows = free.flatMap((from, row) =>
      from > left ? [] : [{ row, label: labelBeside({ left, right }, wanted, { lines, width, free: from }) }],
    );
    // The first row where the most of its words can be read.
    const most = Math.max(...rows.map((one) => one.label?.width ?? 0));
    const best = rows.find((one) => (one.label?.width ?? 0) === most);
    if (!best) continue;
    const { row, label } = best;
    free[row] = Math.max(right, label ? label.left + label.width : 0) + BESIDE_NEXT;
    placed.push({ item, row, left, width: right - left, label });
  }
  return placed;
}

interface Room {
  readonly lines: readonly number[];
  readonly width: number;
  /** From where on the row is free. */
  readonly free: number;
}

/** Behind its bar; before it where there is more room; shortened where there is too little on both sides. */
function labelBeside(
  bar: { readonly left: number; readonly right: number },
  wanted: number,
  { lines, width, free }: Room,
): Placed<unknown>['label'] {
  const behind = bar.right + GAP;
  const before = bar.left - GAP;
  const nextLine = Math.min(width, ...lines.filter((line) => line >= bar.right));
  const lastLine = Math.max(free, ...lines.filter((line) => line <= bar.left));
  const roomBehind = nextLine - behind;
  const roomBefore = before - lastLine - GAP;
  if (roomBehind >= wanted) return { left: behind, width: wanted };
  if (roomBefore >= wanted) return { left: before - wanted, width: wanted };
  const room = Math.max(roomBehind, roomBefore);
  if (room < MIN_LABEL) return undefined;
  return { left: roomBehind >= roomBefore ? behind : before - room, width: room };
}
