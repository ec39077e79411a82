/** A captured difference, as a tree or a list: filtered, kept or dropped, each row with what there is to know of it. */
import { useDeferredValue, useMemo, useState } from 'react';
import { Virtuoso } from 'react-virtuoso';
import type { Capture } from '@vatline/contract/capture';
import { entryName } from '@vatline/core/image/inventory';
import { classify } from '@vatline/core/package/classify';
import {
  differenceLeaves,
  differenceTree,
  visibleRows,
  type DifferenceLeaf,
  type DifferenceNode,
  type DifferenceView as View,
} from '@vatline/core/package/difference-tree';
import {
  differenceFacets,
  filterDifference,
  type DifferenceFilter,
} from '@vatline/core/package/filter-difference';
import type { Finding } from '@vatline/core/package/findings';
import type { CaptureComparison } from '@vatline/core/package/noise';
import { ownerKey } from '@vatline/core/package/owners';
import { DifferenceFilters, type Arrangement } from './difference-filters.tsx';
import { BranchRow, LeafRow } from './difference-row.tsx';
import { RowDetail } from './row-detail.tsx';

/** Filtered down to this few, everything is shown open. */
const FEW = 300;

interface Props {
  readonly capture: Capture;
  readonly comparison: CaptureComparison;
  readonly findings: readonly Finding[];
  readonly owners: readonly { readonly name: string; readonly entries: readonly string[] }[];
}

export function DifferenceView({ capture, comparison, findings, owners }: Props) {
  const [view, setView] = useState<View>('kept');
  const [filter, setFilter] = useState<DifferenceFilter>({});
  const [arrangement, setArrangement] = useState<Arrangement>('tree');
  const [chosen, setChosen] = useState<DifferenceLeaf>();
  const kept = useMemo(() => differenceLeaves(comparison, 'kept'), [comparison]);
  const dropped = useMemo(() => differenceLeaves(comparison, 'dropped'), [comparison]);
  const leaves = view === 'kept' ? kept : dropped;
  const lookup = useMemo(
    () => ({
      classes: classify(leaves.map((leaf) => leaf.entry)),
      owners: new Map(owners.flatMap(({ name, entries }) => entries.map((key) => [key, name] as const))),
    }),
    [leaves, owners],
  );
  const facets = useMemo(() => differenceFacets(leaves, lookup), [leaves, lookup]);
  // Typing stays quick while hundreds of thousands of rows are gone through.
  const asked = useDeferredValue(filter);
  const rows = useMemo(() => filterDifference(leaves, asked, lookup), [leaves, asked, lookup]);
  const marks = useMemo(
    () =>
      new Map(
        findings.flatMap(({ kind, evidence }) =>
          evidence.map(({ entry }) => [ownerKey(entry), kind] as const),
        ),
      ),
    [findings],
  );
  const choose = (leaf: DifferenceLeaf) => setChosen(chosen?.entry === leaf.entry ? undefined : leaf);
  return (
    <div className={chosen ? 'difference with-detail' : 'difference'}>
      <DifferenceFilters
        view={view}
        counts={{ kept: kept.length, dropped: dropped.length }}
        filter={filter}
        facets={facets}
        arrangement={arrangement}
        onView={(next) => {
          setView(next);
          setFilter(filter.text === undefined ? {} : { text: filter.text });
          setChosen(undefined);
        }}
        onFilter={setFilter}
        onArrangement={setArrangement}
      />
      {arrangement === 'tree' ? (
        <Tree
          rows={rows}
          isFiltered={Object.keys(asked).length > 0}
          marks={marks}
          chosen={chosen}
          onChoose={choose}
        />
      ) : (
        <List rows={rows} marks={marks} chosen={chosen} onChoose={choose} />
      )}
      {rows.length === 0 && (
        <p className="quiet">
          {leaves.length === 0 ? `Nothing was ${view}.` : 'Nothing is like that. Ask for less.'}
        </p>
      )}
      {chosen && (
        <RowDetail
          key={ownerKey(chosen.entry)}
          capture={capture}
          comparison={comparison}
          leaf={chosen}
          entryClass={lookup.classes.get(chosen.entry) ?? 'other'}
          owner={lookup.owners.get(ownerKey(chosen.entry))}
          onClose={() => setChosen(undefined)}
        />
      )}
    </div>
  );
}

interface RowsProps {
  readonly rows: readonly DifferenceLeaf[];
  readonly marks: ReadonlyMap<string, string>;
  readonly chosen: DifferenceLeaf | undefined;
  readonly onChoose: (leaf: DifferenceLeaf) => void;
}

function Tree({ rows, isFiltered, marks, chosen, onChoose }: RowsProps & { readonly isFiltered: boolean }) {
  const [toggled, setToggled] = useState<ReadonlySet<string>>(new Set());
  const tree = useMemo(() => differenceTree(rows), [rows]);
  const openAll = isFiltered && tree.entries <= FEW;
  const shown = useMemo(
    () => visibleRows(tree, (node) => (openAll || node.depth < 1) !== toggled.has(node.id)),
    [tree, openAll, toggled],
  );
  const toggle = (node: DifferenceNode) => {
    const next = new Set(toggled);
    if (!next.delete(node.id)) next.add(node.id);
    setToggled(next);
  };
  return (
    <Virtuoso
      className="tree"
      data={shown}
      role="tree"
      aria-label="Difference"
      itemContent={(_i, node) =>
        node.leaf ? (
          <LeafRow
            leaf={node.leaf}
            label={node.label}
            depth={node.depth}
            mark={marks.get(ownerKey(node.leaf.entry))}
            isChosen={chosen?.entry === node.leaf.entry}
            onChoose={onChoose}
          />
        ) : (
          <BranchRow
            node={node}
            isClosed={(openAll || node.depth < 1) === toggled.has(node.id)}
            onToggle={() => toggle(node)}
          />
        )
      }
    />
  );
}

function List({ rows, marks, chosen, onChoose }: RowsProps) {
  return (
    <Virtuoso
      className="tree"
      data={rows}
      role="tree"
      aria-label="Difference"
      itemContent={(_i, leaf) => (
        <LeafRow
          leaf={leaf}
          label={entryName(leaf.entry)}
          depth={0}
          mark={marks.get(ownerKey(leaf.entry))}
          isChosen={chosen?.entry === leaf.entry}
          onChoose={onChoose}
        />
      )}
    />
  );
}
