/** The way back: what it would come to, what stands in it, and what trying it on one host has measured. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { z } from 'zod';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Rollout, rolloutEndpoints } from '@vatline/contract/rollout';
import { MINUTE, TestServer } from './harness.ts';
import { hostsOfRollout, nightlyRollout } from './usual-requests.ts';

type WayBack = z.infer<typeof rolloutEndpoints.wayBack.response>;

let server: TestServer;
let poolId = '';
let oldVersion = '';
let rolloutId = '';
beforeAll(async () => {
  server = await TestServer.open();
  const { lineId, versionId } = await server.makeVersion();
  oldVersion = versionId;
  await server.buildAndCutAgain(lineId);
  const line = await server.get<{ versions: { id: string }[] }>(`/lines/${lineId}`);
  await server.run('/pools', server.newPool(versionId));
  poolId = (await server.get<PoolSummary[]>('/pools'))[0]?.id ?? '';
  const body = nightlyRollout(poolId, line.versions[0]?.id, 2);
  rolloutId = (await server.send<{ id: string }>('post', '/rollouts', body)).id;
}, 90_000);
afterAll(() => server.close());

const way = (query = '') => server.getAnew<WayBack>(`/rollouts/${rolloutId}/way-back${query}`);
const rollout = (id: string) => server.getAnew<Rollout>(`/rollouts/${id}`);

describe('the way back', () => {
  it('is none before a host was changed', async () => {
    expect(await way()).toMatchObject({ hosts: 0, rehearseOn: null });
    expect((await way()).refusal).toMatch(/every host runs exactly this already/);
  });

  it('of a rollout that has ended is forecast from now on, and can be tried on one host', async () => {
    await server.advance(1_440);
    expect((await rollout(rolloutId)).state).toBe('done');
    const two = await way();
    expect(two).toMatchObject({
      refusal: '',
      hosts: 4,
      batch: 2,
      losing: 0,
      ways: { rebuild: 4, attach: 0, 'attach in service': 0 },
      rehearsed: null,
      rehearseOn: 'WCL-RO-01',
    });
    const minutes = ((two.finish.p90 ?? 0) - server.now) / MINUTE;
    expect(minutes).toBeGreaterThan(20);
    // All at once take no longer than one wave.
    const four = await way('?batch=4');
    expect(four.finish.p90).toBeLessThan(two.finish.p90 ?? 0);
    expect((await server.refused('get', `/rollouts/${rolloutId}/way-back?batch=0`)).paths).toEqual(['batch']);
  });

  it('has measured what it took on one host, by the clock', async () => {
    const now = new Date(server.now).toISOString().slice(11, 16);
    const window = { rule: 'FREQ=DAILY', start: now, end: now === '00:00' ? '23:59' : '00:00' };
    const rehearsal = {
      ...nightlyRollout(poolId, oldVersion, 1),
      ...{ window, zone: 'UTC', onlyHosts: ['WCL-RO-01'], drainLimitMinutes: 0 },
    };
    const { id } = await server.send<{ id: string }>('post', '/rollouts', rehearsal);
    await server.advance(1_440);
    expect((await rollout(id)).state).toBe('done');
    const [host] = await hostsOfRollout((path) => server.getAnew(path), id);
    const minutes = ((host?.finishedAt ?? 0) - (host?.startedAt ?? 0)) / MINUTE;
    expect(minutes).toBeGreaterThan(5);
    expect(await way()).toMatchObject({
      hosts: 3,
      rehearsed: { host: 'WCL-RO-01', minutes, at: host?.finishedAt },
    });
  });

  it('is not there once the image is gone, and it says so', async () => {
    await server.app.db
      .updateTable('image_version')
      .set({ gone_ms: server.now })
      .where('id', '=', oldVersion)
      .execute();
    const { refusal, hosts } = await way();
    expect(hosts).toBe(0);
    expect(refusal).toMatch(/gone|deleted/);
  });
});
