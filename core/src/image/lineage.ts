/** Lines and their versions as a drawing: a lane a line, versions in the order they were cut, forks between lanes. */

export interface LineageVersion {
  readonly id: string;
  readonly number: number;
  /** When it was cut, milliseconds. */
  readonly cutAt: number;
}

export interface LineageLine<V extends LineageVersion = LineageVersion> {
  readonly id: string;
  readonly name: string;
  /** Version of another line that it was started from. */
  readonly forkedFrom: string | null;
  readonly versions: readonly V[];
}

export interface PlacedVersion<V extends LineageVersion> {
  readonly version: V;
  /** Column, from 0; later cuts of a line stand further right. */
  readonly column: number;
}

export interface Lane<V extends LineageVersion> {
  readonly line: LineageLine<V>;
  readonly row: number;
  /** Oldest first. */
  readonly versions: readonly PlacedVersion<V>[];
}

export interface Fork {
  readonly from: { readonly row: number; readonly column: number };
  readonly to: { readonly row: number; readonly column: number };
}

export interface Lineage<V extends LineageVersion> {
  readonly lanes: readonly Lane<V>[];
  readonly forks: readonly Fork[];
  readonly columns: number;
}

/**
 * Places each line's newest `atMost` versions, and any version that a fork starts from, oldest first.
 * The newest of all lines stand under one another at the right; a line forked from another stands
 * below it and begins right of the version it came from.
 */
export function layOutLineage<V extends LineageVersion>(
  lines: readonly LineageLine<V>[],
  atMost: number,
): Lineage<V> {
  const starts = new Set(lines.map((line) => line.forkedFrom));
  const ordered = forksBelow(lines);
  const shown = ordered.map((line) => {
    const inOrder = [...line.versions].sort((a, b) => a.cutAt - b.cutAt || a.number - b.number);
    return inOrder.filter((version, i) => i >= inOrder.length - atMost || starts.has(version.id));
  });
  const widest = Math.max(0, ...shown.map((list) => list.length));
  const place = new Map<string, { row: number; column: number }>();
  const lanes = ordered.map((line, row): Lane<V> => {
    const versions = shown[row] ?? [];
    const first = firstColumn(line, versions.length, place, widest);
    return {
      line,
      row,
      versions: versions.map((version, i) => {
        place.set(version.id, { row, column: first + i });
        return { version, column: first + i };
      }),
    };
  });
  const forks = lanes.flatMap((lane): Fork[] => {
    const from = lane.line.forkedFrom === null ? undefined : place.get(lane.line.forkedFrom);
    return from ? [{ from, to: { row: lane.row, column: lane.versions[0]?.column ?? from.column + 1 } }] : [];
  });
  const columns = Math.max(0, ...lanes.flatMap((lane) => lane.versions.map((v) => v.column + 1)));
  return { lanes, forks, columns };
}

/** Newest versions stand under one another at the right; a fork begins right of where it came from. */
function firstColumn(
  line: LineageLine,
  count: number,
  place: ReadonlyMap<string, { readonly column: number }>,
  widest: number,
): number {
  const from = line.forkedFrom === null ? undefined : place.get(line.forkedFrom);
  return Math.max(widest - count, from ? from.column + 1 : 0);
}

function forksBelow<V extends LineageVersion>(lines: readonly LineageLine<V>[]): LineageLine<V>[] {
  const lineOf = new Map(
    lines.flatMap((line) => line.versions.map((version) => [version.id, line.id] as const)),
  );
  const parentOf = (line: LineageLine<V>) =>
    line.forkedFrom === null ? undefined : lineOf.get(line.forkedFrom);
  const ordered: LineageLine<V>[] = [];
  const add = (line: LineageLine<V>) => {
    if (ordered.includes(line)) return;
    ordered.push(line);
    for (const other of lines) if (parentOf(other) === line.id) add(other);
  };
  for (const line of lines) if (parentOf(line) === undefined) add(line);
  // Two lines that claim to come from one another have no beginning; they still are to be seen.
  for (const line of lines) add(line);
  return ordered;
}
