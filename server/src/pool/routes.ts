import { poolEndpoints } from '@vatline/contract/pool/endpoints';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { PoolCreation } from './create.ts';
import { hostPage } from './host-pages.ts';
import { previewPool } from './preview.ts';
import type { PoolStore } from './pools.ts';
import { poolCells, poolDetail, poolSummaries } from './present.ts';

export function poolRoutes(door: Door, parts: Parts, store: PoolStore): void {
  door.serve(poolEndpoints.list, () => poolSummaries(parts, store));
  door.serve(poolEndpoints.get, ({ params }) => poolDetail(parts, store, params.id));
  door.serve(poolEndpoints.hosts, ({ params, query }) => hostPage(parts.db, store, params.id, query));
  door.serve(poolEndpoints.cells, ({ params }) => poolCells(store, params.id));
  door.serve(poolEndpoints.preview, ({ body }) => previewPool(parts, withoutUndefined(body)));

  const creation = new PoolCreation(parts);
  door.serve(poolEndpoints.create, ({ body }) => creation.create(body));
}

function withoutUndefined<T extends object>(value: T): { [K in keyof T]: Exclude<T[K], undefined> } {
  return Object.fromEntries(Object.entries(value).filter(([, field]) => field !== undefined)) as never;
}
