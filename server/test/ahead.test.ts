/** What will be another for a pool, a group or a person: over rollouts, rings that wait and cuts to come. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Ahead } from '@vatline/contract/ahead';
import type { KeptSchedule } from '@vatline/contract/cut-schedule';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Rollout } from '@vatline/contract/rollout';
import { TestServer } from './harness.ts';

let server: TestServer;
const pools: Record<string, PoolSummary> = {};
/** Wall time in Dublin on days of March 2027; the demo begins on Monday 22 at 08:00. */
const on = (date: number, hour: number) => Date.UTC(2027, 2, date, date > 28 ? hour - 1 : hour);
const ahead = (of: Ahead['of'], who: string, at: number) =>
  server.getAnew<Ahead>(`/ahead?of=${of}&who=${encodeURIComponent(who)}&at=${at}`);
const idOf = (name: string) => pools[name]?.id ?? '';

beforeAll(async () => {
  server = await TestServer.open({ demo: true });
  for (const pool of await server.get<PoolSummary[]>('/pools')) pools[pool.name] = pool;
}, 60_000);
afterAll(() => server.close());

describe('a pool', () => {
  it('is as now before its rollout begins, under way in its window, and another after it', async () => {
    const [friday, midst, monday] = await Promise.all(
      [on(26, 8), on(28, 3) - 30 * 60_000, on(29, 8)].map((at) => ahead('pool', idOf('desk-staff'), at)),
    );
    const said = ({ pools: [pool] }: Ahead) => [
      pool?.then?.number,
      pool?.difference?.headline,
      pool?.changes.map(({ standing, hosts, title }) => [standing, hosts, title]),
    ];
    const change = (standing: string) => [[standing, 24, 'rollout of desk-staff']];
    expect(friday && said(friday)).toEqual([14, 'exactly the same', change('later')]);
    expect(midst && said(midst)).toEqual([14, 'exactly the same', change('under way')]);
    expect(monday && said(monday)).toEqual([15, 'Staff multi-session 14 to 15', change('done')]);
  });

  it('of which nothing is planned has no change', async () => {
    const { pools: list } = await ahead('pool', idOf('map-lab'), on(29, 8));
    expect(list).toMatchObject([
      { pool: 'map-lab', changes: [], difference: { headline: 'exactly the same' } },
    ]);
  });

  it('whose rollout is paused waits for somebody, and is never done', async () => {
    const desk = (await server.get<Rollout[]>('/rollouts')).find(({ pool }) => pool === 'desk-staff');
    await server.send('post', `/rollouts/${desk?.id ?? ''}/pause`, { why: 'look first' });
    const { pools: paused } = await ahead('pool', idOf('desk-staff'), on(29, 8));
    expect(paused[0]?.changes).toMatchObject([
      { standing: 'later', begins: null, done: null, waitsFor: 'it is paused' },
    ]);
    await server.send('post', `/rollouts/${desk?.id ?? ''}/go-on`);
  });
});

describe('somebody', () => {
  it('has the pools whose desktop is theirs, and of their packages those that they may open', async () => {
    const { pools: clerks, name } = await ahead('group', 'Desk clerks', on(29, 8));
    expect([name, clerks.map(({ pool, through }) => [pool, through])]).toEqual([
      'Desk clerks',
      [['desk-staff', ['Desk clerks', 'Branch staff']]],
    ]);
    const { rows } = await server.get<{ rows: { account: string; name: string }[] }>(
      '/estate/users?q=desk%20clerk&limit=1',
    );
    const person = await ahead('person', rows[0]?.account ?? '', on(29, 8));
    expect([person.name, person.pools.map(({ pool, then }) => [pool, then?.number])]).toEqual([
      rows[0]?.name,
      [['desk-staff', 15]],
    ]);
  });
});

describe('what is yet to be cut', () => {
  it('is named, and nothing is guessed of it; the pool is another all the same', async () => {
    const at = `/lines/${pools['pilot-bench']?.lineId ?? ''}/schedule`;
    const { revision } = await server.get<KeptSchedule>(at);
    await server.send('put', at, {
      rule: 'FREQ=WEEKLY;BYDAY=WE',
      at: '02:00',
      zone: 'Europe/Dublin',
      takeUpdates: true,
      onlyIfChanged: false,
      leaveRunning: false,
      waitHours: 1,
      rollouts: [
        {
          poolId: idOf('pilot-bench'),
          window: { rule: 'FREQ=WEEKLY;BYDAY=WE', start: '20:00', end: '23:00' },
          ...{ batch: 6, maxUnavailable: 6, drainLimitMinutes: 0, reserve: null },
        },
      ],
      basedOn: revision,
    });
    const { pools: list } = await ahead('pool', idOf('pilot-bench'), on(25, 8));
    expect(list[0]).toMatchObject({ then: null, difference: null });
    expect(list[0]?.changes).toMatchObject([
      {
        kind: 'after a cut',
        title: 'the next cut of Staff multi-session',
        begins: on(24, 20),
        standing: 'done',
        difference: null,
        hosts: 6,
      },
    ]);
    expect((await ahead('pool', idOf('pilot-bench'), on(24, 19))).pools[0]?.then?.number).toBe(15);
  });
});

describe('rings that wait', () => {
  it('are changes of their pools, each by its own place', async () => {
    const plan = {
      window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
      ...{ zone: 'Europe/Dublin', calendarIds: [], batch: 20, maxUnavailable: 20 },
      ...{ drainLimitMinutes: 0, reserve: null, stop: null },
    };
    const gate = {
      ...{ finishedShare: 1, soakHours: 24, needsApproval: false },
      ...{ watchesSignIns: false, goesBack: false },
    };
    const poolId = idOf('reading-rooms');
    const order = await server.send<{ id: string }>('post', '/ring-orders', {
      name: 'a tenth first',
      rings: [
        { name: 'a tenth', poolId, take: { by: 'share', percent: 10, order: 'name' }, plan, gate },
        { name: 'the rest', poolId, take: { by: 'rest' }, plan, gate },
      ],
    });
    const lines = await server.get<{ id: string; versions: { id: string; state: string }[] }[]>('/lines');
    const line = lines.find(({ id }) => id === pools['reading-rooms']?.lineId);
    const other = line?.versions.find(
      ({ id, state }) => state === 'approved' && id !== pools['reading-rooms']?.blend?.imageVersionId,
    );
    const contents = { imageVersionId: other?.id, packageVersionIds: [] };
    await server.send('post', '/staged-rollouts', { orderId: order.id, revision: 1, contents });
    // Once it is forecast; until then it is not known when.
    await expect
      .poll(async () => (await ahead('pool', poolId, on(29, 8))).pools[0]?.changes[1]?.begins, {
        timeout: 20_000,
      })
      .not.toBeNull();
    const { pools: list } = await ahead('pool', poolId, on(24, 0));
    expect(
      list[0]?.changes.map(({ kind, hosts, isWhole, standing }) => [kind, hosts, isWhole, standing]),
    ).toEqual([
      ['ring', 6, false, 'done'],
      ['ring', 54, true, 'later'],
    ]);
    // All hosts only once the rest is there.
    const [now, then] = [list[0]?.now?.number, list[0]?.then?.number];
    expect(then).toBe(now);
    expect((await ahead('pool', poolId, on(27, 8))).pools[0]?.then?.number).not.toBe(now);
  });
});

describe('what cannot be answered', () => {
  it.each([
    ['pool', 'nowhere', on(29, 8), 'who', 'There is no such pool'],
    ['group', 'Nobody', on(29, 8), 'who', 'The directory has no group named Nobody'],
    ['person', 'nobody', on(29, 8), 'who', 'The directory has nobody with the account nobody'],
    ['group', 'Desk clerks', on(21, 8), 'at', 'is over already'],
    ['group', 'Desk clerks', on(29, 8) + 92 * 86_400_000, 'at', 'is over 92 days ahead'],
  ] as const)('for a %s %s', async (of, who, at, path, message) => {
    const { status, faults } = await server.refused('get', `/ahead?of=${of}&who=${who}&at=${at}`);
    expect([status, faults]).toEqual([422, [{ path, message }]]);
  });
});
