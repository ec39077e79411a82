/** Which rows of a captured difference are asked for. */
import { cleanup, fireEvent, screen } from '@testing-library/react';
import { useState } from 'react';
import { afterEach, expect, it, vi } from 'vitest';
import type { DifferenceFacets, DifferenceFilter } from '@vatline/core/package/filter-difference';
import { DifferenceFilters } from '../../src/packages/capture/difference-filters.tsx';
import { choose, shown } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const facets: DifferenceFacets = {
  kinds: [
    { value: 'file', count: 1412 },
    { value: 'registry', count: 30 },
  ],
  classes: [{ value: 'program', count: 1442 }],
  owners: [],
  rules: [],
} as unknown as DifferenceFacets;

function show(given: Partial<Parameters<typeof DifferenceFilters>[0]> = {}) {
  const said = { view: '', arrangement: '', filter: {} as DifferenceFilter };
  function Kept() {
    const [filter, setFilter] = useState<DifferenceFilter>(given.filter ?? {});
    said.filter = filter;
    return (
      <DifferenceFilters
        view="kept"
        counts={{ kept: 1442, times: 0, dropped: 12_345 }}
        facets={facets}
        arrangement="tree"
        onView={(view) => (said.view = view)}
        onArrangement={(arrangement) => (said.arrangement = arrangement)}
        {...given}
        filter={filter}
        onFilter={setFilter}
      />
    );
  }
  return { ...shown(<Kept />, {}), said };
}
const pressed = () =>
  screen
    .getAllByRole('button')
    .map((one) => `${one.textContent}${one.getAttribute('aria-pressed') === 'true' ? ' *' : ''}`);

it('says how many rows each view has; times only where there are any', async () => {
  const { said, user } = show();
  expect(pressed()).toEqual(['kept 1,442 *', 'dropped 12,345', 'tree *', 'list']);
  await user.click(screen.getByText('dropped 12,345'));
  await user.click(screen.getByText('list'));
  expect([said.view, said.arrangement]).toEqual(['dropped', 'list']);
  cleanup();
  show({ counts: { kept: 1, times: 3, dropped: 0 } });
  expect(pressed().slice(0, 3)).toEqual(['kept 1 *', 'only their time 3', 'dropped 0']);
});

it('offers a list only where there is something to choose, or something was chosen', () => {
  show();
  const lists = () => screen.getAllByRole('combobox').map((one) => one.getAttribute('aria-label'));
  expect(lists()).toEqual(['any kind', 'any size']);
  cleanup();
  show({ filter: { owner: 'Pellam Reader' } });
  expect(lists()).toEqual(['any kind', 'any installer', 'any size']);
});

it('asks for what is chosen, each with how many there are, and no more for what is emptied', async () => {
  const view = show();
  await choose(view, 'any kind', 'file, 1,412');
  await choose(view, 'any size', 'over 10 MB');
  fireEvent.change(screen.getByLabelText('Filter the difference'), { target: { value: 'reader' } });
  expect(view.said.filter).toEqual({ kind: 'file', bytes: 10e6, text: 'reader' });
  fireEvent.change(screen.getByLabelText('Filter the difference'), { target: { value: '' } });
  expect(view.said.filter).toEqual({ kind: 'file', bytes: 10e6 });
});
