/** One row of a captured difference: a branch with what is in it, or a change. */
import { entryName, type Entry } from '@vatline/core/image/inventory';
import type { DifferenceLeaf, DifferenceNode } from '@vatline/core/package/difference-tree';
import { changeSigns } from '../parts/change-signs.ts';
import { plural, size } from '../parts/format.ts';

const INDENT = 18;

interface BranchProps {
  readonly node: DifferenceNode;
  readonly isClosed: boolean;
  readonly onToggle: () => void;
}

export function BranchRow({ node, isClosed, onToggle }: BranchProps) {
  return (
    <button
      type="button"
      className="tree-row"
      role="treeitem"
      aria-expanded={!isClosed}
      style={{ paddingLeft: 4 + node.depth * INDENT }}
      onClick={onToggle}
    >
      <span className="tree-name mono strong">
        {isClosed ? '▸' : '▾'} {node.label}
      </span>
      <span className="number">
        {plural(node.entries, 'entry', 'entries')}
        {node.bytes > 0 && `, ${size(node.bytes)}`}
      </span>
    </button>
  );
}

interface LeafProps {
  readonly leaf: DifferenceLeaf;
  readonly label: string;
  readonly depth: number;
  /** Kind of the finding that it is evidence of. */
  readonly mark: string | undefined;
  readonly isChosen: boolean;
  readonly onChoose: (leaf: DifferenceLeaf) => void;
}

export function LeafRow({ leaf, label, depth, mark, isChosen, onChoose }: LeafProps) {
  const { change, entry, note } = leaf;
  return (
    <button
      type="button"
      className={mark ? 'tree-row marked' : 'tree-row'}
      role="treeitem"
      aria-selected={isChosen}
      style={{ paddingLeft: 4 + depth * INDENT }}
      onClick={() => onChoose(leaf)}
    >
      <span className="tree-name mono" title={entryName(entry)}>
        <b className={change === 'removed' ? 'trouble' : 'good'}>{changeSigns[change]}</b> {label}
      </span>
      <span className="quiet tree-note">{mark ? <b className="attention">{mark}</b> : note}</span>
      <span className="number tree-value">{valueOf(entry)}</span>
    </button>
  );
}

function valueOf(entry: Entry): string {
  switch (entry.kind) {
    case 'file':
      return size(entry.size);
    case 'registry':
      return entry.value;
    case 'service':
      return entry.start;
    case 'task':
      return entry.schedule;
    case 'application':
    case 'driver':
      return entry.version;
    default:
      return '';
  }
}
