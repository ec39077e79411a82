/** A captured difference as a tree that can be filtered, opened and read row by row. */
import { entryName, type Entry } from '../image/inventory.ts';
import type { CaptureComparison, ChangeKind } from './noise.ts';

export interface DifferenceLeaf {
  readonly change: ChangeKind;
  readonly entry: Entry;
  /** Why it was dropped, or what changed or where it came from; empty when there is nothing to say. */
  readonly note: string;
  /** The rule that dropped it. */
  readonly rule?: string;
  /** How it was before, where it changed. */
  readonly before?: Entry;
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
    return comparison.dropped.map(({ change, entry, reason, rule, before }) => ({
      change,
      entry,
      note: reason,
      rule,
      ...(before ? { before } : {}),
    }));
  }
  return [
    ...comparison.added.map((entry): DifferenceLeaf => ({ change: 'added', entry, note: '' })),
    ...comparison.changed.map((c): DifferenceLeaf => ({
      change: 'changed',
      entry: c.after,
      note: c.fields.join(', '),
      before: c.before,
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

/** Builds the tree. New folders are shown by what is in them. */
export function differenceTree(leaves: readonly DifferenceLeaf[]): DifferenceNode {
  const root: DifferenceNode = { id: '', label: '', depth: -1, children: [], entries: 0, bytes: 0 };
  const known = new Map<string, DifferenceNode>();
  for (const leaf of leaves) if (!isNewFolder(leaf)) insert(root, known, leaf, entryName(leaf.entry));
  sortTree(root);
  return root;
}

/** A folder that came with what is in it says nothing more. */
export function isNewFolder({ entry, change }: DifferenceLeaf): boolean {
  return entry.kind === 'folder' && change === 'added';
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
