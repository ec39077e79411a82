/** Inventories on disk: read line by line, written whole. */
import { parseEntry, parseHeader, type InventoryHeader } from '@vatline/core/inventory/text';
import type { Entry } from '@vatline/core/inventory/entry';
import { compareInventories, type InventoryDifference } from '@vatline/core/inventory/compare';
import { compareSortedLines } from '@vatline/core/inventory/compare-sorted-lines';
import { writeAtomic } from './atomic.ts';
import { InputError } from './input-error.ts';
import { byteLines, readLines } from './lines.ts';

const CHUNK = 1 << 20;

export interface InventoryFile {
  readonly header: InventoryHeader;
  /** Reads the entries once, in the order of the file. */
  entries(): Generator<Entry>;
}

/** Twice what a full machine has; whoever brings in more is told so before memory runs out. */
export const MAX_ENTRIES = 2_000_000;

/** Opens an inventory. Throws `InputError` naming the file and the line that cannot be read. */
export function openInventory(path: string): InventoryFile {
  const first = readLines(path).next();
  const header = parseHeader(first.done ? '' : first.value);
  if (!header.ok) throw InputError.from(path, header.error);
  return { header: header.value, entries: () => entriesOf(path) };
}

function* entriesOf(path: string): Generator<Entry> {
  let number = 0;
  for (const line of readLines(path)) {
    if (++number === 1 || line === '' || line === '\r') continue;
    if (number > MAX_ENTRIES + 1)
      throw InputError.of(
        path,
        `is over the limit of ${MAX_ENTRIES.toLocaleString('en-GB')} entries`,
        `line ${number}`,
      );
    yield entryOf(path, line, number);
  }
}

function entryOf(path: string, line: string, number: number): Entry {
  const entry = parseEntry(line, number);
  if (!entry.ok) throw InputError.from(path, entry.error);
  return entry.value;
}

/** The lines after the header as bytes, without empty ones. */
function* entryLines(path: string): Generator<Buffer> {
  let isHeader = true;
  for (const line of byteLines(path)) {
    if (!isHeader && line.length > 0) yield line;
    isHeader = false;
  }
}

export function saveInventory(path: string, header: InventoryHeader, entries: Iterable<Entry>): void {
  writeAtomic(path, (append) => {
    append(JSON.stringify(header) + '\n');
    let block = '';
    for (const entry of entries) {
      block += JSON.stringify(entry) + '\n';
      if (block.length > CHUNK) {
        append(block);
        block = '';
      }
    }
    append(block);
  });
}

/**
 * Compares two inventory files. Files in the order of the format are read in one pass and never
 * held whole; others are read into memory.
 */
export function compareInventoryFiles(before: string, after: string): InventoryDifference {
  const a = openInventory(before);
  const b = openInventory(after);
  const caseSensitive = a.header.caseSensitive && b.header.caseSensitive;
  if (caseSensitive) {
    const paths = { before, after };
    const streamed = compareSortedLines(entryLines(before), entryLines(after), {
      same: (x, y) => x.equals(y),
      // The header is the first line of the file.
      parse: (line, number, of) => entryOf(paths[of], line.toString('utf8'), number + 1),
    });
    if (streamed.ok) return streamed.value;
  }
  return compareInventories([...a.entries()], [...b.entries()], caseSensitive);
}
