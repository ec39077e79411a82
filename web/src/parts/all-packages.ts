import { useEffect, useMemo } from 'react';
import type { PackageSummary } from '@vatline/contract/package';
import { packagesApi } from '../api/packages.ts';

/** As many as the API gives at once. */
const AT_ONCE = 500;

/** Every package of the library, for screens that find them by name; undefined until the first page has come. */
export function useAllPackages(): readonly PackageSummary[] | undefined {
  const list = packagesApi.usePackagesInfiniteQuery({ query: { limit: AT_ONCE } });
  const { data, hasNextPage, isFetchingNextPage, fetchNextPage } = list;
  // By `data` too: a page may come so fast that nobody ever saw it being fetched.
  useEffect(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [data, hasNextPage, isFetchingNextPage, fetchNextPage]);
  return useMemo(() => data?.pages.flatMap((page) => page.rows), [data]);
}
