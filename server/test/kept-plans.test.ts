/** Plans that are kept and not begun: named, four of a pool at most, nobody's overwritten. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { KeptPlan } from '@vatline/contract/kept-plan';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { TestServer } from './harness.ts';
import { nightlyRollout } from './usual-requests.ts';

let server: TestServer;
let poolId = '';
let versionId = '';
beforeAll(async () => {
  server = await TestServer.open();
  ({ versionId } = await server.makeVersion());
  await server.run('/pools', server.newPool(versionId));
  poolId = (await server.get<PoolSummary[]>('/pools'))[0]?.id ?? '';
}, 60_000);
afterAll(() => server.close());

const plan = (batch: number) => nightlyRollout(poolId, versionId, batch);
const add = (name: string, batch = 2) =>
  server.send<{ id: string }>('post', '/kept-plans', { name, request: plan(batch) });
const kept = () => server.getAnew<KeptPlan[]>(`/kept-plans?pool=${poolId}`);
const names = async () =>
  (await kept()).map(({ name, revision, request }) => `${name} ${revision} ${request.batch}`);

describe('kept plans', () => {
  it('are whole, also where nothing could be begun by them', async () => {
    await add('Sunday', 2);
    expect(await kept()).toMatchObject([
      { name: 'Sunday', revision: 1, by: 'engineer', keptAt: server.now, request: plan(2) },
    ]);
    // The hosts run this very version: that is said when it is forecast.
    expect((await server.refused('post', '/rollouts/forecast', plan(2))).paths).toContain('imageVersionId');
  });

  it('are kept anew by whoever saw the newest of them', async () => {
    const [{ id } = { id: '' }] = await kept();
    const body = { name: 'Sunday', request: plan(3), basedOn: 1 };
    expect(await server.send('put', `/kept-plans/${id}`, body)).toEqual({ revision: 2 });
    const late = await server.refused('put', `/kept-plans/${id}`, { ...body, request: plan(4) });
    expect([late.status, late.detail]).toEqual([
      409,
      'Revision 2 of Sunday was kept meanwhile; this change is based on 1',
    ]);
    expect(await names()).toEqual(['Sunday 2 3']);
  });

  it('have names of their own, and stand in the order in which they were named', async () => {
    const taken = await server.refused('post', '/kept-plans', { name: 'Sunday', request: plan(1) });
    expect([taken.status, taken.paths]).toEqual([409, ['name']]);
    for (const name of ['weekdays', 'slowly']) await add(name);
    const slowly = (await kept())[2];
    await server.send('put', `/kept-plans/${slowly?.id ?? ''}`, {
      ...{ name: 'by ones', request: plan(1), basedOn: 1 },
    });
    const rename = { name: 'weekdays', request: plan(1), basedOn: 2 };
    expect((await server.refused('put', `/kept-plans/${slowly?.id ?? ''}`, rename)).paths).toEqual(['name']);
    expect(await names()).toEqual(['Sunday 2 3', 'weekdays 1 2', 'by ones 2 1']);
  });

  it('are four of a pool, and no more until one is dropped', async () => {
    await add('the fourth');
    const fifth = await server.refused('post', '/kept-plans', { name: 'the fifth', request: plan(1) });
    expect([fifth.status, fifth.detail]).toEqual([
      409,
      '4 plans of this pool are kept already; drop one first',
    ]);
    const [first] = await kept();
    await server.send('delete', `/kept-plans/${first?.id ?? ''}`);
    expect((await server.refused('delete', `/kept-plans/${first?.id ?? ''}`)).status).toBe(404);
    await add('the fifth');
    expect(await kept()).toHaveLength(4);
  });

  it('stay those of their pool', async () => {
    const [first] = await kept();
    const moved = { ...plan(1), poolId: 'nowhere' };
    const body = { name: 'elsewhere', request: moved };
    const again = { ...body, basedOn: 1 };
    expect((await server.refused('put', `/kept-plans/${first?.id ?? ''}`, again)).paths).toEqual([
      'request.poolId',
    ]);
    expect((await server.refused('post', '/kept-plans', body)).paths).toEqual(['request.poolId']);
  });

  it('are there after a restart', async () => {
    const before = await names();
    await server.restart();
    expect(await names()).toEqual(before);
  });
});
