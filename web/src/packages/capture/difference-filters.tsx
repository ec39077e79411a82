/** Which rows of the difference are shown, and how. */
import { Select } from 'antd';
import type { DifferenceFacets, DifferenceFilter, Facet } from '@vatline/core/package/filter-difference';
import type { DifferenceView } from '@vatline/core/package/difference-tree';
import type { Arrangement } from '@vatline/core/package/shown-difference';
import { Chips } from '../../parts/chips.tsx';
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

type FilterChange = { [F in keyof DifferenceFilter]?: DifferenceFilter[F] | undefined };

export function DifferenceFilters({ view, counts, filter, facets, arrangement, ...on }: Props) {
  const set = (change: FilterChange) =>
    on.onFilter(
      Object.fromEntries(
        Object.entries({ ...filter, ...change }).filter(([, value]) => value !== undefined && value !== ''),
      ),
    );
  const views = (['kept', 'times', 'dropped'] as const).filter(
    (one) => one !== 'times' || one === view || counts.times > 0,
  );
  const facet = (field: FacetField, what: string, options: readonly Facet<string>[]) =>
    (options.length > 1 || filter[field] !== undefined) && (
      <Choice
        what={what}
        value={filter[field]}
        options={options.map((one) => ({ value: one.value, label: `${one.value}, ${count(one.count)}` }))}
        onChange={(value) => set({ [field]: value })}
      />
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
      <Chips
        label="Kept or dropped"
        options={views.map((one) => [one, `${viewNames[one]} ${count(counts[one])}`])}
        chosen={view}
        onPress={on.onView}
      />
      {facet('kind', 'any kind', facets.kinds)}
      {facet('class', 'any class', facets.classes)}
      {facet('owner', 'any installer', facets.owners)}
      {facet('rule', 'any rule', facets.rules)}
      <Choice
        what="any size"
        value={filter.bytes}
        options={sizes}
        onChange={(atLeast) => set({ bytes: atLeast })}
      />
      <Chips
        label="Arrangement"
        options={[
          ['tree', 'tree'],
          ['list', 'list'],
        ]}
        chosen={arrangement}
        onPress={on.onArrangement}
      />
    </div>
  );
}

type FacetField = 'kind' | 'class' | 'owner' | 'rule';

interface ChoiceProps<T> {
  /** What is asked for while nothing is chosen. */
  readonly what: string;
  readonly value: T | undefined;
  readonly options: { value: T; label: string }[];
  readonly onChange: (value: T | undefined) => void;
}

function Choice<T extends string | number>({ what, value, options, onChange }: ChoiceProps<T>) {
  return (
    <Select<T>
      size="small"
      allowClear
      aria-label={what}
      placeholder={what}
      popupMatchSelectWidth={false}
      value={value ?? null}
      onChange={(chosen) => onChange(chosen ?? undefined)}
      options={options}
    />
  );
}
