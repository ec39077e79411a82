/** A captured difference as a tree: filterable, kept or dropped, with the reason for each drop. */
import { useMemo, useState } from 'react';
import { Virtuoso } from 'react-virtuoso';
import {
  differenceLeaves,
  differenceTree,
  visibleRows,
  type DifferenceNode,
  type DifferenceView,
} from '@vatline/core/package/difference-tree';
import { entryName } from '@vatline/core/image/inventory';
import type { CaptureComparison } from '@vatline/core/package/noise';
import type { Finding } from '@vatline/core/package/findings';
import { changeSigns } from '../parts/change-signs.ts';
import { count, plural, size } from '../parts/format.ts';

/** Filtered down to this few, everything is shown open. */
const FEW = 300;

interface Props {
  readonly comparison: CaptureComparison;
  readonly findings: readonly Finding[];
}

export function DifferenceTree({ comparison, findings }: Props) {
  const [view, setView] = useState<DifferenceView>('kept');
  const [filter, setFilter] = useState('');
  const [toggled, setToggled] = useState<ReadonlySet<string>>(new Set());
  const leaves = useMemo(() => differenceLeaves(comparison, view), [comparison, view]);
  const tree = useMemo(() => differenceTree(leaves, filter), [leaves, filter]);
  const openAll = filter !== '' && tree.entries <= FEW;
  const rows = useMemo(
    () => visibleRows(tree, (node) => (openAll || node.depth < 1) !== toggled.has(node.id)),
    [tree, openAll, toggled],
  );
  const marked = useMemo(
    () =>
      new Map(
        findings.flatMap(({ kind, evidence }) =>
          evidence.map(({ entry }) => [`${entry.kind} ${entryName(entry)}`, kind] as const),
        ),
      ),
    [findings],
  );
  const kept = differenceLeaves(comparison, 'kept').length;
  const toggle = (id: string) => {
    const next = new Set(toggled);
    if (!next.delete(id)) next.add(id);
    setToggled(next);
  };
  const chip = (which: DifferenceView, n: number) => (
    <button
      type="button"
      className="chip-button"
      aria-pressed={view === which}
      onClick={() => setView(which)}
    >
      {which} {count(n)}
    </button>
  );
  return (
    <div className="difference">
      <div className="row" style={{ marginBottom: 8 }}>
        <input
          className="note-input tree-filter"
          placeholder="path, value, reason"
          aria-label="Filter the difference"
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
        />
        <div className="chips">
          {chip('kept', kept)}
          {chip('dropped', comparison.dropped.length)}
        </div>
      </div>
      <Virtuoso
        className="tree"
        data={rows}
        role="tree"
        aria-label={view === 'kept' ? 'What is kept' : 'What was dropped'}
        itemContent={(_i, node) => (
          <TreeRow
            node={node}
            closed={!node.leaf && (openAll || node.depth < 1) === toggled.has(node.id)}
            marked={marked}
            onToggle={() => toggle(node.id)}
          />
        )}
      />
      {rows.length === 0 && <p className="quiet">Nothing {filter ? `holds “${filter}”` : 'was dropped'}.</p>}
    </div>
  );
}

function TreeRow({
  node,
  closed,
  marked,
  onToggle,
}: {
  node: DifferenceNode;
  closed: boolean;
  marked: ReadonlyMap<string, string>;
  onToggle: () => void;
}) {
  const indent = { paddingLeft: 4 + node.depth * 18 };
  if (!node.leaf) {
    return (
      <button
        type="button"
        className="tree-row"
        role="treeitem"
        aria-expanded={!closed}
        style={indent}
        onClick={onToggle}
      >
        <span className="tree-name mono strong">
          {closed ? '▸' : '▾'} {node.label}
        </span>
        <span className="number">
          {plural(node.entries, 'entry', 'entries')}
          {node.bytes > 0 && `, ${size(node.bytes)}`}
        </span>
      </button>
    );
  }
  const { change, entry, note } = node.leaf;
  const mark = marked.get(`${entry.kind} ${entryName(entry)}`);
  return (
    <div className={mark ? 'tree-row marked' : 'tree-row'} role="treeitem" style={indent}>
      <span className="tree-name mono" title={entryName(entry)}>
        <b className={change === 'removed' ? 'trouble' : 'good'}>{changeSigns[change]}</b> {node.label}
      </span>
      <span className="quiet tree-note">{mark ? <b className="attention">{mark}</b> : note}</span>
      <span className="number">
        {entry.kind === 'file'
          ? size(entry.size)
          : entry.kind === 'registry'
            ? entry.value
            : entry.kind === 'service'
              ? entry.start
              : entry.kind === 'task'
                ? entry.schedule
                : ''}
      </span>
    </div>
  );
}
