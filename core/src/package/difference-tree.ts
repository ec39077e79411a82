/** A captured difference as a tree that can be filtered, opened and read row by row. */
import { entryName, type Entry } from '../image/inventory.ts';
import type { CaptureComparison, ChangeKind } from './noise.ts';

export interface DifferenceLeaf {
  readonly change: ChangeKind;
  readonly entry: Entry;
  /** Why it was dropped, or what changed or where it came from; empty when there is nothing to say. */
  readonly note: string;
}

export interface DifferenceNode {
  /** Path of the node from the root, unique in the tree. */
  readonly id: string;
  readonly label: string;
  readonly depth: number;
  readonly children: DifferenceNode[];
  readonly leaf?: DifferenceLeaf;
  /** Leaves under it, and the bytes of their files. */
  entries: number;
  bytes: number;
}

export type DifferenceView = 'kept' | 'dropped';

/** Flat list of the changes to show: those kept, or those dropped as noise. */
export function differenceLeaves(comparison: CaptureComparison, view: DifferenceView): DifferenceLeaf[] {
  if (view === 'dropped') {
    return comparison.dropped.map((row) => ({ change: row.change, entry: row.entry, note: row.reason }));
  }
  return [
    ...comparison.added.map((entry): DifferenceLeaf => ({ change: 'added', entry, note: '' })),
    ...comparison.changed.map((c): DifferenceLeaf => ({
      change: 'changed',
      entry: c.after,
      note: c.fields.join(', '),
    })),
    ...comparison.removed.map((entry): DifferenceLeaf => ({ change: 'removed', entry, note: '' })),
    ...comparison.moved.map((m): DifferenceLeaf => ({
      change: 'moved',
      entry: m.to,
      note: `from ${m.from.path}`,
    })),
  ];
}

const branchOf: Partial<Record<Entry['kind'], string>> = {
  registry: 'Registry',
  service: 'Services',
  driver: 'Drivers',
  task: 'Scheduled tasks',
  shortcut: 'Shortcuts',
  certificate: 'Certificates',
  application: 'Applications',
  update: 'Updates',
};

/** Builds the tree. A leaf stays when its name or note holds the filter, without regard to case. */
export function differenceTree(leaves: readonly DifferenceLeaf[], filter: string): DifferenceNode {
  const root: DifferenceNode = { id: '', label: '', depth: -1, children: [], entries: 0, bytes: 0 };
  const known = new Map<string, DifferenceNode>();
  const wanted = filter.trim().toLowerCase();
  for (const leaf of leaves) {
    const name = entryName(leaf.entry);
    if (wanted && !name.toLowerCase().includes(wanted) && !leaf.note.toLowerCase().includes(wanted)) continue;
    if (leaf.entry.kind !== 'folder' || leaf.change !== 'added') insert(root, known, leaf, name);
  }
  sortTree(root);
  return root;
}

function insert(
  root: DifferenceNode,
  known: Map<string, DifferenceNode>,
  leaf: DifferenceLeaf,
  name: string,
): void {
  const branch = branchOf[leaf.entry.kind];
  const parts = name.split(leaf.entry.kind === 'registry' ? '\\' : '/');
  const path = branch === undefined ? parts : [branch, ...(leaf.entry.kind === 'registry' ? parts : [name])];
  const bytes = leaf.entry.kind === 'file' ? leaf.entry.size : 0;
  let node = root;
  count(node, bytes);
  path.forEach((label, depth) => {
    const isLeaf = depth === path.length - 1;
    const id = `${node.id}/${isLeaf ? leaf.entry.kind : ''}:${label}`;
    let next = known.get(id);
    if (!next) {
      next = { id, label, depth, children: [], entries: 0, bytes: 0, ...(isLeaf ? { leaf } : {}) };
      known.set(id, next);
      node.children.push(next);
    }
    node = next;
    count(node, bytes);
  });
}

function count(node: DifferenceNode, bytes: number): void {
  node.entries++;
  node.bytes += bytes;
}

function sortTree(node: DifferenceNode): void {
  node.children.sort(
    (a, b) => Number(a.leaf !== undefined) - Number(b.leaf !== undefined) || (a.label < b.label ? -1 : 1),
  );
  node.children.forEach(sortTree);
}

/** The rows to show, given which nodes are open. */
export function visibleRows(
  root: DifferenceNode,
  isOpen: (node: DifferenceNode) => boolean,
): DifferenceNode[] {
  const rows: DifferenceNode[] = [];
  const walk = (node: DifferenceNode) => {
    for (const child of node.children) {
      rows.push(child);
      if (!child.leaf && isOpen(child)) walk(child);
    }
  };
  walk(root);
  return rows;
}
