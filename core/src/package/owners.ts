/** Which installer of a capture put what: whichever ran when it came or changed last. */
import type { InventoryDifference } from '../inventory/compare.ts';
import { entryKey, type Entry } from '../inventory/entry.ts';

export interface InstallerChanges {
  readonly name: string;
  /** Between the inventories before and after this installer alone. */
  readonly difference: Pick<InventoryDifference, 'added' | 'changed' | 'removed' | 'moved'>;
}

/** Names an entry among all of a capture. */
export function ownerKey(entry: Entry): string {
  return `${entry.kind} ${entryKey(entry)}`;
}

/** The entries of each installer; an entry that several changed belongs to the last of them. */
export function ownersOfChanges(changes: readonly InstallerChanges[]): { name: string; entries: string[] }[] {
  const owner = new Map<string, number>();
  for (const [i, { difference }] of changes.entries())
    for (const entry of touched(difference)) owner.set(ownerKey(entry), i);
  const rows = changes.map(({ name }) => ({ name, entries: [] as string[] }));
  for (const [key, i] of owner) rows[i]?.entries.push(key);
  return rows;
}

function touched({ added, changed, removed, moved }: InstallerChanges['difference']): Entry[] {
  return [...added, ...removed, ...changed.map((change) => change.after), ...moved.map((move) => move.to)];
}
