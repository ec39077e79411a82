/** What lies between two inventories: added, removed, changed, moved. */
import { compareBytes, entryKey, valueFields, type Entry, type FileEntry } from './entry.ts';

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
 * Compares two inventories in any order, both held in memory, in time proportional to their length.
 * An entry that is the same object in both is the same. Paths are compared without regard to case
 * unless `caseSensitive`; where an inventory tells apart what the other does not, they pair in order.
 */
export function compareInventories(
  before: readonly Entry[],
  after: readonly Entry[],
  caseSensitive: boolean,
): InventoryDifference {
  const [old, now] = [new Set(before), new Set(after)];
  const left = before.filter((entry) => !now.has(entry));
  const right = after.filter((entry) => !old.has(entry));
  const identity = (entry: Entry) => {
    const key = `${entry.kind}\0${entryKey(entry)}`;
    return caseSensitive ? key : key.toLowerCase();
  };
  const waiting = new Map<string, Entry[]>();
  for (const entry of left) {
    const list = waiting.get(identity(entry));
    if (list) list.push(entry);
    else waiting.set(identity(entry), [entry]);
  }
  const added: Entry[] = [];
  const changed: Changed[] = [];
  let same = before.length - left.length;
  for (const entry of right) {
    const partner = waiting.get(identity(entry))?.shift();
    if (!partner) added.push(entry);
    else {
      const fields = changedFields(partner, entry);
      if (fields.length === 0) same++;
      else changed.push({ before: partner, after: entry, fields });
    }
  }
  const order = (a: Entry, b: Entry) => compareBytes(identity(a), identity(b));
  return withMoves({
    added: added.sort(order),
    removed: [...waiting.values()].flat().sort(order),
    changed: changed.sort((a, b) => order(a.after, b.after)),
    same,
  });
}

/** The fields in which two entries of one identity differ. */
export function changedFields(before: Entry, after: Entry): string[] {
  if (before === after) return [];
  const a = before as unknown as Record<string, unknown>;
  const b = after as unknown as Record<string, unknown>;
  return valueFields(before.kind).filter((field) => a[field] !== b[field]);
}

/** Whether nothing but its time differs: an upgrade writes many files anew as they were. */
export function isTimeOnly({ fields }: Pick<Changed, 'fields'>): boolean {
  return fields.every((field) => field === 'modified');
}

/** What of a moved file differs besides its path and time: `mode 0644 to 0755`, or nothing. */
export function movedChange({ from, to }: Moved): string {
  return from.mode === to.mode ? '' : `mode ${from.mode} to ${to.mode}`;
}

/**
 * Pairs a removed and an added file of the same digest and size: one old path and one new, each
 * used once; where there are several, those with the longest common end of their paths. Empty
 * files are all alike and never count as moved.
 */
export function withMoves(difference: Omit<InventoryDifference, 'moved'>): InventoryDifference {
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
