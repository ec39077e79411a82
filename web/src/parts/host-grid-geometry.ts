/** Where the cells of a host grid lie. Pure, so that it can be tested without a screen. */

export interface GridGeometry {
  readonly columns: number;
  readonly rows: number;
  /** Side of a cell, and the distance from one to the next, in pixels. */
  readonly size: number;
  readonly step: number;
  readonly height: number;
}

const GAP = 2;

export function gridGeometry(count: number, width: number, size: number): GridGeometry {
  const step = size + GAP;
  const columns = Math.max(1, Math.floor((width + GAP) / step));
  const rows = Math.ceil(count / columns);
  return { columns, rows, size, step, height: Math.max(size, rows * step - GAP + 1) };
}

/** The cell at a point, or undefined for a gap or beyond the last. */
export function cellAt(geometry: GridGeometry, x: number, y: number, count: number): number | undefined {
  const { step, size, columns } = geometry;
  const column = Math.floor(x / step);
  if (x < 0 || y < 0 || column >= columns || x % step > size || y % step > size) return undefined;
  const index = Math.floor(y / step) * columns + column;
  return index < count ? index : undefined;
}

/** First and one past the last cell in view. */
export function cellsInView(
  geometry: GridGeometry,
  scrollTop: number,
  height: number,
  count: number,
): [number, number] {
  const first = Math.max(0, Math.floor(scrollTop / geometry.step));
  const last = Math.ceil((scrollTop + height) / geometry.step);
  return [first * geometry.columns, Math.min(count, last * geometry.columns)];
}

/** The cell that a key leads to; undefined when the key does not move. */
export function moveFocus(
  geometry: GridGeometry,
  from: number | undefined,
  key: string,
  count: number,
): number | undefined {
  const by: Record<string, number> = {
    ArrowRight: 1,
    ArrowLeft: -1,
    ArrowDown: geometry.columns,
    ArrowUp: -geometry.columns,
  };
  if (count === 0) return undefined;
  if (key === 'Home') return 0;
  if (key === 'End') return count - 1;
  const step = by[key];
  if (step === undefined) return undefined;
  if (from === undefined) return 0;
  const to = from + step;
  return to < 0 || to >= count ? from : to;
}
