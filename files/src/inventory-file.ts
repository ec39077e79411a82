/** Inventories on disk: read line by line, written whole. */
import { closeSync, openSync, readSync } from 'node:fs';
import { parseEntry, parseHeader, type Entry, type InventoryHeader } from '@vatline/core/image/inventory';
import { compareInventories, compareSorted } from '@vatline/core/image/compare-inventories';
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
  /** Reads the entries once, in the order of the file. Lines that `recent` knows are not read again. */
  entries(recent?: RecentLines): Generator<Entry>;
}

/** Opens an inventory. Throws `InputError` naming the file and the line that cannot be read. */
export function openInventory(path: string): InventoryFile {
  const first = readLines(path).next();
  const header = parseHeader(first.done ? '' : first.value);
  if (!header.ok) throw InputError.from(path, header.error);
  return { header: header.value, entries: (recent) => entriesOf(path, recent) };
}

/**
 * The last lines that were read. Two inventories that are read side by side are mostly the same,
 * so every second line need not be parsed and checked again.
 */
class RecentLines {
  private readonly lines = new Map<string, Entry>();

  read(line: string, parse: () => Entry): Entry {
    const known = this.lines.get(line);
    if (known) {
      this.lines.delete(line);
      return known;
    }
    if (this.lines.size >= RECENT) this.lines.clear();
    const entry = parse();
    this.lines.set(line, entry);
    return entry;
  }
}

const RECENT = 512;

function* entriesOf(path: string, recent?: RecentLines): Generator<Entry> {
  let number = 0;
  const parse = (line: string): Entry => {
    const entry = parseEntry(line, number);
    if (!entry.ok) throw InputError.from(path, entry.error);
    return entry.value;
  };
  for (const line of readLines(path)) {
    if (++number === 1 || line === '' || line === '\r') continue;
    yield recent ? recent.read(line, () => parse(line)) : parse(line);
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
    const recent = new RecentLines();
    const streamed = compareSorted(a.entries(recent), b.entries(recent));
    if (streamed.ok) return streamed.value;
  }
  return compareInventories([...a.entries()], [...b.entries()], caseSensitive);
}
