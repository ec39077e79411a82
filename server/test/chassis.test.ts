/** Physical machines: found, made hosts of, treated as any other host, and given back. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { ChassisShown } from '@vatline/contract/chassis';
import type { HostsPreview } from '@vatline/contract/pool/more-hosts';
import type { PoolPreview } from '@vatline/contract/pool/preview';
import type { StreamedPool, Streaming } from '@vatline/contract/pool/streaming';
import { TestServer } from './harness.ts';
import { hostsOf, ledgerOf } from './usual-requests.ts';

let server: TestServer;
beforeEach(async () => (server = await TestServer.open({ demo: true })), 120_000);
afterEach(() => server.close());

const get = <T>(path: string) => server.getAnew<T>(path);

async function rack(name = 'rack-8'): Promise<ChassisShown> {
  const found = (await get<ChassisShown[]>('/chassis')).find((one) => one.name === name);
  if (!found) throw new Error(`no ${name}`);
  return found;
}

/** The slots of rack-8 as one letter each: free, of a host, silent, not asked. */
async function slots(): Promise<string> {
  const letters = { answers: 'f', silent: 's', 'not asked': '-' };
  return (await rack()).slots.map(({ state, host }) => (host === null ? letters[state] : 'h')).join('');
}

const lookThrough = () => server.send('post', '/chassis/rack-8/look');
/** Sixteen slots take twenty seconds each. */
const LOOK_MINUTES = 6;

async function lookWhole(times = 1): Promise<void> {
  for (let i = 0; i < times; i++) {
    await lookThrough();
    await server.advance(LOOK_MINUTES);
  }
}

async function streamed(name: string): Promise<StreamedPool> {
  const found = (await get<Streaming>('/streaming')).pools.find((pool) => pool.name === name);
  if (!found) throw new Error(`${name} streams nothing`);
  return found;
}

async function poolOf(chosen: readonly number[], change: object = {}) {
  const digitisation = await streamed('digitisation');
  return {
    name: 'scanning',
    kind: 'pooled',
    clone: 'network',
    chassis: 'rack-8',
    slots: chosen,
    count: chosen.length,
    size: 'as found',
    imageVersionId: digitisation.versions.find((version) => version.number === 11)?.id,
    pattern: 'WCL-SC-##',
    start: 1,
    ou: 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example',
    places: [{ site: 'rack-8', network: 'scanning-2', datastore: 'local' }],
    store: 'stream-8',
    scratchGigabytes: 8,
    sessionLimit: 1,
    ...change,
  };
}

const make = async (chosen: readonly number[], change: object = {}) =>
  server.send<{ poolId: string; jobId: string }>('post', '/pools', await poolOf(chosen, change));
const refusals = async (chosen: readonly number[], change: object = {}) =>
  (await server.refused('post', '/pools', await poolOf(chosen, change))).faults;

const sixteen = Array.from({ length: 16 }, (_, i) => i + 1);

describe('looking through a chassis', () => {
  it('asks slot by slot, and what is shy answers the second time', async () => {
    expect(await slots()).toBe('-'.repeat(16));
    await lookThrough();
    await server.advance(2);
    expect(await slots()).toBe('ffffff----------');
    expect((await rack()).asked).toBe(6);
    await server.advance(4);
    expect(await slots()).toBe('ffffffffffsfffff');
    expect((await rack()).slots[10]).toMatchObject({ serial: '', processors: 0, memoryBytes: 0 });
    expect((await rack()).slots[0]).toMatchObject({ processors: 8, memoryBytes: 32e9 });
    await lookThrough();
    // While it is asked again, what was known stays known.
    expect(await slots()).toBe('ffffffffffsfffff');
    await server.advance(LOOK_MINUTES);
    expect(await slots()).toBe('f'.repeat(16));
    expect((await rack()).asked).toBeNull();
  });

  it('is done once at a time, can be stopped, and goes on after a restart', async () => {
    await lookThrough();
    expect((await server.refused('post', '/chassis/rack-8/look')).detail).toBe(
      'rack-8 is being looked through already',
    );
    await server.advance(1);
    await server.restart({ demo: true });
    await server.advance(1);
    expect(await slots()).toBe('ffffff----------');
    await server.send('delete', '/chassis/rack-8/look');
    await server.advance(10);
    expect(await slots()).toBe('ffffff----------');
    expect((await server.refused('delete', '/chassis/rack-8/look')).detail).toBe(
      'rack-8 is not being looked through',
    );
    expect((await server.refused('post', '/chassis/rack-9/look')).status).toBe(404);
  });

  it('that fails half way says so, and hosts are made of those that answered only', async () => {
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'look through chassis' });
    await lookWhole();
    expect(await slots()).toBe('ffffffffssssssss');
    expect((await rack()).trouble).toMatch(/switched on for practice/);
    const faults = await refusals([8, 9]);
    expect(faults).toEqual([
      { path: 'slots.1', message: 'slot 9 of rack-8 does not answer; look through it again' },
    ]);
    const { jobId } = await make([7, 8]);
    expect((await server.untilEnded(jobId)).state).toBe('done');
    expect(await slots()).toBe('ffffffhhssssssss');
    await lookWhole();
    // The shy one has been asked for the second time by now.
    expect(await slots()).toBe('ffffffhhffffffff');
  });
});

describe('hosts of physical machines', () => {
  beforeEach(() => lookWhole(2));

  it('are sixteen with accounts and registrations; they are switched to another image and back', async () => {
    const preview = await server.send<PoolPreview>('post', '/pools/preview', await poolOf(sixteen));
    expect(preview.faults).toEqual([]);
    // 10.22.0.64/27 has 32 addresses, of which network, broadcast, gateway and three others are none of ours.
    const rows = [...(preview.fit?.places[0]?.rows ?? []), ...(preview.fit?.shared ?? [])];
    expect(rows.map(({ what, needed, there }) => [what, needed, there])).toEqual([
      ['addresses', 16, 26],
      ['streams', 16, 20],
      ['names', 16, 99],
    ]);
    expect(preview.storage).toBeNull();
    const { poolId, jobId } = await make(sixteen);
    expect((await server.untilEnded(jobId)).state).toBe('done');
    expect(await slots()).toBe('h'.repeat(16));
    expect((await rack()).slots[15]).toMatchObject({
      host: 'WCL-SC-16',
      pool: { id: poolId, name: 'scanning' },
    });
    const ledger = await ledgerOf(get, jobId);
    expect(new Set(ledger.map((row) => row.system))).toEqual(
      new Set(['broker', 'chassis', 'directory', 'agent']),
    );
    const all = await hostsOf(get, poolId);
    expect(all.map((host) => [host.state, host.scratchBytes])).toEqual(
      sixteen.map(() => ['in service', 8e9]),
    );

    const versions = (await streamed('scanning')).versions;
    const switchAndRestart = async (number: number) => {
      const imageVersionId = versions.find((version) => version.number === number)?.id;
      await server.send('post', `/pools/${poolId}/switch`, { imageVersionId });
      const hosts = all.map((host) => host.name);
      const restart = await server.send<{ jobId: string }>('post', `/pools/${poolId}/actions`, {
        action: 'restart',
        hosts,
      });
      await server.untilEnded(restart.jobId);
      await server.advance(2);
      const { versions: now, switch: open } = await streamed('scanning');
      expect(open).toBeNull();
      return now.filter((version) => version.hosts > 0).map((version) => [version.number, version.hosts]);
    };
    expect(await switchAndRestart(12)).toEqual([[12, 16]]);
    expect(await switchAndRestart(11)).toEqual([[11, 16]]);
  });

  it('are powered, removed and made again like any other, and their slot goes with them', async () => {
    const { poolId, jobId } = await make([1, 2, 3]);
    await server.untilEnded(jobId);
    const act = async (action: string, hosts: string[]) => {
      const job = await server.send<{ jobId: string }>('post', `/pools/${poolId}/actions`, { action, hosts });
      return server.untilEnded(job.jobId);
    };
    await act('power off', ['WCL-SC-02']);
    expect((await hostsOf(get, poolId)).map((host) => host.state)).toEqual([
      'in service',
      'off',
      'in service',
    ]);
    await act('power on', ['WCL-SC-02']);
    await act('remove', ['WCL-SC-03']);
    expect((await slots()).slice(0, 4)).toBe('hhff');

    const more = { count: 2, slots: [3, 5] };
    const preview = await server.send<HostsPreview>('post', `/pools/${poolId}/more/preview`, more);
    expect([preview.names, preview.faults]).toEqual([['WCL-SC-03', 'WCL-SC-04'], []]);
    const added = await server.send<{ jobId: string }>('post', `/pools/${poolId}/more`, more);
    expect((await server.untilEnded(added.jobId)).state).toBe('done');
    expect((await slots()).slice(0, 6)).toBe('hhhfhf');
    const without = await server.refused('post', `/pools/${poolId}/more`, { count: 1 });
    expect(without.faults).toContainEqual({
      path: 'slots',
      message: 'choose the machines of rack-8 that hosts are made of',
    });
  });

  it('are taken once: a slot that is being made into a host is not free for another', async () => {
    const first = await make([1, 2]);
    expect((await rack()).slots[1]).toMatchObject({ host: 'WCL-SC-02', isBeingMade: true });
    expect(await refusals([2, 3], { name: 'other', pattern: 'WCL-SD-##' })).toEqual([
      { path: 'slots.0', message: 'slot 2 of rack-8 is WCL-SC-02 already' },
    ]);
    const both = await Promise.all(
      ['one', 'two'].map(async (name, i) =>
        statusOf(await poolOf([5, 6], { name, pattern: `WCL-S${i}-##` })),
      ),
    );
    expect([...both].sort()).toEqual([200, 422]);
    await server.untilEnded(first.jobId);
  });

  const statusOf = async (body: object): Promise<number> => {
    try {
      await server.send('post', '/pools', body);
      return 200;
    } catch {
      return 422;
    }
  };

  it('leave nothing behind when their making is undone', async () => {
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'associate' });
    const { jobId } = await make([1, 2, 3], { atOnce: 1 });
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'failed' });
    const undo = await server.send<{ jobId: string }>('post', `/jobs/${jobId}/undo`);
    await server.untilEnded(undo.jobId);
    expect(await slots()).toBe('f'.repeat(16));
    const left = server.outside(
      `select name from machine where name like 'WCL-SC-%' union select name from computer where name like 'WCL-SC-%'
         union select host from registration where host like 'WCL-SC-%'`,
    );
    const streams = server.outside(`select machine_id from stream where store = 'stream-8'`);
    expect([left, streams]).toEqual([[], []]);
  });

  it.each<[string, object, string, string]>([
    ['a chassis that is not there', { chassis: 'rack-9' }, 'chassis', 'there is no chassis rack-9'],
    [
      'a clone of a disk',
      { clone: 'linked' },
      'clone',
      'machines of a chassis have no system disk; they stream their image',
    ],
    [
      'a size of virtual machines',
      { size: 'desk-2' },
      'size',
      'machines of a chassis are as they were found; their size is called as found',
    ],
    [
      'another number of hosts',
      { count: 3 },
      'count',
      'must be 2, since so many machines of rack-8 are chosen',
    ],
    [
      'a network of elsewhere',
      { places: [{ site: 'rack-8', network: 'desks', datastore: 'local' }] },
      'places.0.network',
      'rack-8 has no network desks',
    ],
    [
      'a site of elsewhere',
      { places: [{ site: 'yard-a', network: 'scanning-2', datastore: 'local' }] },
      'places.0.site',
      'rack-8 stands on rack-8',
    ],
    ['a store that is not there', { store: 'stream-9' }, 'store', 'there is no streaming store stream-9'],
  ])('are refused with %s', async (_what, change, path, message) => {
    expect(await refusals([1, 2], change)).toContainEqual({ path, message });
    expect(await slots()).toBe('f'.repeat(16));
  });
});
