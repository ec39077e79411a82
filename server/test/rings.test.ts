/** Rollouts through rings: orders with revisions, gates of every kind, and what a person decides at them. */
import request from 'supertest';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Home, TapeItem } from '@vatline/contract/home';
import type { RingOrder, RingsForecast } from '@vatline/contract/rings/order';
import type { PlannedRing, RingGate } from '@vatline/contract/rings/ring';
import type { StagedRollout, StagedSummary } from '@vatline/contract/rings/staged';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Plan, Rollout } from '@vatline/contract/rollout';
import { MINUTE, TestServer } from './harness.ts';
import { hostsOfRollout } from './usual-requests.ts';

const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
let server: TestServer;
/** Of the versions, the first one first. */
const versions: string[] = [];
const pools: Record<string, string> = {};

const plan = (change: Partial<Plan> = {}): Plan => ({
  window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
  zone: 'UTC',
  calendarIds: [],
  batch: 2,
  maxUnavailable: 2,
  drainLimitMinutes: 0,
  reserve: null,
  stop: null,
  notice: null,
  ...change,
});
const gate = (change: Partial<RingGate> = {}): RingGate => ({
  finishedShare: 1,
  soakHours: 0,
  needsApproval: false,
  watchesSignIns: false,
  goesBack: false,
  ...change,
});
const ring = (pool: string, change: Partial<PlannedRing> = {}): PlannedRing => ({
  name: pool,
  poolId: pools[pool] ?? '',
  take: { by: 'rest' },
  plan: plan(),
  gate: gate(),
  ...change,
});
const contents = () => ({ imageVersionId: versions[1] ?? '', packageVersionIds: [] });
let named = 0;
const keep = (rings: readonly PlannedRing[], name = `order ${++named}`) =>
  server.send<{ id: string }>('post', '/ring-orders', { name, rings });
const begin = async (rings: readonly PlannedRing[], more: object = {}) => {
  const { id } = await keep(rings);
  const body = { orderId: id, revision: 1, contents: contents(), ...more };
  return (await server.send<{ id: string }>('post', '/staged-rollouts', body)).id;
};
const staged = (id: string) => server.getAnew<StagedRollout>(`/staged-rollouts/${id}`);
/** How the rings stand: `pilot started 2/4, open`. */
const standing = async (id: string) =>
  (await staged(id)).rings.map(
    ({ planned, state, done, hosts, gate: { does } }) => `${planned.name} ${state} ${done}/${hosts}, ${does}`,
  );
const decide = (id: string, what: string, more: object = {}) => ({
  path: `/staged-rollouts/${id}/gate`,
  body: { ring: 0, what, why: 'looked at it', seen: 0, ...more },
});
const as = (role: string) => server.send('put', '/caller', { role });
/** To the next time of day, in UTC. */
const until = async (hour: number, minute = 0) => {
  const at = (hour * 60 + minute) * MINUTE;
  const left = (at - (server.now % DAY) + DAY) % DAY || DAY;
  await server.advance(left / MINUTE);
};
/** Everything back to the first version, so that the next one begins as this one did. */
const undo = async () => {
  for (const { id, state } of await server.get<StagedSummary[]>('/staged-rollouts'))
    if (state === 'held' || state === 'under way')
      await server.send('post', `/staged-rollouts/${id}/stop`, { why: 'tidied' });
  await until(0, 30);
  const fast = { plan: plan({ batch: 10, maxUnavailable: 10 }) };
  const { id } = await keep([ring('pilot', fast), ring('desks', fast)]);
  const first = { imageVersionId: versions[0], packageVersionIds: [] };
  // Where all are back already it refuses, which is as good.
  await request(server.app.http)
    .post('/api/v1/staged-rollouts')
    .send({ orderId: id, revision: 1, contents: first });
  await until(12);
};

beforeAll(async () => {
  server = await TestServer.open();
  const { lineId, versionId } = await server.makeVersion();
  await server.buildAndCutAgain(lineId);
  const line = await server.get<{ versions: { id: string }[] }>(`/lines/${lineId}`);
  versions.push(versionId, line.versions[0]?.id ?? '');
  for (const [name, pattern, count] of [
    ['pilot', 'WCL-PB-##', 4],
    ['desks', 'WCL-DS-##', 10],
  ] as const) {
    await server.run('/pools', server.newPool(versionId, { name, pattern, count }));
    const list = await server.get<PoolSummary[]>('/pools');
    pools[name] = list.find((pool) => pool.name === name)?.id ?? '';
  }
}, 90_000);
afterAll(() => server.close());
beforeEach(() => as('engineer'));

describe('an order of rings', () => {
  it('is kept by name, and each change is a revision', async () => {
    const { id } = await keep([ring('pilot'), ring('desks')], 'Careful');
    const kept = async () => (await server.get<RingOrder[]>('/ring-orders')).find((order) => order.id === id);
    expect(await kept()).toMatchObject({
      name: 'Careful',
      revision: 1,
      rings: [{ name: 'pilot', take: { by: 'rest' }, plan: { batch: 2 } }, { name: 'desks' }],
    });
    const body = { name: 'Careful', rings: [ring('pilot')], basedOn: 1 };
    expect(await server.send('put', `/ring-orders/${id}`, body)).toEqual({ revision: 2 });
    const late = await server.refused('put', `/ring-orders/${id}`, body);
    expect([late.status, late.detail]).toEqual([
      409,
      'Revision 2 of Careful was kept meanwhile; this change is based on 1',
    ]);
    expect((await kept())?.revisions.map(({ number, by, rings }) => [number, by, rings])).toEqual([
      [2, 'engineer', 1],
      [1, 'engineer', 2],
    ]);
    const twice = await server.refused('post', '/ring-orders', { name: 'Careful', rings: [ring('pilot')] });
    expect([twice.status, twice.detail]).toEqual([409, 'There is an order of rings named Careful already']);
    await server.send('delete', `/ring-orders/${id}`);
    expect(await kept()).toBeUndefined();
  });

  it('keeps the calendars that it keeps to', async () => {
    const text = 'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nEND:VCALENDAR\r\n';
    const calendar = await server.send<{ id: string }>('post', '/calendars', { name: 'Closed', text });
    const closed = ring('pilot', { plan: plan({ calendarIds: [calendar.id] }) });
    const { id } = await keep([closed], 'By days');
    const refused = await server.refused('delete', `/calendars/${calendar.id}`);
    expect([refused.status, refused.detail]).toEqual([
      409,
      'The order of rings By days keeps to Closed; take it out there first',
    ]);
    await server.send('put', `/ring-orders/${id}`, { name: 'By days', rings: [ring('pilot')], basedOn: 1 });
    await server.send('delete', `/calendars/${calendar.id}`);
  });

  it.each<[string, () => PlannedRing[], string, string]>([
    [
      'a ring without hosts',
      () => [ring('pilot'), ring('pilot')],
      'rings.1.take',
      'the rings before it take all hosts of the pool',
    ],
    [
      'a host in two rings',
      () => [
        ring('desks', { take: { by: 'share', percent: 10, order: 'name' } }),
        ring('desks', { take: { by: 'name', like: '*-0?' } }),
      ],
      'rings.1.take',
      'WCL-DS-01 is in desks already',
    ],
    [
      'a rule that never happens',
      () => [
        ring('pilot', {
          plan: plan({
            window: { rule: 'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', start: '01:00', end: '02:00' },
          }),
        }),
      ],
      'rings.0.plan.window.rule',
      'never happens',
    ],
    [
      'a time that is none',
      () => [ring('pilot', { plan: plan({ window: { rule: 'FREQ=DAILY', start: '25:00', end: '02:00' } }) })],
      'rings.0.plan.window.start',
      'is not a time such as 01:00',
    ],
    [
      'a zone that is none',
      () => [ring('pilot', { plan: plan({ zone: 'Mars' }) })],
      'rings.0.plan.zone',
      'is not a known time zone',
    ],
    [
      'no batch',
      () => [ring('pilot', { plan: plan({ batch: 0 }) })],
      'rings.0.plan.batch',
      'must be at least 1',
    ],
    [
      'a calendar that is not there',
      () => [ring('pilot', { plan: plan({ calendarIds: ['x'] }) })],
      'rings.0.plan.calendarIds.0',
      'there is no such calendar',
    ],
    ['a pool that is not there', () => [ring('none')], 'rings.0.poolId', 'choose a pool'],
    [
      'a gate that asks for nobody',
      () => [ring('pilot', { gate: gate({ finishedShare: 0 }) })],
      'rings.0.gate.finishedShare',
      'must be at least 1 %',
    ],
  ])('is refused with %s', async (_what, rings, path, message) => {
    const refused = await server.refused('post', '/ring-orders', { name: 'x', rings: rings() });
    expect([refused.status, refused.faults[0]?.path]).toEqual([422, path]);
    expect(refused.faults[0]?.message).toContain(message);
  });

  it('is forecast ring by ring', async () => {
    const body = {
      rings: [ring('pilot', { gate: gate({ soakHours: 24, needsApproval: true }) }), ring('desks')],
      contents: contents(),
    };
    const answer = await server.send<RingsForecast>('post', '/ring-orders/forecast', body);
    expect(answer.rings.map(({ name, hosts, poolHosts }) => [name, hosts, poolHosts])).toEqual([
      ['pilot', 4, 4],
      ['desks', 10, 10],
    ]);
    const [pilot, desks] = answer.rings;
    // A day of soak and four hours of approval behind the pilot.
    expect((desks?.opens.p50 ?? 0) - (pilot?.finish.p50 ?? 0)).toBe(28 * HOUR);
    expect(desks?.finish.p50).toBeGreaterThan(desks?.opens.p50 ?? 0);
    expect(answer.finish).toEqual(desks?.finish);
    expect(pilot?.windows).toHaveLength(21);
    expect(await server.send('post', '/ring-orders/forecast', body)).toEqual(answer);
  });

  it('is refused for contents that no ring can have', async () => {
    const asked = (change: object) =>
      server.refused('post', '/ring-orders/forecast', {
        rings: [ring('pilot')],
        contents: { ...contents(), ...change },
      });
    const nothing = await asked({ imageVersionId: null });
    expect(nothing.faults[0]).toEqual({
      path: 'contents.imageVersionId',
      message: 'choose an image version, or a package version to put in',
    });
    expect((await asked({ imageVersionId: versions[0] })).faults[0]).toEqual({
      path: 'contents',
      message: 'every host of all rings runs exactly this already',
    });
    expect((await asked({ packageVersionIds: ['x'] })).faults[0]?.path).toBe('contents.packageVersionIds.0');
  });
});

describe('a rollout through rings', () => {
  beforeEach(undo);

  it('goes from ring to ring, with soak and approval between, and over a restart', async () => {
    await until(0, 30);
    const id = await begin([
      ring('pilot', { gate: gate({ soakHours: 4, needsApproval: true }) }),
      ring('desks', { plan: plan({ batch: 5, maxUnavailable: 5 }) }),
    ]);
    expect(await standing(id)).toEqual(['pilot started 0/4, wait', 'desks waiting 0/10, wait']);
    const promised = await staged(id);
    const [from, to] = [server.now, server.now + 7 * DAY];
    const tape = await server.get<TapeItem[]>(`/tape?from=${from}&to=${to}`);
    const ahead = tape.find((item) => item.label === 'then desks');
    expect(ahead).toMatchObject({ kind: 'planned', to: `/rollouts/staged/${id}` });
    // The ring opens in the morning, four hours of soak and four of an approval after the pilot: it waits for its window.
    expect(new Date(ahead?.start ?? 0).toISOString().slice(11, 16)).toBe('01:00');
    expect(promised.promisedAt).toBeGreaterThan(server.now);
    expect(promised.rings[1]?.promised.opens).toBeGreaterThan(
      promised.rings[0]?.promised.finish.p50 ?? Infinity,
    );
    await until(4, 30);
    const pilot = (await staged(id)).rings[0];
    expect([pilot?.done, pilot?.gate.does, pilot?.gate.for]).toEqual([4, 'wait', 'soak']);
    expect(pilot?.gate.until).toBe((pilot?.endedAt ?? 0) + 4 * HOUR);
    await server.restart();
    await until(8);
    expect((await staged(id)).rings[0]?.gate).toMatchObject({ does: 'wait', for: 'approval' });

    const mine = decide(id, 'approve');
    const refused = await server.refused('post', mine.path, mine.body);
    expect([refused.status, refused.faults[0]?.message]).toEqual([
      422,
      'an approver decides; you act as engineer',
    ]);
    await as('approver');
    await server.send('post', mine.path, mine.body);
    const again = await server.refused('post', mine.path, mine.body);
    expect([again.status, again.detail]).toEqual([
      409,
      'Somebody decided meanwhile: approve (approver): looked at it',
    ]);
    // The gate is open at eight in the morning; the ring waits for its window.
    expect(await standing(id)).toEqual(['pilot started 4/4, open', 'desks started 0/10, wait']);
    await until(5);
    expect(await staged(id)).toMatchObject({ state: 'done', done: 14, hosts: 14 });
    const pool = (await server.get<PoolSummary[]>('/pools')).find((one) => one.name === 'desks');
    expect(pool?.blend?.imageVersionId).toBe(versions[1]);
    const list = await server.get<StagedSummary[]>('/staged-rollouts');
    expect(list[0]).toMatchObject({ id, state: 'done', rings: 2, begun: 2 });
  });

  it('takes shares of one pool, one after the other, and the pool with the last', async () => {
    await until(0, 30);
    const id = await begin([
      ring('desks', { name: 'first', take: { by: 'share', percent: 20, order: 'name' } }),
      ring('desks', { name: 'rest', plan: plan({ batch: 8, maxUnavailable: 8 }) }),
    ]);
    expect(await standing(id)).toEqual(['first started 0/2, wait', 'rest waiting 0/8, wait']);
    while ((await staged(id)).rings[1]?.state !== 'started') await server.advance(1);
    const blendOf = async () =>
      (await server.getAnew<PoolSummary[]>('/pools')).find((one) => one.name === 'desks')?.blend
        ?.imageVersionId;
    const half = await staged(id);
    expect([half.rings[0]?.rolloutState, half.rings[1]?.state]).toEqual(['done', 'started']);
    expect(await blendOf()).toBe(versions[0]);
    const first = await hostsOfRollout((path) => server.getAnew(path), half.rings[0]?.rolloutId ?? '');
    expect(first.map((row) => row.host.name)).toEqual(['WCL-DS-01', 'WCL-DS-02']);
    await until(5);
    expect((await staged(id)).state).toBe('done');
    expect(await blendOf()).toBe(versions[1]);
  });

  it('leaves out a ring whose hosts run it already', async () => {
    await until(0, 30);
    await begin([ring('pilot')]);
    await until(6);
    const id = await begin([ring('pilot', { gate: gate({ soakHours: 100 }) }), ring('desks')]);
    const [pilot, desks] = (await staged(id)).rings;
    expect([pilot?.state, pilot?.note, desks?.state]).toEqual([
      'done',
      'every host runs it already',
      'started',
    ]);
    await server.send('post', `/staged-rollouts/${id}/stop`, { why: 'seen enough' });
    expect(await staged(id)).toMatchObject({ state: 'stopped', heldWhy: 'seen enough' });
  });

  it('holds at the failure rule, says so at home, and is opened only by somebody else', async () => {
    await until(0, 30);
    const id = await begin([
      ring('pilot', { plan: plan({ stop: { failures: 1, share: null, after: 0 } }) }),
      ring('desks'),
    ]);
    await server.send('post', '/estate/faults', { kind: 'agent silent', target: 'WCL-PB-01' });
    await until(4);
    const held = await staged(id);
    expect([held.state, held.rings[0]?.gate.does]).toEqual(['held', 'hold']);
    expect(held.heldWhy).toBe('pilot: 1 host failed; it stops at 1');
    const { needs } = await server.getAnew<Home>('/home');
    expect(needs.find((need) => need.to === `/rollouts/staged/${id}`)).toMatchObject({
      tone: 'trouble',
      title: `${held.title} is held at a gate`,
      detail: held.heldWhy,
    });
    await as('approver');
    const approve = decide(id, 'approve');
    expect((await server.refused('post', approve.path, approve.body)).faults[0]?.message).toBe(
      'the gate is held: pilot: 1 host failed; it stops at 1; open it anyway, or stop the rollout',
    );
    const anyway = decide(id, 'open anyway', { why: 'a known bad agent' });
    await server.send('post', anyway.path, anyway.body);
    expect(await staged(id)).toMatchObject({ state: 'under way', heldWhy: '' });
    expect((await staged(id)).rings[1]?.state).toBe('started');
    await as('engineer');
    await server.send('post', `/staged-rollouts/${id}/stop`, { why: 'enough' });
    await until(12);
    for (const host of await hostsOfRollout((path) => server.getAnew(path), held.rings[0]?.rolloutId ?? ''))
      if (host.stage === 'failed')
        await server.send('post', `/rollouts/${held.rings[0]?.rolloutId ?? ''}/hosts/${host.host.id}`, {
          action: 'set aside',
        });
    expect(await staged(id)).toMatchObject({ state: 'stopped' });
    expect((await staged(id)).endedAt).not.toBeNull();
    const { faults } = await server.get<{ faults: { id: string }[] }>('/estate');
    for (const fault of faults) await server.send('delete', `/estate/faults/${fault.id}`);
  });

  it('holds when people wait longer to sign in, and goes back by itself where it may', async () => {
    await until(0, 30);
    const id = await begin([
      ring('pilot', { gate: gate({ soakHours: 48, watchesSignIns: true, goesBack: true }) }),
      ring('desks'),
    ]);
    await until(4, 45);
    expect((await staged(id)).rings[0]?.gate).toMatchObject({ does: 'wait', for: 'soak' });
    await server.send('post', '/estate/faults', { kind: 'slow sign-ins', target: 'pilot' });
    await until(18);
    const held = await staged(id);
    expect(held.state).toBe('held');
    expect(held.heldWhy).toMatch(
      /^pilot: sign-ins take \d+ s instead of \d+ s in the middle \(p < 0\.001, \d+ against \d+\); its hosts go back$/,
    );
    expect(held.rings[0]?.gate.health).toMatchObject({ isSlower: true });
    const back = (await server.getAnew<Rollout[]>('/rollouts')).find((one) => one.isReturn);
    expect(back).toMatchObject({ pool: 'pilot', hosts: 4, to: { imageVersionId: versions[0] } });
    await until(6);
    expect((await staged(id)).heldWhy).toBe(held.heldWhy);
    await server.send('post', `/staged-rollouts/${id}/stop`, { why: 'slow' });
    expect((await staged(id)).rings.map((one) => one.state)).toEqual(['started', 'dropped']);
  });

  it('waits while its pool is busy with something else', async () => {
    await until(6);
    const { id: other } = await server.send<{ id: string }>('post', '/rollouts', {
      ...plan(),
      poolId: pools['desks'],
      ...contents(),
      isRemake: true,
    });
    const id = await begin([ring('desks')]);
    const waits = (await staged(id)).rings[0];
    expect([waits?.state, waits?.note]).toEqual([
      'waiting',
      'A rollout of this pool is under way; wait for its end or stop it first',
    ]);
    await server.send('post', `/rollouts/${other}/stop`);
    await server.advance(1);
    expect((await staged(id)).rings[0]?.state).toBe('started');
    await server.send('post', `/staged-rollouts/${id}/stop`, { why: 'enough' });
  });

  it('is not begun by an approver who would have to approve it, nor by another revision', async () => {
    await as('approver');
    const { id } = await keep([ring('pilot', { gate: gate({ needsApproval: true }) }), ring('desks')]);
    const refused = await server.refused('post', '/staged-rollouts', {
      orderId: id,
      revision: 1,
      contents: contents(),
    });
    expect([refused.status, refused.faults[0]?.path]).toEqual([422, 'rings.0.gate.needsApproval']);
    const late = await server.refused('post', '/staged-rollouts', {
      orderId: id,
      revision: 7,
      contents: contents(),
    });
    expect(late.status).toBe(409);
    expect((await server.refused('post', '/staged-rollouts/x/stop', { why: 'x' })).status).toBe(404);
  });
});
