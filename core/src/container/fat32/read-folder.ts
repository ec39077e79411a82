/** The records of one FAT folder. */
import { StructReader } from '../struct.ts';
import { attribute, fromFatInstant, RECORD_BYTES, shortNameSum } from './names.ts';

export interface FoundRecord {
  readonly name: string;
  readonly isFolder: boolean;
  readonly cluster: number;
  readonly size: number;
  /** Seconds since 1970. */
  readonly modified: number;
}

const DELETED = 0xe5;
const LONG_NAME = 0x0f;

/** Entries of a folder without `.` and `..`, and the label that a root has. */
export function parseFolder(bytes: Uint8Array): { records: FoundRecord[]; label: string } {
  const records: FoundRecord[] = [];
  let label = '';
  let long: Uint8Array[] = [];
  for (let at = 0; at + RECORD_BYTES <= bytes.length; at += RECORD_BYTES) {
    const raw = bytes.subarray(at, at + RECORD_BYTES);
    if (raw[0] === 0) break;
    const attributes = raw[11] ?? 0;
    if (raw[0] === DELETED) long = [];
    else if ((attributes & 0x3f) === LONG_NAME) long = raw[0] && raw[0] & 0x40 ? [raw] : [...long, raw];
    else {
      if (attributes & attribute.volume) label = shortText(raw.subarray(0, 11));
      else if (raw[0] !== 0x2e) records.push(record(raw, long));
      long = [];
    }
  }
  return { records, label };
}

function record(raw: Uint8Array, long: readonly Uint8Array[]): FoundRecord {
  const read = new StructReader(raw, 'a directory record', 20);
  const high = read.u16();
  const time = read.u16();
  const date = read.u16();
  const low = read.u16();
  return {
    name: longName(long, shortNameSum(raw.subarray(0, 11))) ?? shortName(raw),
    isFolder: ((raw[11] ?? 0) & attribute.folder) !== 0,
    cluster: high * 65_536 + low,
    size: read.u32(),
    modified: fromFatInstant(date, time),
  };
}

/** The long name, where its records are whole and belong to the short one. */
function longName(records: readonly Uint8Array[], sum: number): string | undefined {
  if (records.length === 0) return undefined;
  const isWhole = records.every((raw, i) => ((raw[0] ?? 0) & 0x3f) === records.length - i && raw[13] === sum);
  if (!isWhole) return undefined;
  const units = [...records].reverse().flatMap((raw) => {
    const read = new StructReader(raw, 'a directory record');
    return [1, 3, 5, 7, 9, 14, 16, 18, 20, 22, 24, 28, 30].map((at) => read.seek(at).u16());
  });
  const end = units.indexOf(0);
  return String.fromCharCode(...(end < 0 ? units : units.slice(0, end)));
}

/** Eight and three characters; two flags tell whether they were small letters. */
function shortName(raw: Uint8Array): string {
  const flags = raw[12] ?? 0;
  const first = Uint8Array.from(raw.subarray(0, 8));
  if (first[0] === 0x05) first[0] = DELETED;
  const base = shortText(first);
  const extension = shortText(raw.subarray(8, 11));
  const cased = (text: string, flag: number) => (flags & flag ? text.toLowerCase() : text);
  return extension ? `${cased(base, 0x08)}.${cased(extension, 0x10)}` : cased(base, 0x08);
}

function shortText(bytes: Uint8Array): string {
  return String.fromCharCode(...bytes).trimEnd();
}
