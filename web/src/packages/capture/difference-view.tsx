/** A captured difference, as a tree or a list: filtered, kept or dropped, each row with what there is to know of it. */
import { useDeferredValue, useMemo, useState } from 'react';
import { Virtuoso } from 'react-virtuoso';
import type { Capture } from '@vatline/contract/capture';
import type { DifferenceView as View } from '@vatline/core/package/difference-tree';
import type { DifferenceFilter } from '@vatline/core/package/filter-difference';
import type { Finding } from '@vatline/core/package/findings';
import { ownerKey } from '@vatline/core/package/owners';
import type { Arrangement, LeafRow as Leaf } from '@vatline/core/package/shown-difference';
import { DifferenceFilters } from './difference-filters.tsx';
import { BranchRow, LeafRow } from './difference-row.tsx';
import { RowDetail } from './row-detail.tsx';
import { useDifferenceRows, type DifferenceRows, type OpenDifference } from './use-difference.ts';

interface Props {
  readonly capture: Capture;
  readonly difference: OpenDifference;
  readonly findings: readonly Finding[];
}

const nothing: Readonly<Record<View, string>> = {
  kept: 'Nothing was kept.',
  times: 'Nothing changed in its time only.',
  dropped: 'Nothing was dropped.',
};

export function DifferenceView({ capture, difference, findings }: Props) {
  const [view, setView] = useState<View>('kept');
  const [filter, setFilter] = useState<DifferenceFilter>({});
  const [arrangement, setArrangement] = useState<Arrangement>('tree');
  const [toggled, setToggled] = useState<readonly string[]>([]);
  const [chosen, setChosen] = useState<Leaf>();
  // Typing stays quick: each letter is asked for only when the one before is drawn.
  const asked = useDeferredValue(filter);
  const rows = useDifferenceRows(difference, { view, filter: asked, arrangement, toggled });
  const marks = useMemo(
    () =>
      new Map(
        findings.flatMap(({ kind, evidence }) =>
          evidence.map(({ entry }) => [ownerKey(entry), kind] as const),
        ),
      ),
    [findings],
  );
  const toggle = (id: string) =>
    setToggled(toggled.includes(id) ? toggled.filter((one) => one !== id) : [...toggled, id]);
  const { answer } = rows;
  if (!answer) return <p className="quiet">Sorting the difference</p>;
  return (
    <div className={chosen ? 'difference with-detail' : 'difference'}>
      <DifferenceFilters
        view={view}
        counts={answer.counts}
        filter={filter}
        facets={answer.facets}
        arrangement={arrangement}
        onView={(next) => {
          setView(next);
          setFilter(filter.text === undefined ? {} : { text: filter.text });
          setChosen(undefined);
        }}
        onFilter={setFilter}
        onArrangement={setArrangement}
      />
      <Rows
        // Another question begins at its first row; opening a branch stays where it is.
        key={JSON.stringify([view, asked, arrangement])}
        rows={rows}
        marks={marks}
        chosen={chosen?.key}
        onToggle={toggle}
        onChoose={(leaf) => setChosen(chosen?.key === leaf.key ? undefined : leaf)}
      />
      {answer.rows === 0 && !rows.isBusy && (
        <p className="quiet">
          {answer.counts[view] === 0 ? nothing[view] : 'Nothing is like that. Ask for less.'}
        </p>
      )}
      {chosen && (
        <RowDetail
          key={chosen.key}
          capture={capture}
          calls={difference.calls}
          row={chosen}
          onClose={() => setChosen(undefined)}
        />
      )}
    </div>
  );
}

interface RowsProps {
  readonly rows: DifferenceRows;
  readonly marks: ReadonlyMap<string, string>;
  readonly chosen: string | undefined;
  readonly onToggle: (id: string) => void;
  readonly onChoose: (row: Leaf) => void;
}

function Rows({ rows, marks, chosen, onToggle, onChoose }: RowsProps) {
  return (
    <Virtuoso
      className="tree"
      totalCount={rows.answer?.rows ?? 0}
      role="tree"
      aria-label="Difference"
      aria-busy={rows.isBusy}
      rangeChanged={rows.onSight}
      itemContent={(index) => {
        const row = rows.row(index);
        if (!row) return <div className="tree-row" />;
        return row.kind === 'branch' ? (
          <BranchRow row={row} onToggle={() => onToggle(row.id)} />
        ) : (
          <LeafRow row={row} mark={marks.get(row.key)} isChosen={chosen === row.key} onChoose={onChoose} />
        );
      }}
    />
  );
}
