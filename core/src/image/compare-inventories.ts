/** What lies between two inventories: added, removed, changed, moved. */
import {
  compareBytes,
  compareEntries,
  entryKey,
  valueFields,
  type Entry,
  type FileEntry,
} from './inventory.ts';
import { ok, refuse, type Result } from '../result.ts';

export interface Changed {
  readonly before: Entry;
  readonly after: Entry;
  /** The fields that differ, in the order of the format. */
  readonly fields: readonly string[];
}

export interface Moved {
  readonly from: FileEntry;
  readonly to: FileEntry;
}

export interface InventoryDifference {
  readonly added: Entry[];
  readonly removed: Entry[];
  readonly changed: Changed[];
  readonly moved: Moved[];
  /** Entries that are the same in both. */
  readonly same: number;
}

/**
 * Compares two inventories whose entries come in the order of the format, in one pass and in
 * memory proportional to the differences.
 *
 * Error: an inventory is out of order; sort it and call again. Paths are compared without regard
 * to case when `caseSensitive` is false, in which case both must be sorted by folded key
 * (`sortFolded`).
 */
export function compareSorted(
  before: Iterable<Entry>,
  after: Iterable<Entry>,
  caseSensitive: boolean,
): Result<InventoryDifference> {
  const difference = { added: [] as Entry[], removed: [] as Entry[], changed: [] as Changed[], same: 0 };
  const left = new Cursor(before, caseSensitive);
  const right = new Cursor(after, caseSensitive);
  while (left.entry || right.entry) {
    const order = compareCursors(left, right);
    if (order < 0) {
      difference.removed.push(left.entry as Entry);
      left.advance();
    } else if (order > 0) {
      difference.added.push(right.entry as Entry);
      right.advance();
    } else {
      const fields = changedFields(left.entry as Entry, right.entry as Entry);
      if (fields.length === 0) difference.same++;
      else difference.changed.push({ before: left.entry as Entry, after: right.entry as Entry, fields });
      left.advance();
      right.advance();
    }
    if (left.disorder || right.disorder) {
      return refuse(left.disorder ? 'before' : 'after', 'is not in the order of the format');
    }
  }
  return ok(withMoves(difference));
}

/** Compares two inventories in any order; sorts them first where needed. */
export function compareInventories(
  before: readonly Entry[],
  after: readonly Entry[],
  caseSensitive: boolean,
): InventoryDifference {
  const sort = (entries: readonly Entry[]) =>
    caseSensitive ? [...entries].sort(compareEntries) : sortFolded(entries);
  const result = compareSorted(sort(before), sort(after), caseSensitive);
  if (!result.ok) throw new Error('sorted entries are in order');
  return result.value;
}

/** Sorts entries as an inventory whose paths do not tell case apart. */
export function sortFolded(entries: readonly Entry[]): Entry[] {
  const keyed = entries.map((entry) => ({ entry, key: entryKey(entry).toLowerCase() }));
  const ordered = keyed.every((row, i) => {
    const last = keyed[i - 1];
    return !last || (compareBytes(last.entry.kind, row.entry.kind) || compareBytes(last.key, row.key)) <= 0;
  });
  if (ordered) return [...entries];
  keyed.sort((a, b) => compareBytes(a.entry.kind, b.entry.kind) || compareBytes(a.key, b.key));
  return keyed.map((row) => row.entry);
}

class Cursor {
  entry: Entry | undefined;
  key = '';
  disorder = false;
  private readonly iterator: Iterator<Entry>;

  constructor(
    source: Iterable<Entry>,
    private readonly caseSensitive: boolean,
  ) {
    this.iterator = source[Symbol.iterator]();
    this.advance();
  }

  advance(): void {
    const next = this.iterator.next();
    const kind = this.entry?.kind;
    const key = this.key;
    this.entry = next.done ? undefined : next.value;
    if (!this.entry) return;
    const own = entryKey(this.entry);
    this.key = this.caseSensitive ? own : own.toLowerCase();
    if (kind !== undefined && (compareBytes(kind, this.entry.kind) || compareBytes(key, this.key)) > 0) {
      this.disorder = true;
    }
  }
}

function compareCursors(left: Cursor, right: Cursor): number {
  if (!left.entry) return 1;
  if (!right.entry) return -1;
  return compareBytes(left.entry.kind, right.entry.kind) || compareBytes(left.key, right.key);
}

function changedFields(before: Entry, after: Entry): string[] {
  if (before === after) return [];
  const a = before as unknown as Record<string, unknown>;
  const b = after as unknown as Record<string, unknown>;
  return valueFields(before.kind).filter((field) => a[field] !== b[field]);
}

/**
 * Pairs a removed and an added file of the same digest and size: one old path and one new, each
 * used once; where there are several, those with the longest common end of their paths. Empty
 * files are all alike and never count as moved.
 */
function withMoves(difference: Omit<InventoryDifference, 'moved'>): InventoryDifference {
  const removedByContent = new Map<string, FileEntry[]>();
  for (const entry of difference.removed) {
    if (entry.kind !== 'file' || entry.size === 0) continue;
    const content = `${entry.sha256}:${entry.size}`;
    const list = removedByContent.get(content);
    if (list) list.push(entry);
    else removedByContent.set(content, [entry]);
  }
  const moved: Moved[] = [];
  const gone = new Set<Entry>();
  for (const entry of removedByContent.size > 0 ? difference.added : []) {
    if (entry.kind !== 'file') continue;
    const sources = removedByContent.get(`${entry.sha256}:${entry.size}`);
    const from = sources && takeNearest(sources, entry.path);
    if (!from) continue;
    moved.push({ from, to: entry });
    gone.add(from).add(entry);
  }
  if (moved.length === 0) return { ...difference, moved };
  return {
    ...difference,
    added: difference.added.filter((entry) => !gone.has(entry)),
    removed: difference.removed.filter((entry) => !gone.has(entry)),
    moved,
  };
}

function takeNearest(sources: FileEntry[], path: string): FileEntry | undefined {
  let best = 0;
  let longest = -1;
  sources.forEach((source, i) => {
    const common = commonEnd(source.path, path);
    if (common > longest) [longest, best] = [common, i];
  });
  return sources.splice(best, 1)[0];
}

function commonEnd(a: string, b: string): number {
  let n = 0;
  while (n < a.length && n < b.length && a[a.length - 1 - n] === b[b.length - 1 - n]) n++;
  return n;
}
