import { poolSettingsEndpoints } from '@vatline/contract/pool/settings';
import { poolEndpoints } from '@vatline/contract/pool/endpoints';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { SettingsChanges } from './change-settings.ts';
import type { PoolCreation } from './create.ts';
import type { JoinAccounts } from '../directory/join-accounts.ts';
import { hostPage } from './host-pages.ts';
import { previewPool } from './preview.ts';
import type { PoolStore } from './pools.ts';
import { poolCells, poolDetail, poolSummaries } from './present.ts';

interface Stores {
  readonly pools: PoolStore;
  readonly joinAccounts: JoinAccounts;
  readonly creation: PoolCreation;
}

export function poolRoutes(door: Door, parts: Parts, stores: Stores): void {
  const { pools: store, joinAccounts: accounts, creation } = stores;
  door.serve(poolEndpoints.list, () => poolSummaries(parts, store));
  door.serve(poolEndpoints.get, ({ params }) => poolDetail(parts, store, params.id));
  door.serve(poolEndpoints.hosts, ({ params, query }) => hostPage(parts, store, params.id, query));
  door.serve(poolEndpoints.cells, ({ params }) => poolCells(store, params.id));
  door.serve(poolEndpoints.holdSource, async ({ params, body: { reason } }) => {
    const { name } = await store.pool(params.id);
    return change(
      parts,
      async () => {
        await store.holdSource(params.id, reason);
        return DONE;
      },
      () => ({
        kind: 'pool',
        subject: `pool:${params.id}`,
        text:
          reason === ''
            ? `what ${name} is made from may change again`
            : `what ${name} is made from is held: ${reason}`,
        link: `/pools/${params.id}`,
      }),
    );
  });
  const settings = new SettingsChanges(parts, store);
  door.serve(poolSettingsEndpoints.change, ({ params, body }) => settings.change(params.id, body));
  door.serve(
    poolEndpoints.preview,
    async ({ body }) => (await previewPool(parts, accounts, withoutUndefined(body))).preview,
  );

  door.serve(poolEndpoints.create, ({ body }) => creation.create(body));
}

function withoutUndefined<T extends object>(value: T): { [K in keyof T]: Exclude<T[K], undefined> } {
  return Object.fromEntries(Object.entries(value).filter(([, field]) => field !== undefined)) as never;
}
