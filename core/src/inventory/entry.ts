/** The entries of an inventory: what is on a machine or in a folder tree. See `docs/inventory.md`. */

/** A file. Size in bytes, mode as four octal digits, modified as ISO 8601. */
export interface FileEntry {
  readonly kind: 'file';
  readonly path: string;
  readonly size: number;
  readonly sha256: string;
  readonly mode: string;
  readonly modified: string;
}
export interface LinkEntry {
  readonly kind: 'link';
  readonly path: string;
  readonly target: string;
}
export interface FolderEntry {
  readonly kind: 'folder';
  readonly path: string;
}
export interface RegistryEntry {
  readonly kind: 'registry';
  readonly key: string;
  readonly name: string;
  readonly type: string;
  readonly value: string;
}
/** An installed application; size in bytes. */
export interface ApplicationEntry {
  readonly kind: 'application';
  readonly publisher: string;
  readonly name: string;
  readonly version: string;
  readonly size: number;
}
export interface UpdateEntry {
  readonly kind: 'update';
  readonly name: string;
  readonly title: string;
}
export interface ServiceEntry {
  readonly kind: 'service';
  readonly name: string;
  readonly start: string;
  readonly image: string;
}
export interface DriverEntry {
  readonly kind: 'driver';
  readonly name: string;
  readonly version: string;
}
export interface TaskEntry {
  readonly kind: 'task';
  readonly name: string;
  readonly run: string;
  readonly schedule: string;
}
export interface ShortcutEntry {
  readonly kind: 'shortcut';
  readonly path: string;
  readonly target: string;
}

/** A certificate in one of the machine's stores. */
export interface CertificateEntry {
  readonly kind: 'certificate';
  readonly store: string;
  readonly subject: string;
  readonly sha256: string;
}

export type Entry =
  | FileEntry
  | LinkEntry
  | FolderEntry
  | RegistryEntry
  | ApplicationEntry
  | UpdateEntry
  | ServiceEntry
  | DriverEntry
  | TaskEntry
  | ShortcutEntry
  | CertificateEntry;
export type EntryKind = Entry['kind'];

/** The fields of each kind: those that make its key, then the others. All are required. */
export const entryShapes: Record<
  EntryKind,
  { key: readonly string[]; texts: readonly string[]; numbers: readonly string[] }
> = {
  application: { key: ['publisher', 'name'], texts: ['version'], numbers: ['size'] },
  certificate: { key: ['store', 'subject'], texts: ['sha256'], numbers: [] },
  driver: { key: ['name'], texts: ['version'], numbers: [] },
  file: { key: ['path'], texts: ['sha256', 'mode', 'modified'], numbers: ['size'] },
  folder: { key: ['path'], texts: [], numbers: [] },
  link: { key: ['path'], texts: ['target'], numbers: [] },
  registry: { key: ['key', 'name'], texts: ['type', 'value'], numbers: [] },
  service: { key: ['name'], texts: ['start', 'image'], numbers: [] },
  shortcut: { key: ['path'], texts: ['target'], numbers: [] },
  task: { key: ['name'], texts: ['run', 'schedule'], numbers: [] },
  update: { key: ['name'], texts: ['title'], numbers: [] },
};

export const entryKinds = Object.keys(entryShapes) as EntryKind[];

/** The fields in which two entries of a kind can differ while being the same thing. */
export function valueFields(kind: EntryKind): readonly string[] {
  return [...entryShapes[kind].texts, ...entryShapes[kind].numbers];
}

/** What an entry is called on screen: its path, or its name with what it belongs to. */
export function entryName(entry: Entry): string {
  switch (entry.kind) {
    case 'file':
    case 'link':
    case 'folder':
    case 'shortcut':
      return entry.path;
    case 'registry':
      return entry.name === '' ? entry.key : `${entry.key}\\${entry.name}`;
    case 'application':
      // Most are called after who made them; saying it twice helps nobody.
      return entry.name.toLowerCase().startsWith(entry.publisher.toLowerCase())
        ? entry.name
        : `${entry.publisher} ${entry.name}`;
    case 'certificate':
      return `${entry.subject} in ${entry.store}`;
    default:
      return entry.name;
  }
}

/** The part of an entry's identity that orders it within its kind. */
export function entryKey(entry: Entry): string {
  switch (entry.kind) {
    case 'registry':
      return `${entry.key}\0${entry.name}`;
    case 'application':
      return `${entry.publisher}\0${entry.name}`;
    case 'certificate':
      return `${entry.store}\0${entry.subject}`;
    case 'file':
    case 'link':
    case 'folder':
    case 'shortcut':
      return entry.path;
    default:
      return entry.name;
  }
}

/** Orders two texts as their UTF-8 bytes would be, without encoding them. */
export function compareBytes(a: string, b: string): number {
  if (a === b) return 0;
  const order = a < b ? -1 : 1;
  // Code units order as bytes do but for surrogates, which few names hold.
  if (!surrogate.test(a) && !surrogate.test(b)) return order;
  const length = Math.min(a.length, b.length);
  for (let i = 0; i < length; i++) {
    const x = a.charCodeAt(i);
    const y = b.charCodeAt(i);
    if (x !== y) return x >= 0xd800 && y >= 0xd800 ? surrogatesLast(x) - surrogatesLast(y) : x - y;
  }
  return a.length - b.length;
}

const surrogate = /[\ud800-\udfff]/;

/** UTF-16 puts surrogates before U+E000; UTF-8 puts what they encode after U+FFFF. */
function surrogatesLast(unit: number): number {
  return unit >= 0xe000 ? unit - 0x800 : unit + 0x2000;
}

/** The order of an inventory: by kind, then by key, in byte order. */
export function compareEntries(a: Entry, b: Entry): number {
  return compareBytes(a.kind, b.kind) || compareBytes(entryKey(a), entryKey(b));
}
