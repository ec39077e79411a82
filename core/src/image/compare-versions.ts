/** Two image versions side by side: what was added, removed and changed, by kind, figure first. */
import { compareInventories, isTimeOnly, type InventoryDifference } from '../inventory/compare.ts';
import { entryName, type Entry, type EntryKind } from '../inventory/entry.ts';

export interface ComparedItem {
  readonly change: 'added' | 'removed' | 'changed' | 'moved';
  readonly name: string;
  /** What it was and what it is; empty where it was not or is not. Of a file the first of its digest. */
  readonly before: string;
  readonly after: string;
  /** Bytes that it had and has; null where it was not or is not, or has no size. */
  readonly sizes: readonly [before: number | null, after: number | null];
  /** Bytes that it grew (+) or shrank (-) by. */
  readonly bytes: number;
}

export interface ComparedGroup {
  readonly kind: EntryKind;
  readonly items: readonly ComparedItem[];
  readonly same: number;
  /** Bytes that all of it grew (+) or shrank (-) by. */
  readonly bytes: number;
}

export interface VersionComparison {
  readonly groups: readonly ComparedGroup[];
  /** Bytes that the second version is larger (+) or smaller (-) by. */
  readonly sizeChange: number;
  /** Whether nothing differs. */
  readonly equal: boolean;
}

/** The order in which an engineer asks: what runs, what was patched, what starts by itself. */
const order: readonly EntryKind[] = [
  'application',
  'update',
  'service',
  'driver',
  'task',
  'shortcut',
  'registry',
  'certificate',
  'file',
  'link',
  'folder',
];

/**
 * Compares two inventories of images. Dates of files do not count: a rebuild sets them anew.
 * `alsoSame` counts entries that are the same in both and in neither list.
 */
export function compareVersions(
  before: readonly Entry[],
  after: readonly Entry[],
  alsoSame: ReadonlyMap<EntryKind, number> = new Map(),
): VersionComparison {
  const items = itemsByKind(compareInventories(before, after, false));
  const totals = new Map(alsoSame);
  for (const entry of after) totals.set(entry.kind, (totals.get(entry.kind) ?? 0) + 1);
  return {
    groups: order.map((kind) => {
      const list = (items.get(kind) ?? []).sort((a, b) => (a.name < b.name ? -1 : 1));
      const touched = list.filter((item) => item.change !== 'removed').length;
      const bytes = list.reduce((sum, item) => sum + item.bytes, 0);
      return { kind, items: list, same: (totals.get(kind) ?? 0) - touched, bytes };
    }),
    sizeChange: sizeOf(after) - sizeOf(before),
    equal: items.size === 0,
  };
}

function itemsByKind(difference: InventoryDifference): Map<EntryKind, ComparedItem[]> {
  const items = new Map<EntryKind, ComparedItem[]>();
  const add = (kind: EntryKind, item: ComparedItem) => {
    const list = items.get(kind);
    if (list) list.push(item);
    else items.set(kind, [item]);
  };
  for (const e of difference.added)
    add(e.kind, {
      change: 'added',
      name: entryName(e),
      before: '',
      after: valueOf(e),
      sizes: [null, sizeOfEntry(e)],
      bytes: bytesOf(e),
    });
  for (const e of difference.removed)
    add(e.kind, {
      change: 'removed',
      name: entryName(e),
      before: valueOf(e),
      after: '',
      sizes: [sizeOfEntry(e), null],
      bytes: -bytesOf(e),
    });
  for (const c of difference.changed) {
    if (isTimeOnly(c)) continue;
    add(c.after.kind, {
      change: 'changed',
      name: entryName(c.after),
      before: valueOf(c.before) + modeOf(c.before, c.after),
      after: valueOf(c.after) + modeOf(c.after, c.before),
      sizes: [sizeOfEntry(c.before), sizeOfEntry(c.after)],
      bytes: bytesOf(c.after) - bytesOf(c.before),
    });
  }
  for (const m of difference.moved)
    add('file', {
      change: 'moved',
      name: m.to.path,
      before: m.from.path + modeOf(m.from, m.to),
      after: m.to.path + modeOf(m.to, m.from),
      sizes: [m.from.size, m.to.size],
      bytes: 0,
    });
  return items;
}

/** Bytes that an inventory accounts for: its files, and its applications where they say. */
export function sizeOf(entries: readonly Entry[]): number {
  let bytes = 0;
  for (const entry of entries) bytes += bytesOf(entry);
  return bytes;
}

function sizeOfEntry(entry: Entry): number | null {
  return entry.kind === 'file' || entry.kind === 'application' ? entry.size : null;
}

function bytesOf(entry: Entry): number {
  return sizeOfEntry(entry) ?? 0;
}

/** The mode of a file where that of the other differs. */
function modeOf(entry: Entry, other: Entry): string {
  return entry.kind === 'file' && other.kind === 'file' && entry.mode !== other.mode
    ? `, mode ${entry.mode}`
    : '';
}

function valueOf(entry: Entry): string {
  switch (entry.kind) {
    case 'application':
    case 'driver':
      return entry.version;
    case 'update':
      return entry.title;
    case 'service':
      return entry.start;
    case 'task':
      return entry.schedule;
    case 'registry':
      return entry.value;
    case 'link':
    case 'shortcut':
      return entry.target;
    case 'file':
      return entry.sha256.slice(0, 8);
    case 'certificate':
      return entry.sha256.slice(0, 12);
    case 'folder':
      return '';
  }
}

const nouns: Record<EntryKind, readonly [string, string]> = {
  application: ['application', 'applications'],
  update: ['update', 'updates'],
  service: ['service', 'services'],
  driver: ['driver', 'drivers'],
  task: ['scheduled task', 'scheduled tasks'],
  shortcut: ['shortcut', 'shortcuts'],
  registry: ['registry value', 'registry values'],
  certificate: ['certificate', 'certificates'],
  file: ['file', 'files'],
  link: ['link', 'links'],
  folder: ['folder', 'folders'],
};

/** `2 applications`, `1 update`. */
export function countOf(kind: EntryKind, count: number): string {
  return `${count.toLocaleString('en-GB')} ${nouns[kind][count === 1 ? 0 : 1]}`;
}

/** The figure in one line: "1 application added, 2 updates added". Folders and files come last. */
export function comparisonHeadline(comparison: VersionComparison): string {
  if (comparison.equal) return 'Nothing differs';
  const parts = comparison.groups.flatMap((group) =>
    (['added', 'changed', 'removed', 'moved'] as const).flatMap((change) => {
      const count = group.items.filter((item) => item.change === change).length;
      return count > 0 ? [`${countOf(group.kind, count)} ${change}`] : [];
    }),
  );
  return parts.slice(0, 4).join(', ');
}
