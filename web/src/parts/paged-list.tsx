/** A long list that is read page by page as it is scrolled, so that ten thousand rows cost what is looked at. */
import type { ReactNode } from 'react';
import { Virtuoso } from 'react-virtuoso';
import type { Page } from '@vatline/contract/page';
import { problemOf } from '../api/problem.ts';
import { ProblemNote } from './field.tsx';
import { count } from './format.ts';

/** What an infinite query gives, as far as it is needed here. */
export interface Paged<T> {
  readonly data?: { readonly pages: readonly Page<T>[] } | undefined;
  readonly error?: unknown;
  readonly hasNextPage: boolean;
  readonly isFetchingNextPage: boolean;
  readonly fetchNextPage: () => unknown;
}

/** The rows that were read so far. */
export function rowsOf<T>({ data }: Pick<Paged<T>, 'data'>): readonly T[] {
  return data?.pages.flatMap((page) => page.rows) ?? [];
}

/** How many rows there are on every page; undefined until the first has come. */
export function totalOf<T>({ data }: Pick<Paged<T>, 'data'>): number | undefined {
  return data?.pages[0]?.total;
}

interface Props<T> {
  readonly list: Paged<T>;
  /** Pixels of one row, and of the list at most. */
  readonly rowHeight: number;
  readonly maxHeight: number;
  readonly row: (row: T) => ReactNode;
  /** What is said where there is none. */
  readonly none: ReactNode;
}

const ROWS_AHEAD = 40;

export function PagedList<T>({ list, rowHeight, maxHeight, row, none }: Props<T>) {
  const rows = rowsOf(list);
  const total = totalOf(list);
  if (list.error) return <ProblemNote problem={problemOf(list.error)} />;
  if (total === undefined) return null;
  if (total === 0) return <>{none}</>;
  return (
    <>
      <Virtuoso
        style={{ height: Math.min(maxHeight, rows.length * rowHeight + 2) }}
        data={rows as T[]}
        // Few, since all of them are drawn anew at every key of a filter.
        increaseViewportBy={rowHeight * 5}
        rangeChanged={({ endIndex }) => {
          // Before the end is in sight the next page is on its way.
          if (endIndex + ROWS_AHEAD >= rows.length && list.hasNextPage && !list.isFetchingNextPage)
            list.fetchNextPage();
        }}
        itemContent={(_i, item) => row(item)}
      />
      {rows.length < total && (
        <p className="quiet small">
          {count(rows.length)} of {count(total)}; scroll for more
        </p>
      )}
    </>
  );
}
