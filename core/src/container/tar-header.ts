/**
 * Headers of tar entries (POSIX.1-2001 pax interchange format), as bytes. Names that the 100 bytes
 * of the old header cannot hold, or that are not ASCII, go into an extended header before it.
 */

export interface TarEntry {
  readonly path: string;
  readonly type: 'file' | 'folder' | 'link' | 'same';
  /** Bytes that follow; 0 for folders and links, and for what is the same file as another. */
  readonly size: number;
  readonly mode: number;
  /** Seconds since 1970. */
  readonly modified: number;
  /** Target of a link; path of the other that is the same file. */
  readonly target?: string;
}

/** Everything in a tar file comes in blocks of this many bytes. */
export const TAR_BLOCK = 512;

const NAME_BYTES = 100;
/** The largest size that eleven octal digits hold. */
const MAX_OCTAL_SIZE = 8 ** 11 - 1;
const typeFlags = { file: '0', same: '1', link: '2', folder: '5', extended: 'x' } as const;
const encoder = new TextEncoder();

/** The header of an entry: one block, or three and more with an extended header. Owner is 0:0. */
export function tarHeader(entry: TarEntry): Uint8Array {
  const path = entry.type === 'folder' ? `${entry.path}/` : entry.path;
  const records: string[] = [];
  if (!fits(path)) records.push(paxRecord('path', path));
  if (entry.target !== undefined && !fits(entry.target)) records.push(paxRecord('linkpath', entry.target));
  if (entry.size > MAX_OCTAL_SIZE) records.push(paxRecord('size', String(entry.size)));
  const plain = block(entry, path, typeFlags[entry.type]);
  if (records.length === 0) return plain;
  const body = encoder.encode(records.join(''));
  const extended = block(
    { ...entry, size: body.length, mode: 0o644, target: '' },
    'PaxHeader',
    typeFlags.extended,
  );
  const all = new Uint8Array(TAR_BLOCK + body.length + tarPadding(body.length) + TAR_BLOCK);
  all.set(extended, 0);
  all.set(body, TAR_BLOCK);
  all.set(plain, all.length - TAR_BLOCK);
  return all;
}

/** Zero bytes that fill up the last block after so many bytes of content. */
export function tarPadding(size: number): number {
  return (TAR_BLOCK - (size % TAR_BLOCK)) % TAR_BLOCK;
}

function fits(text: string): boolean {
  return text.length <= NAME_BYTES && /^[\x20-\x7e]*$/.test(text);
}

/** `<length> <key>=<value>\n`, where the length counts itself. */
function paxRecord(key: string, value: string): string {
  const rest = ` ${key}=${value}\n`;
  const bytes = encoder.encode(rest).length;
  let length = bytes + String(bytes).length;
  if (bytes + String(length).length !== length) length = bytes + String(length).length;
  return `${length}${rest}`;
}

function block(entry: TarEntry, path: string, type: string): Uint8Array {
  const header = new Uint8Array(TAR_BLOCK);
  const text = (at: number, width: number, value: string) => {
    // Names that are not ASCII come with an extended header, which counts instead.
    const end = Math.min(width, value.length);
    for (let i = 0; i < end; i++) header[at + i] = value.charCodeAt(i);
  };
  const octal = (at: number, width: number, value: number) =>
    text(at, width, value.toString(8).padStart(width - 1, '0'));
  text(0, NAME_BYTES, path);
  octal(100, 8, entry.mode);
  octal(108, 8, 0);
  octal(116, 8, 0);
  octal(124, 12, Math.min(entry.size, MAX_OCTAL_SIZE));
  octal(136, 12, Math.max(0, entry.modified));
  text(148, 8, '        ');
  text(156, 1, type);
  text(157, NAME_BYTES, entry.target ?? '');
  text(257, 8, 'ustar\u000000');
  let sum = 0;
  for (const byte of header) sum += byte;
  text(148, 8, `${sum.toString(8).padStart(6, '0')}\0 `);
  return header;
}
