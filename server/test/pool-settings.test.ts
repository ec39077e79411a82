/** A pool's settings, changed once it is there. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { PoolDetail, PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Host } from '@vatline/contract/pool/host';
import { TestServer } from './harness.ts';
import { hostsOf } from './usual-requests.ts';

let server: TestServer;
let poolId: string;
beforeEach(async () => {
  server = await TestServer.open({ demo: true });
  poolId = (await server.get<PoolSummary[]>('/pools')).find((pool) => pool.name === 'desk-staff')?.id ?? '';
}, 120_000);
afterEach(() => server.close());

const detail = () => server.getAnew<PoolDetail>(`/pools/${poolId}`);

async function body(change: object, basedOn?: number) {
  const { settings, kind, clone, sessionLimit, settingsRevision } = await detail();
  return {
    settings: { ...settings, kind, clone, sessionLimit, ...change },
    basedOn: basedOn ?? settingsRevision,
  };
}
const change = async (part: object, basedOn?: number) =>
  server.send<{ revision: number }>('put', `/pools/${poolId}/settings`, await body(part, basedOn));
const refused = async (part: object, basedOn?: number) =>
  server.refused('put', `/pools/${poolId}/settings`, await body(part, basedOn));
const held = () => server.app.estate.broker.pool('desk-staff');

describe('settings of a pool in service', () => {
  it('that people meet reach the broker at once, and are kept with a revision', async () => {
    expect(await change({ idleMinutes: 30, title: 'Staff desktop', sessionLimit: 9 })).toEqual({
      revision: 2,
    });
    expect(await held()).toMatchObject({ idleMinutes: 30, title: 'Staff desktop', sessionLimit: 9 });
    expect(await detail()).toMatchObject({
      sessionLimit: 9,
      settingsRevision: 2,
      settings: { idleMinutes: 30, title: 'Staff desktop' },
    });
  });

  it('of how hosts are made reach only those made from then on', async () => {
    const before = await hostsOf((path) => server.getAnew(path), poolId);
    const cores = async () =>
      (await server.getAnew<{ sites: { name: string; cores: { used: number } }[] }>('/estate')).sites.find(
        (site) => site.name === 'yard-a',
      )?.cores.used ?? 0;
    const used = await cores();
    await change({ size: 'shared-12' });
    expect(await cores()).toBe(used);
    const { jobId } = await server.send<{ jobId: string }>('post', `/pools/${poolId}/more`, { count: 1 });
    expect((await server.untilEnded(jobId)).state).toBe('done');
    const after = await hostsOf((path) => server.getAnew(path), poolId);
    const made = after.find((host: Host) => !before.some((one) => one.name === host.name));
    expect(made?.state).toBe('in service');
    // Twelve cores of the new size.
    expect((await cores()) - used).toBe(12);
  });

  it.each<[string, object, string, RegExp]>([
    [
      'the kind of clone',
      { clone: 'network' },
      'clone',
      /cannot be changed while it has hosts; make another pool/,
    ],
    ['for whom hosts are', { kind: 'dedicated' }, 'kind', /cannot be changed while it has hosts/],
    ['a size that its site has not', { size: 'maps-10' }, 'size', /yard-a has no machine size maps-10/],
    ['a zone that is none', { zone: 'Europe/Nowhere' }, 'zone', /./],
    ['a key that is not there', { licence: 'no-key' }, 'licence', /there is no key no-key/],
    ['an account that is not there', { joinAccount: 'nobody' }, 'joinAccount', /has no account nobody/],
    ['an idle limit of nothing', { idleMinutes: 0 }, 'settings.idleMinutes', /at least 1 minute/],
    ['sessions of none', { sessionLimit: 0 }, 'settings.sessionLimit', /at least 1/],
  ])('refuse %s, and nothing is changed', async (_what, part, path, message) => {
    const [before, broker] = [await detail(), await held()];
    const { faults } = await refused(part);
    expect(faults.find((fault) => fault.path === path)?.message).toMatch(message);
    expect([await detail(), await held()]).toEqual([before, broker]);
  });

  it('of two people at once are kept of the first, and the second is told', async () => {
    await change({ idleMinutes: 30 }, 1);
    const { status, faults } = await refused({ idleMinutes: 60 }, 1);
    expect([status, faults[0]?.path]).toEqual([409, 'basedOn']);
    expect((await held())?.idleMinutes).toBe(30);
    const both = await Promise.all(
      [10, 20].map((idleMinutes) =>
        change({ idleMinutes }, 2).then(
          () => 1,
          () => 0,
        ),
      ),
    );
    expect(both.filter((kept) => kept === 1)).toHaveLength(1);
    const kept = (await detail()).settings.idleMinutes;
    expect(kept).toBe(both[0] === 1 ? 10 : 20);
    // The broker holds people to what is kept, whoever was told of last.
    expect((await held())?.idleMinutes).toBe(kept);
  });

  it('that the broker does not take are not kept; after a stop it is told what is', async () => {
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'set pool' });
    const { status, detail: why } = await refused({ idleMinutes: 30 });
    expect([status, why]).toEqual([409, expect.stringContaining('practice')]);
    expect((await detail()).settings.idleMinutes).toBeNull();
    // As if a stop had come between the broker and our own books.
    const now = await held();
    if (now) await server.app.estate.broker.setPool('elsewhere', 'desk-staff', { ...now, idleMinutes: 99 });
    await server.restart({ demo: true });
    expect((await held())?.idleMinutes).toBeNull();
  });
});
