/** Lists of many things to do, as CSV (RFC 4180) with a heading. */
import { parse } from 'csv-parse/browser/esm/sync';
import { ok, refuse, refuseAll, type Fault, type Result } from '../result.ts';

export interface BulkLine<C extends string> {
  /** Of the text, from 1; the heading is the first. */
  readonly line: number;
  readonly values: Readonly<Record<C, string>>;
}

/** Longer lists are refused before they are read. */
const MOST_LINES = 5_000;
const MOST_FAULTS = 20;

/**
 * Reads a list whose heading has these columns, in any order and among others. Errors at
 * `line <n>`: a column that is not there, a cell that is empty, no line at all.
 */
export function parseBulkList<C extends string>(text: string, columns: readonly C[]): Result<BulkLine<C>[]> {
  let rows: { record: string[]; info: { lines: number } }[];
  try {
    rows = parse(text, {
      bom: true,
      trim: true,
      skip_empty_lines: true,
      relax_column_count: true,
      info: true,
    }) as unknown as typeof rows;
  } catch (error) {
    return refuse('line 1', `cannot be read: ${error instanceof Error ? error.message : 'unknown'}`);
  }
  const heading = rows[0]?.record.map((cell) => cell.toLowerCase()) ?? [];
  const missing = columns.filter((column) => !heading.includes(column));
  if (missing.length > 0)
    return refuse(
      'line 1',
      `is no heading with ${columns.join(', ')}: ${missing.join(' and ')} ${missing.length === 1 ? 'is' : 'are'} missing`,
    );
  if (rows.length === 1) return refuse('line 2', 'is not there; the list is empty');
  if (rows.length > MOST_LINES + 1)
    return refuse(`line ${MOST_LINES + 2}`, `is too many; at most ${MOST_LINES}`);
  const faults: Fault[] = [];
  const lines = rows.slice(1).map(({ record, info }) => {
    const cells = columns.map((column) => [column, record[heading.indexOf(column)] ?? ''] as const);
    const empty = cells.find(([, value]) => value === '');
    if (empty) faults.push({ path: `line ${info.lines}`, message: `has no ${empty[0]}` });
    return { line: info.lines, values: Object.fromEntries(cells) as Record<C, string> };
  });
  return faults.length > 0 ? refuseAll(faults.slice(0, MOST_FAULTS)) : ok(lines);
}

/** Name and version from the name of a file, such as `Marlstone Ledger 1.4.zip`. */
export function namedPayload(fileName: string): { readonly name: string; readonly version: string } {
  const stem = fileName.replace(/\.(zip|tar|tgz|tar\.gz)$/i, '');
  const found = /^(.*?)[ _-]+v?(\d[\w.]*)$/.exec(stem);
  return { name: (found?.[1] ?? stem).replaceAll('_', ' ').trim(), version: found?.[2] ?? '1' };
}
