/** Which rows of the difference are shown, and how. */
import { Select } from 'antd';
import type { DifferenceFacets, DifferenceFilter, Facet } from '@vatline/core/package/filter-difference';
import type { DifferenceView } from '@vatline/core/package/difference-tree';
import type { Arrangement } from '@vatline/core/package/shown-difference';
import { count } from '../../parts/format.ts';

interface Props {
  readonly view: DifferenceView;
  readonly counts: Readonly<Record<DifferenceView, number>>;
  readonly filter: DifferenceFilter;
  readonly facets: DifferenceFacets;
  readonly arrangement: Arrangement;
  readonly onView: (view: DifferenceView) => void;
  readonly onFilter: (filter: DifferenceFilter) => void;
  readonly onArrangement: (arrangement: Arrangement) => void;
}

const viewNames: Readonly<Record<DifferenceView, string>> = {
  kept: 'kept',
  times: 'only their time',
  dropped: 'dropped',
};

const sizes = [
  { value: 1e6, label: 'over 1 MB' },
  { value: 10e6, label: 'over 10 MB' },
  { value: 100e6, label: 'over 100 MB' },
];

export function DifferenceFilters({
  view,
  counts,
  filter,
  facets,
  arrangement,
  onView,
  onFilter,
  onArrangement,
}: Props) {
  const set = (change: { [F in keyof DifferenceFilter]?: DifferenceFilter[F] | undefined }) =>
    onFilter(
      Object.fromEntries(
        Object.entries({ ...filter, ...change }).filter(([, value]) => value !== undefined && value !== ''),
      ),
    );
  const select = <T extends string>(
    field: 'kind' | 'class' | 'owner' | 'rule',
    what: string,
    options: readonly Facet<T>[],
  ) =>
    options.length < 2 && filter[field] === undefined ? null : (
      <Select
        size="small"
        allowClear
        aria-label={what}
        placeholder={what}
        popupMatchSelectWidth={false}
        value={(filter[field] as T | undefined) ?? null}
        onChange={(value) => set({ [field]: value ?? undefined })}
        options={options.map((one) => ({ value: one.value, label: `${one.value}, ${count(one.count)}` }))}
      />
    );
  const views = (['kept', 'times', 'dropped'] as const).filter(
    (one) => one !== 'times' || one === view || counts.times > 0,
  );
  return (
    <div className="difference-filters">
      <input
        className="note-input tree-filter"
        placeholder="path or value"
        aria-label="Filter the difference"
        value={filter.text ?? ''}
        onChange={(event) => set({ text: event.target.value })}
      />
      <div className="chips" role="group" aria-label="Kept or dropped">
        {views.map((one) => (
          <button
            key={one}
            type="button"
            className="chip-button"
            aria-pressed={view === one}
            onClick={() => onView(one)}
          >
            {viewNames[one]} {count(counts[one])}
          </button>
        ))}
      </div>
      {select('kind', 'any kind', facets.kinds)}
      {select('class', 'any class', facets.classes)}
      {select('owner', 'any installer', facets.owners)}
      {select('rule', 'any rule', facets.rules)}
      <Select
        size="small"
        allowClear
        aria-label="any size"
        placeholder="any size"
        popupMatchSelectWidth={false}
        value={filter.bytes ?? null}
        onChange={(bytes) => set({ bytes: bytes ?? undefined })}
        options={sizes}
      />
      <div className="chips" role="group" aria-label="Arrangement">
        {(['tree', 'list'] as const).map((one) => (
          <button
            key={one}
            type="button"
            className="chip-button"
            aria-pressed={arrangement === one}
            onClick={() => onArrangement(one)}
          >
            {one}
          </button>
        ))}
      </div>
    </div>
  );
}
