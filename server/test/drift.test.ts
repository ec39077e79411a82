/** What hosts really have: found on the practice estate, mended by a rollout to their own blend. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DriftedHost } from '@vatline/contract/drift';
import type { BlendUse } from '@vatline/contract/blends';
import type { JournalRow } from '@vatline/contract/home';
import type { Page } from '@vatline/contract/page';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { ForecastAnswer, Rollout } from '@vatline/contract/rollout';
import { TestServer } from './harness.ts';
import { hostsOf, nightlyRollout } from './usual-requests.ts';

let server: TestServer;
let pools: PoolSummary[];
beforeAll(async () => {
  server = await TestServer.open({ demo: true });
  pools = await server.get<PoolSummary[]>('/pools');
}, 120_000);
afterAll(() => server.close());

const poolId = (name: string) => pools.find((one) => one.name === name)?.id ?? '';
const drifted = async (query = '') => (await server.get<Page<DriftedHost>>(`/drift${query}`)).rows;
const look = (name: string) => server.send('post', '/drift/look', { poolId: poolId(name) });
const inSecret = (host: string, change: string) =>
  server.send('post', '/estate/secret-changes', { host, change });
const firstOf = async (name: string, number = 0) =>
  (await hostsOf((path) => server.get(path), poolId(name)))[number]?.name ?? '';
const says = ({ name, drift, mending }: DriftedHost) => [
  name,
  drift.map(({ kind, what }) => (what === '' ? kind : `${kind}: ${what}`)).join(', '),
  mending,
];

describe('a look at the hosts', () => {
  it('finds within the hour what somebody changed on a desk and told nobody', async () => {
    expect(await drifted()).toEqual([]);
    await server.advance(60);
    expect((await drifted()).map(says)).toEqual([['WCL-DS-007', 'changed disk', 'rebuild']]);
    const rows =
      await server.get<{ pool: string; hosts: number; drifted: number; lookedAt: number | null }[]>(
        '/drift/pools',
      );
    expect(rows.find(({ pool }) => pool === 'desk-staff')).toMatchObject({ hosts: 24, drifted: 1 });
    expect(rows.every(({ lookedAt }) => lookedAt !== null)).toBe(true);
  });

  it('tells it once, however often it looks', async () => {
    await look('desk-staff');
    await look('desk-staff');
    const { rows } = await server.get<Page<JournalRow>>('/journal?q=blend%20says');
    expect(rows.map(({ text }) => text)).toEqual(['desk-staff: WCL-DS-007 is not what its blend says']);
  });

  it('names the container that is gone, and puts what has another image first', async () => {
    const [first, second] = [await firstOf('map-lab'), await firstOf('pilot-bench')];
    await inSecret(first, 'a container is taken off');
    await inSecret(second, 'an older disk comes back');
    await look('map-lab');
    await look('pilot-bench');
    const all = await drifted();
    expect(all.map(({ drift }) => drift[0]?.kind)).toEqual([
      'another image',
      'container missing',
      'changed disk',
    ]);
    expect(all[1]?.drift[0]?.what).toMatch(/\d$/);
    expect((await drifted(`?pool=${poolId('map-lab')}`)).map(({ name }) => name)).toEqual([first]);
  });

  it('comes page by page, each host once', async () => {
    const first = await server.get<Page<DriftedHost>>('/drift?limit=2');
    const rest = await server.get<Page<DriftedHost>>(`/drift?limit=2&after=${first.next ?? ''}`);
    expect([first.total, first.rows.length, rest.rows.length, rest.next]).toEqual([3, 2, 1, null]);
    expect(new Set([...first.rows, ...rest.rows].map(({ id }) => id)).size).toBe(3);
  });

  it.each([
    [{ host: 'nobody', change: 'a program is installed' }, 'host'],
    [{ host: 'WCL-DS-001', change: 'it is painted' }, 'change'],
  ])('of %j in secret is refused at %s', async (body, path) => {
    const refused = await server.refused('post', '/estate/secret-changes', body);
    expect(refused.faults[0]?.path).toBe(path);
  });

  it('of a pool that is not there is refused', async () => {
    expect((await server.refused('post', '/drift/look', { poolId: 'pool-none' })).status).toBe(404);
  });
});

describe('mending', () => {
  const mend = async (name: string) => {
    const use = (await server.get<BlendUse[]>('/blends')).find((one) => one.pool === name);
    const { imageVersionId = '', packages = [] } = use?.current ?? {};
    return {
      ...nightlyRollout(poolId(name), imageVersionId, 1),
      packageVersionIds: packages.map(({ id }) => id),
    };
  };

  it('is a rollout to their own blend, which takes just those that drifted, and no more is done than needed', async () => {
    const lab = await mend('map-lab');
    const forecast = await server.send<ForecastAnswer>('post', '/rollouts/forecast', { ...lab, runs: 1 });
    expect([forecast.hosts, forecast.ways]).toEqual([1, { rebuild: 0, attach: 0, 'attach in service': 1 }]);
    const pilot = await server.send<ForecastAnswer>('post', '/rollouts/forecast', {
      ...(await mend('pilot-bench')),
      runs: 1,
    });
    expect([pilot.hosts, pilot.ways.rebuild]).toEqual([1, 1]);
  });

  it('leaves nothing found when it is done, also to the next look', async () => {
    await server.send('post', '/rollouts', await mend('map-lab'));
    await server.send('post', '/rollouts', await mend('pilot-bench'));
    await server.advance(22 * 60);
    const states = (await server.get<Rollout[]>('/rollouts')).map(({ pool, state }) => `${pool} ${state}`);
    expect(states).toEqual(expect.arrayContaining(['map-lab done', 'pilot-bench done']));
    expect((await drifted()).map(says)).toEqual([['WCL-DS-007', 'changed disk', 'rebuild']]);
    await look('map-lab');
    await look('pilot-bench');
    expect((await drifted()).map(({ name }) => name)).toEqual(['WCL-DS-007']);
  });
});
