/**
 * Headers of tar entries (POSIX.1-2001 pax interchange format), as bytes. What the fields of the
 * old header cannot hold goes into an extended header before it.
 */
import { joined } from '../pieces.ts';
import { NO_OWNER, type TreeEntry } from '../tree.ts';
import { ATTRIBUTE_KEY, TAR_BLOCK, tarPadding, typeFlags } from './format.ts';

/** As in a tree; `size` is what follows, `target` also the path of another that is the same file. */
export interface TarEntry extends Omit<TreeEntry, 'kind' | 'sameAs'> {
  readonly type: 'file' | 'folder' | 'link' | 'same';
}

const NAME_BYTES = 100;
/** The largest numbers that eleven and seven octal digits hold: sizes and dates; owners. */
const MOST_11_DIGITS = 8 ** 11 - 1;
const MOST_7_DIGITS = 8 ** 7 - 1;
const encoder = new TextEncoder();

/** The header of an entry: one block, or three and more with an extended header. */
export function tarHeader(entry: TarEntry): Uint8Array {
  const path = entry.type === 'folder' ? `${entry.path}/` : entry.path;
  const plain = block(entry, path, typeFlags[entry.type]);
  const records = recordsOf(entry, path);
  if (records.length === 0) return plain;
  const body = joined(records);
  const about = { ...entry, size: body.length, mode: 0o644, target: '', owner: NO_OWNER };
  const extended = block(about, 'PaxHeader', typeFlags.extended);
  return joined([extended, body, new Uint8Array(tarPadding(body.length)), plain]);
}

function recordsOf(entry: TarEntry, path: string): Uint8Array[] {
  const { target, size, modified, nanos = 0, owner = NO_OWNER, attributes = [] } = entry;
  const records: Uint8Array[] = [];
  const add = (key: string, value: string) => records.push(paxRecord(key, encoder.encode(value)));
  if (!fits(path)) add('path', path);
  if (target !== undefined && !fits(target)) add('linkpath', target);
  if (size > MOST_11_DIGITS) add('size', String(size));
  if (nanos !== 0 || modified < 0 || modified > MOST_11_DIGITS) add('mtime', decimal(modified, nanos));
  if (owner.user > MOST_7_DIGITS) add('uid', String(owner.user));
  if (owner.group > MOST_7_DIGITS) add('gid', String(owner.group));
  for (const { name, value } of attributes) records.push(paxRecord(`${ATTRIBUTE_KEY}${name}`, value));
  return records;
}

function fits(text: string): boolean {
  return text.length <= NAME_BYTES && /^[\x20-\x7e]*$/.test(text);
}

/** Seconds and the nanoseconds after them as one decimal: -2 and 500,000,000 are `-1.5`. */
function decimal(seconds: number, nanos: number): string {
  if (nanos === 0) return String(seconds);
  const isBefore = seconds < 0;
  const [whole, part] = isBefore ? [-seconds - 1, 1e9 - nanos] : [seconds, nanos];
  return `${isBefore ? '-' : ''}${whole}.${String(part).padStart(9, '0').replace(/0+$/, '')}`;
}

/** `<length> <key>=<value>\n`, where the length counts itself. */
function paxRecord(key: string, value: Uint8Array): Uint8Array {
  const start = encoder.encode(` ${key}=`);
  const bytes = start.length + value.length + 1;
  let length = bytes + String(bytes).length;
  if (bytes + String(length).length !== length) length = bytes + String(length).length;
  return joined([encoder.encode(String(length)), start, value, encoder.encode('\n')]);
}

function block(entry: TarEntry, path: string, type: string): Uint8Array {
  const header = new Uint8Array(TAR_BLOCK);
  const { user, group } = entry.owner ?? NO_OWNER;
  const text = (at: number, width: number, value: string) => {
    // Names that are not ASCII come with an extended header, which counts instead.
    const end = Math.min(width, value.length);
    for (let i = 0; i < end; i++) header[at + i] = value.charCodeAt(i);
  };
  const octal = (at: number, width: number, value: number) =>
    text(
      at,
      width,
      Math.min(Math.max(0, value), 8 ** (width - 1) - 1)
        .toString(8)
        .padStart(width - 1, '0'),
    );
  text(0, NAME_BYTES, path);
  octal(100, 8, entry.mode);
  octal(108, 8, user);
  octal(116, 8, group);
  octal(124, 12, entry.size);
  octal(136, 12, entry.modified);
  text(148, 8, '        ');
  text(156, 1, type);
  text(157, NAME_BYTES, entry.target ?? '');
  text(257, 8, 'ustar\u000000');
  let sum = 0;
  for (const byte of header) sum += byte;
  text(148, 8, `${sum.toString(8).padStart(6, '0')}\0 `);
  return header;
}
