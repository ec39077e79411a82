/**
 * What lies between two inventories that come line by line in the order of the format. A line that
 * both have is never read: nearly all lines of two looks at one machine are the same.
 */
import { changedFields, withMoves, type Changed, type InventoryDifference } from './compare.ts';
import { compareBytes, entryKey, type Entry } from './entry.ts';
import { ok, refuse, type Result } from '../result.ts';

export interface LineReader<L> {
  /** Whether two lines are the same, letter by letter. */
  same(a: L, b: L): boolean;
  /** The entry of a line of one of the two, the first being 1. May throw for a line that cannot be read. */
  parse(line: L, number: number, of: 'before' | 'after'): Entry;
}

/**
 * Compares in one pass, in memory proportional to the differences. Paths are told apart by case.
 *
 * Error: an inventory is out of order where the two differ; read both and use `compareInventories`.
 */
export function compareSortedLines<L>(
  before: Iterable<L>,
  after: Iterable<L>,
  reader: LineReader<L>,
): Result<InventoryDifference> {
  const added: Entry[] = [];
  const removed: Entry[] = [];
  const changed: Changed[] = [];
  let same = 0;
  const left = new LineCursor(before, reader, 'before');
  const right = new LineCursor(after, reader, 'after');
  while (left.line !== undefined || right.line !== undefined) {
    if (left.line !== undefined && right.line !== undefined && reader.same(left.line, right.line)) {
      same++;
      left.advance();
      right.advance();
      continue;
    }
    const [old, now] = [left.entry(), right.entry()];
    if (left.isOutOfOrder || right.isOutOfOrder)
      return refuse(left.isOutOfOrder ? 'before' : 'after', 'is not in the order of the format');
    const order = !old ? 1 : !now ? -1 : compareEntries(old, now);
    if (order < 0) removed.push(old as Entry);
    else if (order > 0) added.push(now as Entry);
    else {
      const fields = changedFields(old as Entry, now as Entry);
      if (fields.length === 0) same++;
      else changed.push({ before: old as Entry, after: now as Entry, fields });
    }
    if (order <= 0) left.advance();
    if (order >= 0) right.advance();
  }
  return ok(withMoves({ added, removed, changed, same }));
}

function compareEntries(a: Entry, b: Entry): number {
  return compareBytes(a.kind, b.kind) || compareBytes(entryKey(a), entryKey(b));
}

/** Stands on a line; it is read only when it is asked for, and then it must come after the line before it. */
class LineCursor<L> {
  line: L | undefined;
  isOutOfOrder = false;
  private previous: L | undefined;
  private number = 0;
  private read: Entry | undefined;
  private readBefore: Entry | undefined;
  private readonly iterator: Iterator<L>;

  constructor(
    source: Iterable<L>,
    private readonly reader: LineReader<L>,
    private readonly of: 'before' | 'after',
  ) {
    this.iterator = source[Symbol.iterator]();
    this.advance();
  }

  advance(): void {
    const next = this.iterator.next();
    this.previous = this.line;
    this.readBefore = this.read;
    this.line = next.done ? undefined : next.value;
    this.read = undefined;
    this.number++;
  }

  entry(): Entry | undefined {
    if (this.line === undefined || this.read) return this.read;
    this.read = this.reader.parse(this.line, this.number, this.of);
    if (this.previous !== undefined) {
      const before = this.readBefore ?? this.reader.parse(this.previous, this.number - 1, this.of);
      this.isOutOfOrder ||= compareEntries(before, this.read) > 0;
    }
    return this.read;
  }
}
