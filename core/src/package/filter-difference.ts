/** Which rows of a captured difference are asked for. */
import { entryName, type Entry, type EntryKind } from '../inventory/entry.ts';
import type { EntryClass } from './classify.ts';
import { isNewFolder, type DifferenceLeaf } from './difference-tree.ts';
import { ownerKey } from './owners.ts';

/** Empty or absent asks for everything. */
export interface DifferenceFilter {
  /** Held by the name, the note or the value, without regard to case. */
  readonly text?: string;
  readonly kind?: EntryKind;
  readonly class?: EntryClass;
  /** Files of at least so many bytes. */
  readonly bytes?: number;
  /** Name of the installer that put it. */
  readonly owner?: string;
  readonly rule?: string;
}

export interface DifferenceLookup {
  readonly classes: ReadonlyMap<Entry, EntryClass>;
  /** Installer by `ownerKey`; empty while there was only one. */
  readonly owners: ReadonlyMap<string, string>;
}

export function filterDifference(
  leaves: readonly DifferenceLeaf[],
  filter: DifferenceFilter,
  { classes, owners }: DifferenceLookup,
): DifferenceLeaf[] {
  const text = filter.text?.trim().toLowerCase() ?? '';
  return leaves.filter((leaf) => {
    const { entry } = leaf;
    return (
      !isNewFolder(leaf) &&
      (filter.kind === undefined || entry.kind === filter.kind) &&
      (filter.class === undefined || classes.get(entry) === filter.class) &&
      (filter.bytes === undefined || (entry.kind === 'file' && entry.size >= filter.bytes)) &&
      (filter.owner === undefined || owners.get(ownerKey(entry)) === filter.owner) &&
      (filter.rule === undefined || leaf.rule === filter.rule) &&
      (text === '' || holdsText(leaf, text))
    );
  });
}

function holdsText({ entry, note }: DifferenceLeaf, text: string): boolean {
  return (
    entryName(entry).toLowerCase().includes(text) ||
    note.toLowerCase().includes(text) ||
    (entry.kind === 'registry' && entry.value.toLowerCase().includes(text))
  );
}

export interface Facet<T extends string> {
  readonly value: T;
  readonly count: number;
}

/** What there is to filter by, with how many rows each has, the most first. */
export interface DifferenceFacets {
  readonly kinds: readonly Facet<EntryKind>[];
  readonly classes: readonly Facet<EntryClass>[];
  readonly owners: readonly Facet<string>[];
  readonly rules: readonly Facet<string>[];
}

export function differenceFacets(
  leaves: readonly DifferenceLeaf[],
  { classes, owners }: DifferenceLookup,
): DifferenceFacets {
  const rows = leaves.filter((leaf) => !isNewFolder(leaf));
  return {
    kinds: facet(rows, (leaf) => leaf.entry.kind),
    classes: facet(rows, (leaf) => classes.get(leaf.entry)),
    owners: owners.size === 0 ? [] : facet(rows, (leaf) => owners.get(ownerKey(leaf.entry))),
    rules: facet(rows, (leaf) => leaf.rule),
  };
}

function facet<T extends string>(
  leaves: readonly DifferenceLeaf[],
  valueOf: (leaf: DifferenceLeaf) => T | undefined,
): Facet<T>[] {
  const counts = new Map<T, number>();
  for (const leaf of leaves) {
    const value = valueOf(leaf);
    if (value !== undefined) counts.set(value, (counts.get(value) ?? 0) + 1);
  }
  return [...counts].map(([value, count]) => ({ value, count })).sort((a, b) => b.count - a.count);
}
