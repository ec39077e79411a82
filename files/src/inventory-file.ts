/** Inventories on disk: read line by line, written whole. */
import { closeSync, openSync, readSync } from 'node:fs';
import { parseEntry, parseHeader, type Entry, type InventoryHeader } from '@vatline/core/image/inventory';
import { compareInventories } from '@vatline/core/image/compare-inventories';
import { compareSortedLines } from '@vatline/core/image/compare-sorted-lines';
import type { InventoryDifference } from '@vatline/core/image/compare-inventories';
import { writeAtomic } from './atomic.ts';
import { InputError } from './input-error.ts';

const CHUNK = 1 << 20;

/** The lines of a UTF-8 file, read in pieces of 1 MB. */
export function* readLines(path: string): Generator<string> {
  const handle = openSync(path, 'r');
  const buffer = Buffer.allocUnsafe(CHUNK);
  const decoder = new TextDecoder('utf-8');
  let rest = '';
  try {
    for (let n = readSync(handle, buffer); n > 0; n = readSync(handle, buffer)) {
      const lines = (rest + decoder.decode(buffer.subarray(0, n), { stream: true })).split('\n');
      rest = lines.pop() ?? '';
      yield* lines;
    }
    if (rest !== '') yield rest;
  } finally {
    closeSync(handle);
  }
}

export interface InventoryFile {
  readonly header: InventoryHeader;
  /** Reads the entries once, in the order of the file. */
  entries(): Generator<Entry>;
}

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
    yield entryOf(path, line, number);
  }
}

function entryOf(path: string, line: string, number: number): Entry {
  const entry = parseEntry(line, number);
  if (!entry.ok) throw InputError.from(path, entry.error);
  return entry.value;
}

const NEW_LINE = 10;

/** The lines after the header as bytes, without the empty ones at the end. They stay as they are. */
function* byteLines(path: string): Generator<Buffer> {
  const handle = openSync(path, 'r');
  let rest: Buffer = Buffer.alloc(0);
  let isHeader = true;
  try {
    for (;;) {
      // A new piece each time: lines of the last one may still be looked at.
      const piece = Buffer.allocUnsafeSlow(CHUNK);
      const n = readSync(handle, piece);
      if (n === 0) break;
      const bytes = rest.length === 0 ? piece.subarray(0, n) : Buffer.concat([rest, piece.subarray(0, n)]);
      let start = 0;
      for (let end = bytes.indexOf(NEW_LINE); end >= 0; end = bytes.indexOf(NEW_LINE, start)) {
        if (isHeader) isHeader = false;
        else if (end > start) yield bytes.subarray(start, end);
        start = end + 1;
      }
      rest = bytes.subarray(start);
    }
    if (rest.length > 0 && !isHeader) yield rest;
  } finally {
    closeSync(handle);
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
    const streamed = compareSortedLines(byteLines(before), byteLines(after), {
      same: (x, y) => x.equals(y),
      // The header is the first line of the file.
      parse: (line, number, of) => entryOf(paths[of], line.toString('utf8'), number + 1),
    });
    if (streamed.ok) return streamed.value;
  }
  return compareInventories([...a.entries()], [...b.entries()], caseSensitive);
}
