import type { Router } from 'express';
import { poolEndpoints } from '@vatline/contract/pool/endpoints';
import { serve } from '../platform/http.ts';
import type { Parts } from '../platform/parts.ts';
import { PoolCreation } from './create.ts';
import { previewPool } from './preview.ts';
import type { PoolStore } from './pools.ts';
import { poolDetail, poolSummaries } from './present.ts';

export function poolRoutes(router: Router, parts: Parts, store: PoolStore): void {
  serve(router, poolEndpoints.list, () => poolSummaries(parts, store));
  serve(router, poolEndpoints.get, ({ params }) => poolDetail(parts, store, params.id));
  serve(router, poolEndpoints.preview, ({ body }) => previewPool(parts, withoutUndefined(body)));

  const creation = new PoolCreation(parts);
  serve(router, poolEndpoints.create, ({ body }) => creation.create(body));
}

function withoutUndefined<T extends object>(value: T): { [K in keyof T]: Exclude<T[K], undefined> } {
  return Object.fromEntries(Object.entries(value).filter(([, field]) => field !== undefined)) as never;
}
