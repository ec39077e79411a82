/** One row of a captured difference: a branch with what is in it, or a change. */
import { entryName, type Entry } from '@vatline/core/inventory/entry';
import type { BranchRow as Branch, LeafRow as Leaf } from '@vatline/core/package/shown-difference';
import { changeSigns } from '../../parts/change-signs.ts';
import { plural, size } from '../../parts/format.ts';

const INDENT = 18;

export function BranchRow({ row, onToggle }: { readonly row: Branch; readonly onToggle: () => void }) {
  return (
    <button
      type="button"
      className="tree-row"
      role="treeitem"
      aria-expanded={!row.isClosed}
      style={{ paddingLeft: 4 + row.depth * INDENT }}
      onClick={onToggle}
    >
      <span className="tree-name mono strong">
        {row.isClosed ? '▸' : '▾'} {row.label}
      </span>
      <span className="number">
        {plural(row.entries, 'entry', 'entries')}
        {row.bytes > 0 && `, ${size(row.bytes)}`}
      </span>
    </button>
  );
}

interface LeafProps {
  readonly row: Leaf;
  /** Kind of the finding that it is evidence of. */
  readonly mark: string | undefined;
  readonly isChosen: boolean;
  readonly onChoose: (row: Leaf) => void;
}

export function LeafRow({ row, mark, isChosen, onChoose }: LeafProps) {
  const { change, entry, note } = row.leaf;
  return (
    <button
      type="button"
      className={mark ? 'tree-row marked' : 'tree-row'}
      role="treeitem"
      aria-selected={isChosen}
      style={{ paddingLeft: 4 + row.depth * INDENT }}
      onClick={() => onChoose(row)}
    >
      <span className="tree-name mono" title={entryName(entry)}>
        <b className={change === 'removed' ? 'trouble' : 'good'}>{changeSigns[change]}</b> {row.label}
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
