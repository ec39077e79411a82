/** A captured difference as a tree that can be filtered, opened and read row by row. */
import { isTimeOnly, movedChange } from '../inventory/compare.ts';
import { entryName, type Entry } from '../inventory/entry.ts';
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

/** Of what is kept, entries of which only the time changed are apart: they hide the others. */
export type DifferenceView = 'kept' | 'times' | 'dropped';

/** Flat list of the changes to show. */
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
  const changed = comparison.changed
    .filter((row) => isTimeOnly(row) === (view === 'times'))
    .map((row): DifferenceLeaf => ({
      change: 'changed',
      entry: row.after,
      note: row.fields.join(', '),
      before: row.before,
    }));
  if (view === 'times') return changed;
  return [
    ...comparison.added.map((entry): DifferenceLeaf => ({ change: 'added', entry, note: '' })),
    ...changed,
    ...comparison.removed.map((entry): DifferenceLeaf => ({ change: 'removed', entry, note: '' })),
    ...comparison.moved.map((m): DifferenceLeaf => ({
      change: 'moved',
      entry: m.to,
      note: [`from ${m.from.path}`, movedChange(m)].filter(Boolean).join('; '),
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
  const folders = new Folders();
  for (const leaf of leaves) if (!isNewFolder(leaf)) insert(folders, leaf);
  finish(folders.root);
  return folders.root;
}

/** A folder that came with what is in it says nothing more. */
export function isNewFolder({ entry, change }: DifferenceLeaf): boolean {
  return entry.kind === 'folder' && change === 'added';
}

/** The branches so far. Most entries lie in a folder that is known already, and cost one look. */
class Folders {
  readonly root = branchNode('', '', -1);
  private readonly known = new Map<string, DifferenceNode>();

  /** The branch of a kind of entry, or the root. */
  ofKind(label: string | undefined): DifferenceNode {
    return label === undefined ? this.root : this.child(this.root, label, `\0${label}`);
  }

  in(top: DifferenceNode, path: string, separator: string): DifferenceNode {
    if (path === '') return top;
    const key = `${top.label}\0${path}`;
    const found = this.known.get(key);
    if (found) return found;
    const cut = path.lastIndexOf(separator);
    const parent = this.in(top, path.slice(0, Math.max(0, cut)), separator);
    return this.child(parent, path.slice(cut + 1), key);
  }

  private child(parent: DifferenceNode, label: string, key: string): DifferenceNode {
    const found = this.known.get(key);
    if (found) return found;
    const node = branchNode(`${parent.id}/:${label}`, label, parent.depth + 1);
    this.known.set(key, node);
    parent.children.push(node);
    return node;
  }
}

function branchNode(id: string, label: string, depth: number): DifferenceNode {
  return { id, label, depth, children: [], entries: 0, bytes: 0 };
}

function insert(folders: Folders, leaf: DifferenceLeaf): void {
  const { entry } = leaf;
  const label = branchOf[entry.kind];
  const top = folders.ofKind(label);
  const name = entryName(entry);
  const separator = entry.kind === 'registry' ? '\\' : '/';
  // Names of services and the like are no paths.
  const cut = label === undefined || entry.kind === 'registry' ? name.lastIndexOf(separator) : -1;
  const parent = folders.in(top, name.slice(0, Math.max(0, cut)), separator);
  const own = name.slice(cut + 1);
  parent.children.push({
    id: `${parent.id}/${entry.kind}:${own}`,
    label: own,
    depth: parent.depth + 1,
    children: [],
    leaf,
    entries: 1,
    bytes: entry.kind === 'file' ? entry.size : 0,
  });
}

/** Sorts, branches first, and sums upwards. */
function finish(node: DifferenceNode): void {
  node.children.sort(
    (a, b) => Number(a.leaf !== undefined) - Number(b.leaf !== undefined) || (a.label < b.label ? -1 : 1),
  );
  for (const child of node.children) {
    if (!child.leaf) finish(child);
    node.entries += child.entries;
    node.bytes += child.bytes;
  }
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
