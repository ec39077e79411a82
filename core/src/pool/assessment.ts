/**
 * Assessment data: what people's desktops used, measured before they are moved. A CSV (RFC 4180)
 * with the columns user, time, cpu, memory and, if measured, operations; any order, more columns
 * are left alone.
 */
import { parse } from 'csv-parse/browser/esm/sync';
import { ok, refuseAll, type Fault, type Result } from '../result.ts';

/** What one person used on average over five minutes. */
export interface UsageMean {
  readonly user: string;
  /** The five minutes of the day it stands for, 0 to 287. */
  readonly slot: number;
  /** Fraction of a reference core. */
  readonly cpu: number;
  readonly memoryBytes: number;
  /** Disk operations a second; 0 when not measured. */
  readonly operations: number;
}

export interface Assessment {
  readonly means: readonly UsageMean[];
  readonly rows: number;
  readonly users: number;
  readonly days: number;
}

/** The five minutes of a day. */
export const SLOTS = 288;

const MAX_FAULTS = 20;
const columns = {
  user: ['user'],
  time: ['time'],
  cpu: ['cpu'],
  memory: ['memory', 'memory bytes', 'memory_bytes'],
  operations: ['operations', 'operations/s', 'operations_per_second'],
} as const;
type Column = keyof typeof columns;

/**
 * Reads an assessment. Times are local wall times, `2027-03-01T09:05` or with seconds; cpu is a
 * fraction of a core, memory in bytes. Decimal commas are read where semicolons separate.
 * Errors, at most twenty, at `line N`: a column that is missing, rows of another length (as when
 * separators are mixed), values that are no number or below 0, times that are none.
 */
export function readAssessment(text: string): Result<Assessment> {
  const separator = separatorOf(text);
  let records: string[][];
  try {
    records = parse(text, {
      bom: true,
      delimiter: separator,
      relax_column_count: true,
      skip_empty_lines: true,
      trim: true,
    });
  } catch (error) {
    const { message, lines } = error as Error & { lines?: number };
    return refuseAll([{ path: `line ${lines ?? 1}`, message: message.replace(/ at line.*$/, '') }]);
  }
  const [header = [], ...rows] = records;
  const places = placesOf(header);
  if (!places.ok) return places;
  const faults: Fault[] = [];
  const sums = new Map<string, { sum: UsageMean; count: number }>();
  const days = new Set<string>();
  for (const [i, row] of rows.entries()) {
    if (faults.length >= MAX_FAULTS) break;
    const read = readRow(row, header.length, places.value, separator, `line ${i + 2}`, faults);
    if (!read) continue;
    days.add(read.day);
    addUp(sums, read.day, read.usage);
  }
  if (faults.length > 0) return refuseAll(faults);
  if (sums.size === 0)
    return refuseAll([{ path: 'line 2', message: 'there is no row of data below the header' }]);
  const means = [...sums.values()].map(({ sum, count }) => meanOf(sum, count));
  return ok({
    means,
    rows: rows.length,
    users: new Set(means.map((mean) => mean.user)).size,
    days: days.size,
  });
}

/** The separator that the header uses most. */
function separatorOf(text: string): ',' | ';' | '\t' {
  const header = text.slice(0, text.search(/[\r\n]|$/));
  const candidates = [',', ';', '\t'] as const;
  const used = (separator: string) => header.split(separator).length;
  return candidates.reduce((best, next) => (used(next) > used(best) ? next : best));
}

function placesOf(header: readonly string[]): Result<Record<Column, number>> {
  const names = header.map((name) => name.toLowerCase());
  const place = (column: Column) =>
    names.findIndex((name) => columns[column].some((known) => known === name));
  const places = {
    user: place('user'),
    time: place('time'),
    cpu: place('cpu'),
    memory: place('memory'),
    operations: place('operations'),
  };
  const missing = (Object.keys(columns) as Column[]).filter(
    (column) => column !== 'operations' && places[column] < 0,
  );
  if (missing.length === 0) return ok(places);
  const found = header.length > 0 ? `found ${header.join(', ')}` : 'the file is empty';
  return refuseAll(missing.map((column) => ({ path: 'line 1', message: `no column "${column}"; ${found}` })));
}

function readRow(
  row: readonly string[],
  width: number,
  places: Record<Column, number>,
  separator: string,
  path: string,
  faults: Fault[],
): { day: string; usage: UsageMean } | undefined {
  if (row.length !== width) {
    const other = [',', ';', '\t'].find(
      (mark) => mark !== separator && row.some((cell) => cell.includes(mark)),
    );
    const hint = other ? `; it seems to be separated by "${other === '\t' ? 'tab' : other}"` : '';
    faults.push({ path, message: `has ${row.length} values, the header ${width}${hint}` });
    return undefined;
  }
  const before = faults.length;
  const number = (column: Column): number => {
    const text = row[places[column]] ?? '';
    const n = Number(separator === ';' ? text.replace(',', '.') : text);
    if (text === '' || !Number.isFinite(n))
      faults.push({ path, message: `${column} "${text}" is not a number` });
    else if (n < 0) faults.push({ path, message: `${column} ${text} is below 0` });
    return n;
  };
  const user = row[places.user] ?? '';
  if (user === '') faults.push({ path, message: 'the user is empty' });
  const time = row[places.time] ?? '';
  const parts = /^(\d{4}-\d{2}-\d{2})[T ](\d{2}):(\d{2})(:\d{2}(\.\d+)?)?$/.exec(time);
  const [hour, minute] = [Number(parts?.[2]), Number(parts?.[3])];
  if (!parts || hour > 23 || minute > 59)
    faults.push({ path, message: `time "${time}" is not a local time such as 2027-03-01T09:05` });
  const cpu = number('cpu');
  const memoryBytes = number('memory');
  const operations = places.operations < 0 ? 0 : number('operations');
  if (faults.length > before) return undefined;
  const slot = Math.floor((hour * 60 + minute) / 5);
  return { day: parts?.[1] ?? '', usage: { user, slot, cpu, memoryBytes, operations } };
}

function addUp(sums: Map<string, { sum: UsageMean; count: number }>, day: string, usage: UsageMean): void {
  const key = `${day} ${usage.slot} ${usage.user}`;
  const known = sums.get(key);
  if (!known) {
    sums.set(key, { sum: usage, count: 1 });
    return;
  }
  const { sum } = known;
  known.count += 1;
  known.sum = {
    ...sum,
    cpu: sum.cpu + usage.cpu,
    memoryBytes: sum.memoryBytes + usage.memoryBytes,
    operations: sum.operations + usage.operations,
  };
}

function meanOf(sum: UsageMean, count: number): UsageMean {
  return {
    ...sum,
    cpu: sum.cpu / count,
    memoryBytes: sum.memoryBytes / count,
    operations: sum.operations / count,
  };
}
