/**
 * What differs between two inventories that are still texts. Nearly all lines of two versions are the
 * same, and a line need not be read to be known as the same.
 */
import { ok, type Result } from '../result.ts';
import { entryKinds, type Entry, type EntryKind } from './entry.ts';
import { parseEntry, parseHeader } from './text.ts';

export interface DifferingLines {
  /** Lines that the other inventory does not have, in their order. */
  readonly before: readonly string[];
  readonly after: readonly string[];
  /** How many lines both have, by kind. */
  readonly same: Readonly<Partial<Record<EntryKind, number>>>;
}

/** An empty text is an empty inventory. Error: a text that does not begin with the header of an inventory. */
export function differingLines(before: string, after: string): Result<DifferingLines> {
  const old = linesOf(before);
  if (!old.ok) return old;
  const now = linesOf(after);
  if (!now.ok) return now;
  const left = new Set(old.value);
  const same: Partial<Record<EntryKind, number>> = {};
  const added: string[] = [];
  for (const line of now.value) {
    if (!left.delete(line)) added.push(line);
    else {
      const kind = kindOf(line);
      if (kind) same[kind] = (same[kind] ?? 0) + 1;
    }
  }
  return ok({ before: [...left], after: added, same });
}

export interface DifferingEntries {
  readonly before: readonly Entry[];
  readonly after: readonly Entry[];
  readonly same: ReadonlyMap<EntryKind, number>;
}

/** Reads the lines that differ. Errors name the place among them: not JSON, an unknown kind, a field missing. */
export function readDiffering({ before, after, same }: DifferingLines): Result<DifferingEntries> {
  const old = entriesOf(before);
  if (!old.ok) return old;
  const now = entriesOf(after);
  if (!now.ok) return now;
  const counts = new Map(Object.entries(same)) as Map<EntryKind, number>;
  return ok({ before: old.value, after: now.value, same: counts });
}

function entriesOf(lines: readonly string[]): Result<Entry[]> {
  const entries: Entry[] = [];
  for (const [i, line] of lines.entries()) {
    const entry = parseEntry(line, i + 1);
    if (!entry.ok) return entry;
    entries.push(entry.value);
  }
  return ok(entries);
}

/** The lines after the header. */
function linesOf(text: string): Result<string[]> {
  if (text === '') return ok([]);
  const first = text.indexOf('\n');
  const header = parseHeader(first < 0 ? text : text.slice(0, first));
  if (!header.ok) return header;
  const lines = first < 0 ? [] : text.slice(first + 1).split('\n');
  return ok(lines.filter((line) => line !== '' && line !== '\r'));
}

const known = new Set<string>(entryKinds);

/** The kind is what each line begins with, as inventories are written; otherwise the line is read. */
function kindOf(line: string): EntryKind | undefined {
  const quick = line.startsWith('{"kind":"') ? line.slice(9, line.indexOf('"', 9)) : '';
  if (known.has(quick)) return quick as EntryKind;
  const entry = parseEntry(line, 0);
  return entry.ok ? entry.value.kind : undefined;
}
