/** Care of what hosts are made from: one tried before the rest, all made anew, and a source that is held. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Host } from '@vatline/contract/pool/host';
import type { ForecastAnswer, Rollout } from '@vatline/contract/rollout';
import type { PoolDetail, PoolSummary } from '@vatline/contract/pool/endpoints';
import { TestServer } from './harness.ts';
import { hostsOf, nightlyRollout } from './usual-requests.ts';

let server: TestServer;
let poolId: string;
let newer: string;
let packages: string[];
beforeEach(async () => {
  server = await TestServer.open({ demo: true });
  // The pilot runs what is newest; the reading rooms have newer versions ahead of them.
  const pool = (await get<PoolSummary[]>('/pools')).find((one) => one.name === 'reading-rooms');
  poolId = pool?.id ?? '';
  packages = pool?.blend?.packages.map((row) => row.id) ?? [];
  const line = await get<{ versions: { id: string; state: string }[] }>(`/lines/${pool?.lineId ?? ''}`);
  newer =
    line.versions.find(({ id, state }) => state !== 'retired' && id !== pool?.blend?.imageVersionId)?.id ??
    '';
}, 120_000);
afterEach(() => server.close());

const get = <T>(path: string) => server.getAnew<T>(path);
const detail = () => get<PoolDetail>(`/pools/${poolId}`);
const allHosts = () => hostsOf(get, poolId);

async function untilOver(id: string): Promise<Rollout> {
  for (let night = 0; night < 40; night++) {
    const rollout = await get<Rollout>(`/rollouts/${id}`);
    if (rollout.endedAt !== null) return rollout;
    await server.advance(60);
  }
  throw new Error('it does not end');
}

interface Change {
  readonly onlyHosts?: (string | undefined)[];
  readonly [field: string]: unknown;
}

/** No more at a time than there are. */
const request = (change: Change) => ({
  ...nightlyRollout(poolId, newer, change.onlyHosts?.length ?? 10),
  packageVersionIds: packages,
  ...change,
});
const start = async (change: Change) =>
  (await server.send<{ id: string }>('post', '/rollouts', request(change))).id;
const running = async (version: string) => {
  const { blends } = await detail();
  const numbers = blends.filter((blend) => blend.imageVersionId === version).map((blend) => blend.number);
  return (await allHosts()).filter((host) => numbers.includes(host.blend)).map((host) => host.name);
};

describe('one host tried before the rest', () => {
  it('takes another image, and the pool as a whole goes on with what it runs; then the rest follows', async () => {
    const before = (await detail()).blend;
    const [first] = await allHosts();
    const only = { onlyHosts: [first?.name ?? ''] };
    const forecast = await server.send<ForecastAnswer>('post', '/rollouts/forecast', request(only));
    expect(forecast.hosts).toBe(1);
    expect(await untilOver(await start(only))).toMatchObject({ state: 'done', hosts: 1, done: 1 });
    expect(await running(newer)).toEqual([first?.name]);
    expect((await detail()).blend?.id).toBe(before?.id);

    const rest = await server.send<ForecastAnswer>('post', '/rollouts/forecast', request({}));
    expect(rest.hosts).toBe(59);
    expect(await untilOver(await start({}))).toMatchObject({ hosts: 59, done: 59 });
    expect((await detail()).blend?.imageVersionId).toBe(newer);
  });

  it('goes back by itself where it is not liked', async () => {
    const [first] = await allHosts();
    const id = await start({ onlyHosts: [first?.name ?? ''] });
    await untilOver(id);
    const back = await server.send<{ id: string }>('post', `/rollouts/${id}/go-back`, {});
    expect(await untilOver(back.id)).toMatchObject({ isReturn: true, hosts: 1, done: 1 });
    expect(await running(newer)).toEqual([]);
  });

  it('must be of the pool, and run something else unless it is made anew', async () => {
    const refusal = async (change: Change) =>
      (await server.refused('post', '/rollouts/forecast', request(change))).faults[0];
    expect(await refusal({ onlyHosts: ['WCL-DS-001'] })).toEqual({
      path: 'onlyHosts.0',
      message: 'the pool has no host WCL-DS-001',
    });
    const current = (await detail()).blend?.imageVersionId;
    const [first] = await running(current ?? '');
    const message = (await refusal({ imageVersionId: current, onlyHosts: [first] }))?.message;
    expect(message).toBe(
      'the chosen hosts run exactly this already; make them anew, or choose another version',
    );
  });
});

describe('a remake', () => {
  it('makes hosts anew from what they run, whose disks begin again at nothing', async () => {
    const current = (await detail()).blend?.imageVersionId;
    await server.advance(3 * 24 * 60);
    const grown = (hosts: readonly Host[]) => hosts.slice(0, 4).map((host) => host.ownBytes);
    const [before, names] = [await allHosts(), (await allHosts()).slice(0, 4).map((host) => host.name)];
    const id = await start({ imageVersionId: current, isRemake: true, onlyHosts: names });
    expect(await untilOver(id)).toMatchObject({ state: 'done', hosts: 4, done: 4 });
    for (const [i, bytes] of grown(await allHosts()).entries())
      expect(bytes).toBeLessThan(grown(before)[i] ?? 0);
    expect(await running(current ?? '')).toHaveLength(60);
  });

  it('of all goes on after a stop, each host once', async () => {
    const current = (await detail()).blend?.imageVersionId;
    const id = await start({ imageVersionId: current, isRemake: true, batch: 30, maxUnavailable: 30 });
    const opens = (await get<Rollout>(`/rollouts/${id}`)).nextWindow?.start ?? 0;
    await server.advance((opens - server.now) / 60_000 + 25);
    await server.restart({ demo: true });
    expect(await untilOver(id)).toMatchObject({ state: 'done', hosts: 60, done: 60 });
  });
});

describe('a source that is held', () => {
  const hold = (reason: string) => server.send('put', `/pools/${poolId}/source-hold`, { reason });

  it('takes no other image until it is let go, but hosts are made anew', async () => {
    await hold('exams until Friday');
    expect((await detail()).sourceHold).toBe('exams until Friday');
    const { faults } = await server.refused('post', '/rollouts', request({}));
    expect(faults).toContainEqual({
      path: 'imageVersionId',
      message: 'what reading-rooms is made from is held: exams until Friday',
    });
    const current = (await detail()).blend?.imageVersionId;
    const [first] = await allHosts();
    const id = await start({ imageVersionId: current, isRemake: true, onlyHosts: [first?.name] });
    await untilOver(id);
    await hold('');
    expect((await detail()).sourceHold).toBe('');
    await start({});
  });

  it('holds back no way back of what is under way', async () => {
    const id = await start({});
    const opens = (await get<Rollout>(`/rollouts/${id}`)).nextWindow?.start ?? 0;
    await server.advance((opens - server.now) / 60_000 + 60);
    await hold('something is wrong with it');
    const back = await server.send<{ id: string }>('post', `/rollouts/${id}/go-back`, {});
    await server.advance(600);
    const rollouts = await get<Rollout[]>('/rollouts');
    const way = rollouts.find((one) => one.poolId === poolId && one.isReturn);
    expect([back.id.length > 0, way?.isReturn]).toEqual([true, true]);
  });

  it('of a pool that streams is held against a switch', async () => {
    const streamed = (await get<PoolSummary[]>('/pools')).find((pool) => pool.name === 'digitisation');
    await server.send('put', `/pools/${streamed?.id ?? ''}/source-hold`, { reason: 'audit' });
    const { pools } = await get<{ pools: { versions: { refusal: string; hosts: number }[] }[] }>(
      '/streaming',
    );
    const others = pools[0]?.versions.filter((version) => version.hosts === 0) ?? [];
    expect(others.length).toBeGreaterThan(0);
    for (const { refusal } of others) expect(refusal).toBe('what digitisation is made from is held: audit');
  });
});
