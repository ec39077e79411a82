/**
 * A captured difference that somebody looks at: what it holds, and the rows in sight. It keeps what
 * was worked out, so that scrolling costs nothing and opening a folder no second filtering; made
 * for 200,000 rows, away from the thread that draws.
 */
import { entryName } from '../inventory/entry.ts';
import { classify, type EntryClass } from './classify.ts';
import {
  differenceLeaves,
  differenceTree,
  visibleRows,
  type DifferenceLeaf,
  type DifferenceNode,
  type DifferenceView,
} from './difference-tree.ts';
import {
  differenceFacets,
  filterDifference,
  type DifferenceFacets,
  type DifferenceFilter,
  type DifferenceLookup,
} from './filter-difference.ts';
import type { CaptureComparison } from './noise.ts';
import { ownerKey } from './owners.ts';

export type Arrangement = 'tree' | 'list';

export interface DifferenceQuestion {
  readonly view: DifferenceView;
  readonly filter: DifferenceFilter;
  readonly arrangement: Arrangement;
  /** Ids of branches that somebody opened or closed against what is usual. */
  readonly toggled: readonly string[];
}

export interface DifferenceAnswer {
  /** Rows to scroll through. */
  readonly rows: number;
  /** Changes of each view, whatever is asked for. */
  readonly counts: Readonly<Record<DifferenceView, number>>;
  readonly facets: DifferenceFacets;
}

export interface BranchRow {
  readonly kind: 'branch';
  readonly id: string;
  readonly label: string;
  readonly depth: number;
  readonly entries: number;
  readonly bytes: number;
  readonly isClosed: boolean;
}

export interface LeafRow {
  readonly kind: 'leaf';
  /** Names the entry among all of the capture. */
  readonly key: string;
  readonly label: string;
  readonly depth: number;
  readonly leaf: DifferenceLeaf;
  readonly entryClass: EntryClass;
  /** The installer that put it, where there were several. */
  readonly owner?: string;
}

export type DifferenceRow = BranchRow | LeafRow;

interface ViewedLeaves {
  readonly leaves: readonly DifferenceLeaf[];
  readonly lookup: DifferenceLookup;
  readonly facets: DifferenceFacets;
}

/** Filtered down to this few, everything is shown open. */
const FEW = 300;

export class ShownDifference {
  private readonly owners: ReadonlyMap<string, string>;
  private readonly views = new Map<DifferenceView, ViewedLeaves>();
  private filtered: { readonly by: string; readonly leaves: readonly DifferenceLeaf[] } | undefined;
  private tree: { readonly of: readonly DifferenceLeaf[]; readonly root: DifferenceNode } | undefined;
  private isClosed: (node: DifferenceNode) => boolean = () => true;
  private view: DifferenceView = 'kept';
  private inSight: readonly (DifferenceNode | DifferenceLeaf)[] = [];

  /** `owners`: the keys of what each installer put; empty where there was only one. */
  constructor(
    readonly comparison: CaptureComparison,
    owners: readonly { readonly name: string; readonly entries: readonly string[] }[],
  ) {
    this.owners = new Map(owners.flatMap(({ name, entries }) => entries.map((key) => [key, name] as const)));
  }

  /** Settles which rows there are from now on. */
  ask({ view, filter, arrangement, toggled }: DifferenceQuestion): DifferenceAnswer {
    const leaves = this.filter(view, filter);
    this.view = view;
    this.inSight = arrangement === 'list' ? leaves : this.branches(leaves, filter, new Set(toggled));
    return {
      rows: this.inSight.length,
      counts: {
        kept: this.viewed('kept').leaves.length,
        times: this.viewed('times').leaves.length,
        dropped: this.comparison.dropped.length,
      },
      facets: this.viewed(view).facets,
    };
  }

  /** The rows in sight from one to before another. */
  rows(from: number, to: number): DifferenceRow[] {
    return this.inSight.slice(from, to).map((row) => {
      if (!('children' in row)) return this.leafRow(row, entryName(row.entry), 0);
      if (row.leaf) return this.leafRow(row.leaf, row.label, row.depth);
      const { id, label, depth, entries, bytes } = row;
      return { kind: 'branch', id, label, depth, entries, bytes, isClosed: this.isClosed(row) };
    });
  }

  private leafRow(leaf: DifferenceLeaf, label: string, depth: number): LeafRow {
    const { classes, owners } = this.viewed(this.view).lookup;
    const key = ownerKey(leaf.entry);
    const owner = owners.get(key);
    const entryClass = classes.get(leaf.entry) ?? 'other';
    return { kind: 'leaf', key, label, depth, leaf, entryClass, ...(owner === undefined ? {} : { owner }) };
  }

  private viewed(view: DifferenceView): ViewedLeaves {
    const known = this.views.get(view);
    if (known) return known;
    const leaves = differenceLeaves(this.comparison, view);
    const lookup = { classes: classify(leaves.map((leaf) => leaf.entry)), owners: this.owners };
    const viewed = { leaves, lookup, facets: differenceFacets(leaves, lookup) };
    this.views.set(view, viewed);
    return viewed;
  }

  private filter(view: DifferenceView, filter: DifferenceFilter): readonly DifferenceLeaf[] {
    const by = JSON.stringify([view, filter]);
    if (this.filtered?.by !== by) {
      const { leaves, lookup } = this.viewed(view);
      this.filtered = { by, leaves: filterDifference(leaves, filter, lookup) };
    }
    return this.filtered.leaves;
  }

  private branches(
    leaves: readonly DifferenceLeaf[],
    filter: DifferenceFilter,
    toggled: ReadonlySet<string>,
  ): readonly DifferenceNode[] {
    if (this.tree?.of !== leaves) this.tree = { of: leaves, root: differenceTree(leaves) };
    const { root } = this.tree;
    const openAll = Object.keys(filter).length > 0 && root.entries <= FEW;
    this.isClosed = (node) => (openAll || node.depth < 1) === toggled.has(node.id);
    return visibleRows(root, (node) => !this.isClosed(node));
  }
}
