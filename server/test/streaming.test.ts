/** Hosts that stream: switched to another image and back, scratch disks that fill, and stores that are full. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { PoolDetail, PoolSummary } from '@vatline/contract/pool/endpoints';
import type { PoolHealth } from '@vatline/contract/pool/health';
import type { PoolPreview } from '@vatline/contract/pool/preview';
import type { StreamedPool, Streaming } from '@vatline/contract/pool/streaming';
import { DAY } from '@vatline/core/time/instant';
import { TestServer } from './harness.ts';
import { hostsOf, nightlyRollout, smallPool } from './usual-requests.ts';

let server: TestServer;
beforeEach(async () => (server = await TestServer.open({ demo: true })), 120_000);
afterEach(() => server.close());

const get = <T>(path: string) => server.getAnew<T>(path);
const streaming = () => get<Streaming>('/streaming');

async function digitisation(): Promise<StreamedPool> {
  const [pool] = (await streaming()).pools;
  if (!pool) throw new Error('no pool streams');
  return pool;
}

async function versionNumbered(number: number): Promise<string> {
  const found = (await digitisation()).versions.find((version) => version.number === number);
  if (!found) throw new Error(`no version ${number}`);
  return found.id;
}

async function switchTo(number: number): Promise<number> {
  const { id } = await digitisation();
  const body = { imageVersionId: await versionNumbered(number) };
  return (await server.send<{ waiting: number }>('post', `/pools/${id}/switch`, body)).waiting;
}

async function restart(hosts: readonly string[]): Promise<void> {
  const { id } = await digitisation();
  const body = { action: 'restart', hosts };
  const { jobId } = await server.send<{ jobId: string }>('post', `/pools/${id}/actions`, body);
  await server.untilEnded(jobId);
  // Who has started with what is looked at each minute.
  await server.advance(2);
}

/** How many hosts run each version, by its number. */
async function running(): Promise<Record<string, number>> {
  const { versions } = await digitisation();
  return Object.fromEntries(
    versions.filter(({ hosts }) => hosts > 0).map(({ number, hosts }) => [number, hosts]),
  );
}

const names = async () => (await hostsOf(get, (await digitisation()).id)).map((host) => host.name);

describe('a switch', () => {
  it('waits for each host’s next start, is the pool’s blend with the last, and goes back the same way', async () => {
    const { id, versions } = await digitisation();
    const before = (await get<PoolDetail>(`/pools/${id}`)).blend;
    expect(versions.map((version) => [version.number, version.hosts]).slice(0, 2)).toEqual([
      [12, 0],
      [11, 16],
    ]);
    expect(await switchTo(12)).toBe(16);
    const all = await names();
    expect((await digitisation()).switch).toMatchObject({ number: 12, switched: 0, waiting: 16, off: 0 });
    const [store] = (await streaming()).stores;
    expect(store?.images.map(({ name, now, next }) => [name, now, next]).sort()).toEqual([
      ['Reader desktop 11', 16, 0],
      ['Reader desktop 12', 0, 16],
    ]);

    await restart(all.slice(0, 3));
    expect(await running()).toEqual({ 11: 13, 12: 3 });
    // The pool is on neither whole: its blend is still the one before.
    expect((await get<PoolDetail>(`/pools/${id}`)).blend).toEqual(before);

    await server.send('post', `/pools/${id}/actions`, { action: 'power off', hosts: all.slice(3, 5) });
    await server.advance(5);
    expect((await digitisation()).switch).toMatchObject({ switched: 3, waiting: 13, off: 2 });
    await restart(all.slice(5));
    const { jobId } = await server.send<{ jobId: string }>('post', `/pools/${id}/actions`, {
      action: 'power on',
      hosts: all.slice(3, 5),
    });
    await server.untilEnded(jobId);
    await server.advance(2);
    expect(await running()).toEqual({ 12: 16 });
    const after = await get<PoolDetail>(`/pools/${id}`);
    expect([after.blend?.imageNumber, after.nextBlend]).toEqual([12, null]);
    expect((await digitisation()).switch).toBeNull();

    // Back, with the blend that was there before, not another one like it.
    expect(await switchTo(11)).toBe(16);
    await restart(all);
    expect(await running()).toEqual({ 11: 16 });
    expect((await get<PoolDetail>(`/pools/${id}`)).blend?.id).toBe(before?.id);
    expect((await streaming()).stores[0]?.images.map((image) => image.name)).toEqual(['Reader desktop 11']);
  });

  it('half way goes back for those that have started with it, and is over for the others at once', async () => {
    await switchTo(12);
    const all = await names();
    await restart(all.slice(0, 4));
    expect(await switchTo(11)).toBe(4);
    expect((await digitisation()).switch).toMatchObject({ number: 11, switched: 12, waiting: 4 });
    await restart(all.slice(0, 4));
    expect((await digitisation()).switch).toBeNull();
    expect(await running()).toEqual({ 11: 16 });
  });

  it('taken back before anybody started with it is over at once', async () => {
    await switchTo(12);
    expect(await switchTo(11)).toBe(0);
    expect((await digitisation()).switch).toBeNull();
  });

  it('lets those be restarted that nobody is on', async () => {
    await switchTo(12);
    const { id, switch: open } = await digitisation();
    const sessions = (await hostsOf(get, id)).filter((host) => host.sessions > 0).length;
    expect(open?.idle).toBe(16 - sessions);
    const { jobId, hosts } = await server.send<{ jobId: string; hosts: number }>(
      'post',
      `/pools/${id}/switch/restart`,
    );
    expect(hosts).toBe(open?.idle);
    await server.untilEnded(jobId);
    await server.advance(2);
    expect((await running())['12'] ?? 0).toBe(hosts);
  });

  it('goes on after a stop, and rollouts and two switches at once are told off', async () => {
    const { id } = await digitisation();
    const [first, second] = await Promise.all([switchTo(12), switchTo(10)].map((p) => p.catch(() => -1)));
    expect([first, second]).toEqual([16, 16]);
    const to = (await digitisation()).switch?.number ?? 0;
    const rollout = nightlyRollout(id, await versionNumbered(9), 2);
    expect(await server.refused('post', '/rollouts', rollout)).toMatchObject({
      status: 409,
      detail: expect.stringContaining('wait for another image at their next start') as string,
    });
    await server.restart({ demo: true });
    await restart(await names());
    expect(await running()).toEqual({ [to]: 16 });
  });

  it('of which no store heard before a stop is told again, also where they do not answer at first', async () => {
    await switchTo(12);
    // As if the stop had come before the stores were told.
    const all = await names();
    const elsewhere = await server.app.db
      .selectFrom('image_version')
      .select('image_id')
      .where('id', '=', await versionNumbered(11))
      .executeTakeFirstOrThrow();
    await server.app.estate.streaming.assign('elsewhere', all, elsewhere.image_id);
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'assign stream' });
    await server.restart({ demo: true });
    await server.advance(3);
    await restart(all);
    expect(await running()).toEqual({ 12: 16 });
  });

  it('is refused with the reason, and nothing is changed', async () => {
    const { id } = await digitisation();
    const refused = async (poolId: string, imageVersionId: string) =>
      (await server.refused('post', `/pools/${poolId}/switch`, { imageVersionId })).faults[0]?.message;
    expect(await refused(id, await versionNumbered(11))).toMatch(/all hosts of digitisation run version 11/);
    expect(await refused(id, 'not-there')).toBe('there is no such image version');
    const desk = (await get<PoolSummary[]>('/pools')).find((pool) => pool.name === 'desk-staff');
    expect(await refused(desk?.id ?? '', await versionNumbered(12))).toMatch(/have disks of their own/);
    await server.send('post', '/rollouts', nightlyRollout(id, await versionNumbered(12), 2));
    expect(await refused(id, await versionNumbered(10))).toMatch(/a rollout of digitisation is under way/);
    expect((await digitisation()).switch).toBeNull();
  });

  it('that no store can be told of is taken back', async () => {
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'assign stream' });
    const { id } = await digitisation();
    const { status, detail } = await server.refused('post', `/pools/${id}/switch`, {
      imageVersionId: await versionNumbered(12),
    });
    expect([status, detail]).toEqual([409, expect.stringContaining('practice')]);
    expect((await digitisation()).switch).toBeNull();
    expect((await get<PoolDetail>(`/pools/${id}`)).nextBlend).toBeNull();
    expect(await switchTo(12)).toBe(16);
  });
});

describe('a scratch disk', () => {
  it('is told of before it is full; then its host answers nobody, until it is started anew', async () => {
    const [first] = (await streaming()).scratch;
    if (!first || first.fullAt === null) throw new Error('none fills');
    const health = async () =>
      (await get<PoolHealth[]>('/pool-health')).find((pool) => pool.name === 'digitisation')?.findings ?? [];
    expect(first.isSoon).toBe(false);
    expect((await health()).map((finding) => finding.what)).not.toContain('scratch');
    await server.advance(Math.ceil((first.fullAt - server.now - DAY / 2) / 60_000));
    expect((await streaming()).scratch[0]).toMatchObject({ host: first.host, isSoon: true });
    expect((await streaming()).fullSoon).toBe(1);
    expect(await health()).toContainEqual({ what: 'scratch', tone: 'attention', count: 1, hour: null });

    await server.advance(DAY / 2 / 60_000 + 30);
    const full = (await hostsOf(get, first.poolId)).find((host) => host.name === first.host);
    expect(full).toMatchObject({ isSilent: true, ownBytes: 6e9, scratchBytes: 6e9 });
    await restart([first.host]);
    const after = (await streaming()).scratch.find((disk) => disk.host === first.host);
    expect(after?.usedBytes).toBeLessThan(1e7);
    await server.advance(10);
    const again = (await hostsOf(get, first.poolId)).find((host) => host.name === first.host);
    expect(again?.isSilent).toBe(false);
  });
});

describe('a streaming store', () => {
  /** A pool of virtual machines that stream from the store of rack-7, which has 8 streams left. */
  async function streamedPool(count: number, change: object = {}) {
    const imageVersionId = await versionNumbered(11);
    return {
      ...smallPool('streamed', imageVersionId, 'WCL-ST-##', count),
      clone: 'network',
      store: 'stream-7',
      scratchGigabytes: 10,
      ...change,
    };
  }
  const preview = async (change: object, count = 8) =>
    server.send<PoolPreview>('post', '/pools/preview', await streamedPool(count, change));

  it('has so many streams, and a pool that needs more does not fit', async () => {
    const { fit, faults } = await preview({}, 9);
    expect(fit).toMatchObject({ fits: false, largest: 8, binding: 'streams' });
    expect(fit?.shared.find((row) => row.what === 'streams')).toMatchObject({ needed: 9, there: 8 });
    expect(faults.map((fault) => fault.message)).toEqual([
      '9 do not fit: not enough streams; the largest batch that fits is 8',
    ]);
    expect((await preview({}, 8)).fit?.fits).toBe(true);
  });

  it('is asked for by its name, and must be there', async () => {
    const messages = async (change: object) =>
      (await preview(change)).faults.filter((fault) => fault.path === 'store').map((fault) => fault.message);
    expect(await messages({ store: null })).toEqual(['choose the streaming store that they stream from']);
    expect(await messages({ store: 'stream-9' })).toEqual(['there is no streaming store stream-9']);
    expect(await messages({})).toEqual([]);
  });

  it('serves hosts that are made, which are forced beyond it one by one until none is left', async () => {
    const { jobId } = await server.send<{ jobId: string; poolId: string }>(
      'post',
      '/pools',
      await streamedPool(10, { isAnyway: true, onFault: 'go on' }),
    );
    const job = await server.untilEnded(jobId);
    expect(job.state).toBe('failed');
    const pool = (await streaming()).pools.find((one) => one.name === 'streamed');
    expect(pool?.hosts).toBe(8);
    expect((await streaming()).stores[0]?.streams).toEqual({ total: 24, used: 24 });
    expect(job.error).toMatch(/2 hosts were not made.*has no stream left/);
  });
});
