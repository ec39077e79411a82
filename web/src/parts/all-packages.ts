import { useEffect, useMemo } from 'react';
import type { PackageSummary } from '@vatline/contract/package';
import { packagesApi } from '../api/packages.ts';

/** As many as the API gives at once. */
const AT_ONCE = 500;

/** Every package of the library, for screens that find them by name; undefined until the first page has come. */
export function useAllPackages(): readonly PackageSummary[] | undefined {
  const list = packagesApi.usePackagesInfiniteQuery({ query: { limit: AT_ONCE } });
  const { data, hasNextPage, isFetchingNextPage, fetchNextPage } = list;
  useEffect(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);
  return useMemo(() => data?.pages.flatMap((page) => page.rows), [data]);
}
