/**
 * Inventories as text: one entry a line (JSON Lines), sorted by kind and key in byte order.
 * See `docs/inventory.md`.
 */
import { formatInstant } from '../time/instant.ts';
import { ok, refuse, type Result } from '../result.ts';
import { compareEntries, entryKinds, entryShapes, type Entry, type EntryKind } from './entry.ts';

export interface InventoryHeader {
  /** Version of the format; 1. */
  readonly inventory: 1;
  /** What was looked at. */
  readonly root: string;
  /** ISO 8601 instant. */
  readonly takenAt: string;
  /** Whether two paths that differ in case only are two entries. */
  readonly caseSensitive: boolean;
}

/** Reads the first line. Errors: not JSON, not a header, a version we do not know. */
export function parseHeader(line: string): Result<InventoryHeader> {
  const value = parseObject(line);
  if (!value) return refuse('line 1', 'is not the header of an inventory: it is not a JSON object');
  if (value['inventory'] !== 1) {
    return refuse('line 1', 'is not the header of an inventory: it has no "inventory":1');
  }
  if (typeof value['root'] !== 'string' || typeof value['takenAt'] !== 'string') {
    return refuse('line 1', 'lacks "root" or "takenAt"');
  }
  if (typeof value['caseSensitive'] !== 'boolean') return refuse('line 1', 'lacks "caseSensitive"');
  return ok(value as unknown as InventoryHeader);
}

/** Reads one entry. Errors name the line: not JSON, an unknown kind, a field missing or of the wrong type. */
export function parseEntry(text: string, line: number): Result<Entry> {
  const where = `line ${line}`;
  const value = parseObject(text);
  if (!value) return refuse(where, 'is not a JSON object');
  const kind = value['kind'];
  const shape =
    typeof kind === 'string' && Object.hasOwn(entryShapes, kind) ? entryShapes[kind as EntryKind] : undefined;
  if (!shape)
    return refuse(where, `has the unknown kind ${JSON.stringify(kind)}; known are ${entryKinds.join(', ')}`);
  for (const field of shape.key) {
    if (typeof value[field] !== 'string')
      return refuse(where, `is a ${String(kind)} without a text "${field}"`);
  }
  for (const field of shape.texts) {
    if (typeof value[field] !== 'string')
      return refuse(where, `is a ${String(kind)} without a text "${field}"`);
  }
  for (const field of shape.numbers) {
    const number = value[field];
    if (typeof number !== 'number' || !Number.isSafeInteger(number) || number < 0) {
      return refuse(where, `is a ${String(kind)} whose "${field}" is not a whole number of at least 0`);
    }
  }
  return ok(value as unknown as Entry);
}

function parseObject(text: string): Record<string, unknown> | undefined {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === 'object' && value !== null && !Array.isArray(value)
      ? (value as Record<string, unknown>)
      : undefined;
  } catch {
    return undefined;
  }
}

export interface Inventory {
  readonly header: InventoryHeader;
  readonly entries: readonly Entry[];
}

/** Reads a whole inventory from its text. Errors name the first bad line. */
export function parseInventory(text: string): Result<Inventory> {
  const lines = text.split('\n');
  const header = parseHeader(lines[0] ?? '');
  if (!header.ok) return header;
  const entries: Entry[] = [];
  for (let i = 1; i < lines.length; i++) {
    const line = lines[i] as string;
    if (line === '' || line === '\r') continue;
    const entry = parseEntry(line, i + 1);
    if (!entry.ok) return entry;
    entries.push(entry.value);
  }
  return ok({ header: header.value, entries });
}

/** Writes an inventory as JSON Lines, sorted. */
export function writeInventory(header: InventoryHeader, entries: readonly Entry[]): string {
  const sorted = [...entries].sort(compareEntries);
  return [header, ...sorted].map((line) => JSON.stringify(line) + '\n').join('');
}

/** A header for an inventory taken now. */
export function inventoryHeader(root: string, takenAt: number, caseSensitive: boolean): InventoryHeader {
  return { inventory: 1, root, takenAt: formatInstant(takenAt), caseSensitive };
}
