/**
 * Names in a FAT directory (FAT32 File System Specification 1.03): a short one of eight
 * and three characters, and beside it the long one in records of thirteen.
 */
import { StructWriter } from '../struct.ts';

export const RECORD_BYTES = 32;
export const MOST_NAME_UNITS = 255;
const UNITS_A_RECORD = 13;
const SHORT_BYTES = 11;
const LONG_NAME_ATTRIBUTES = 0x0f;
const LAST = 0x40;

/** Why a name cannot be written, or nothing. */
export function nameFault(name: string): string | undefined {
  // eslint-disable-next-line no-control-regex -- control characters are what is looked for
  const reserved = /[\u0000-\u001f"*/:<>?\\|]/.exec(name);
  if (reserved) return `holds ${JSON.stringify(reserved[0])}, which FAT32 names may not`;
  if (/[. ]$/.test(name)) return 'ends in a dot or space, which FAT32 names may not';
  if (name.length > MOST_NAME_UNITS)
    return `is ${name.length} characters long; FAT32 names have at most ${MOST_NAME_UNITS}`;
  return undefined;
}

/** FAT compares names without regard to case. */
export function comparableName(name: string): string {
  return name.toUpperCase();
}

/** Whether a name is a short name as it stands, and needs no long one. */
function isShort(name: string): boolean {
  return name.length <= 12 && /^[A-Z0-9_~!#$%&'()@^`{}-]{1,8}(\.[A-Z0-9_~!#$%&'()@^`{}-]{1,3})?$/.test(name);
}

/** Records that a name takes in its folder, its short one included. */
export function recordsFor(name: string): number {
  return isShort(name) ? 1 : 1 + Math.ceil(name.length / UNITS_A_RECORD);
}

/** Gives out the short names of one folder, each once. */
export class ShortNames {
  private readonly taken = new Set<string>();
  /** Last number given to names that begin alike. */
  private readonly last = new Map<string, number>();

  /** Names that are short by themselves have to be known before others are made. */
  constructor(names: readonly string[]) {
    for (const name of names) if (isShort(name)) this.taken.add(padded(name));
  }

  /** Eleven characters, filled up with spaces. */
  for(name: string): string {
    if (isShort(name)) return padded(name);
    const dot = name.lastIndexOf('.');
    const base = reduced(dot > 0 ? name.slice(0, dot) : name).slice(0, 6) || '_';
    const extension = dot > 0 ? reduced(name.slice(dot + 1)).slice(0, 3) : '';
    const key = `${base}.${extension}`;
    for (let number = (this.last.get(key) ?? 0) + 1; ; number++) {
      const tail = `~${number}`;
      const short =
        base
          .slice(0, 8 - tail.length)
          .concat(tail)
          .padEnd(8) + extension.padEnd(3);
      if (this.taken.has(short)) continue;
      this.taken.add(short);
      this.last.set(key, number);
      return short;
    }
  }
}

function padded(short: string): string {
  const [base = '', extension = ''] = short.split('.');
  return base.padEnd(8) + extension.padEnd(3);
}

function reduced(text: string): string {
  return text
    .toUpperCase()
    .replace(/[ .]/g, '')
    .replace(/[^A-Z0-9_~!#$%&'()@^`{}-]/g, '_');
}

/** Ties the records of a long name to its short one. */
export function shortNameSum(short: Uint8Array): number {
  let sum = 0;
  for (const byte of short) sum = (((sum & 1) << 7) + (sum >> 1) + byte) & 0xff;
  return sum;
}

export interface FatRecord {
  readonly name: string;
  readonly short: string;
  readonly isFolder: boolean;
  readonly cluster: number;
  readonly size: number;
  /** Seconds since 1970. */
  readonly modified: number;
}

export const attribute = { readOnly: 1, volume: 8, folder: 0x10, archive: 0x20 } as const;

/** The records of one entry: the long name's, last part first, then the short one. */
export function entryRecords(record: FatRecord): Uint8Array {
  const { name, short, isFolder } = record;
  const parts = isShort(name) ? 0 : Math.ceil(name.length / UNITS_A_RECORD);
  const bytes = new Uint8Array((parts + 1) * RECORD_BYTES);
  const last = shortRecord(short, isFolder ? attribute.folder : attribute.archive, record);
  bytes.set(last, parts * RECORD_BYTES);
  const sum = shortNameSum(last.subarray(0, SHORT_BYTES));
  for (let part = parts; part > 0; part--) {
    const at = (parts - part) * RECORD_BYTES;
    bytes[at] = part === parts ? part | LAST : part;
    bytes[at + 11] = LONG_NAME_ATTRIBUTES;
    bytes[at + 13] = sum;
    putLongName(bytes, at, name, (part - 1) * UNITS_A_RECORD);
  }
  return bytes;
}

/** Where a long name's record has its thirteen characters of two bytes. */
const UNIT_OFFSETS = [1, 3, 5, 7, 9, 14, 16, 18, 20, 22, 24, 28, 30] as const;

/** Thirteen characters of a name, from one on; a zero ends it and ones fill up what is left. */
function putLongName(bytes: Uint8Array, record: number, name: string, first: number): void {
  UNIT_OFFSETS.forEach((offset, i) => {
    const at = first + i;
    const unit = at < name.length ? name.charCodeAt(at) : at === name.length ? 0 : 0xffff;
    bytes[record + offset] = unit & 0xff;
    bytes[record + offset + 1] = unit >> 8;
  });
}

export function shortRecord(
  short: string,
  attributes: number,
  facts: { readonly cluster: number; readonly size: number; readonly modified: number },
): Uint8Array {
  const { date, time } = fatInstant(facts.modified);
  return new StructWriter(RECORD_BYTES)
    .text(short)
    .u8(attributes)
    .u8(0)
    .u8(0)
    .u16(time)
    .u16(date)
    .u16(date)
    .u16(facts.cluster >>> 16)
    .u16(time)
    .u16(date)
    .u16(facts.cluster & 0xffff)
    .u32(facts.size).bytes;
}

const FIRST_SECOND = Date.UTC(1980, 0, 1) / 1000;
const LAST_SECOND = Date.UTC(2107, 11, 31, 23, 59, 58) / 1000;

/** Date and time as FAT has them: from 1980 to 2107, to two seconds, in UTC here. */
export function fatInstant(seconds: number): { date: number; time: number } {
  const at = new Date(Math.min(Math.max(seconds, FIRST_SECOND), LAST_SECOND) * 1000);
  return {
    date: ((at.getUTCFullYear() - 1980) << 9) | ((at.getUTCMonth() + 1) << 5) | at.getUTCDate(),
    time: (at.getUTCHours() << 11) | (at.getUTCMinutes() << 5) | (at.getUTCSeconds() >> 1),
  };
}

/** The reverse; a date that is none is the first of 1980. */
export function fromFatInstant(date: number, time: number): number {
  const [year, month, day] = [1980 + (date >> 9), (date >> 5) & 15, date & 31];
  if (month < 1 || month > 12 || day < 1) return FIRST_SECOND;
  return Date.UTC(year, month - 1, day, time >> 11, (time >> 5) & 63, (time & 31) * 2) / 1000;
}
