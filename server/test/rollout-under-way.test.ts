/** A rollout that people change while it runs: paused, let go on, and by another plan. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Home, JournalRow } from '@vatline/contract/home';
import type { Page } from '@vatline/contract/page';
import type { Plan, Rollout, RolloutRequest, RolloutRevision } from '@vatline/contract/rollout';
import { MINUTE, TestServer } from './harness.ts';
import { hostsOf, hostsOfRollout } from './usual-requests.ts';

let server: TestServer;
let id: string;

const get = <T>(path: string) => server.get<T>(path);
const rollout = () => server.getAnew<Rollout>(`/rollouts/${id}`);
const revisions = () => server.getAnew<RolloutRevision[]>(`/rollouts/${id}/revisions`);
/** Sends the clock to the next 01:00 in Dublin, which is UTC in March, and so many minutes on. */
const toNight = async (minutes: number) => {
  const DAY = 24 * 60;
  const now = Math.floor(server.now / MINUTE) % DAY;
  await server.advance(((60 - now + DAY) % DAY || DAY) + minutes);
};
const planOf = async (change: Partial<Plan>): Promise<Plan> => ({ ...(await rollout()).plan, ...change });
const change = async (part: Partial<Plan>, more: object = {}) =>
  server.send('post', `/rollouts/${id}/plan`, {
    plan: await planOf(part),
    why: 'the library opens early',
    basedOn: (await rollout()).revision,
    ...more,
  });

beforeAll(async () => {
  server = await TestServer.open();
  const { lineId, versionId } = await server.makeVersion();
  await server.buildAndCutAgain(lineId);
  const line = await get<{ versions: { id: string }[] }>(`/lines/${lineId}`);
  const body = server.newPool(versionId, { name: 'changed', count: 12, pattern: 'WCHG-##' });
  const { poolId, jobId } = await server.send<{ poolId: string; jobId: string }>('post', '/pools', body);
  expect((await server.untilEnded(jobId, 2_000)).state).toBe('done');
  const request: RolloutRequest = {
    poolId,
    imageVersionId: line.versions[0]?.id ?? '',
    packageVersionIds: [],
    window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
    zone: 'UTC',
    calendarIds: [],
    batch: 2,
    maxUnavailable: 2,
    drainLimitMinutes: 0,
    reserve: null,
    stop: null,
    notice: null,
    isRemake: false,
    onlyHosts: [],
  };
  ({ id } = await server.send<{ id: string }>('post', '/rollouts', request));
}, 60_000);
afterAll(() => server.close());

describe('a rollout that is paused', () => {
  it('starts no host, though its window opens, and says since when', async () => {
    expect((await rollout()).expectedAt).not.toBeNull();
    await server.send('post', `/rollouts/${id}/pause`, { why: 'exams this week' });
    const paused = await rollout();
    expect([paused.pausedAt, paused.expectedAt]).toEqual([server.now, null]);
    await toNight(90);
    expect(await rollout()).toMatchObject({ done: 0, atWork: 0, state: 'asleep' });
  });

  it('is still paused after a restart', async () => {
    await server.restart();
    await toNight(90);
    expect(await rollout()).toMatchObject({ done: 0, atWork: 0 });
    expect((await rollout()).pausedAt).not.toBeNull();
  });

  it('is not paused twice, and goes on in the window that is open', async () => {
    const again = await server.refused('post', `/rollouts/${id}/pause`, { why: 'once more' });
    expect([again.status, again.detail]).toEqual([409, 'This rollout is paused already']);
    await server.send('post', `/rollouts/${id}/go-on`);
    expect(await rollout()).toMatchObject({ pausedAt: null, atWork: 2, state: 'at work' });
    const not = await server.refused('post', `/rollouts/${id}/go-on`);
    expect([not.status, not.detail]).toEqual([409, 'This rollout is not paused']);
  });

  it('finishes the hosts that were at work', async () => {
    await server.send('post', `/rollouts/${id}/pause`, { why: 'a look at the first two' });
    await server.advance(60);
    expect(await rollout()).toMatchObject({ done: 2, atWork: 0, state: 'asleep' });
    await server.send('post', `/rollouts/${id}/go-on`);
  });

  it('needs a reason', async () => {
    const refused = await server.refused('post', `/rollouts/${id}/pause`, { why: ' ' });
    expect([refused.status, refused.paths]).toEqual([422, ['why']]);
  });
});

describe('the plan of a rollout under way', () => {
  it('says beforehand what another one would come to', async () => {
    const preview = (part: Partial<Plan>) =>
      planOf(part).then((plan) =>
        server.send<{ says: string[]; finish: { p90: number | null } }>(
          'post',
          `/rollouts/${id}/plan/preview`,
          plan,
        ),
      );
    const [same, wider] = [await preview({}), await preview({ batch: 10, maxUnavailable: 10 })];
    expect(same.says).toEqual([]);
    expect(wider.says).toEqual(['hosts at a time 2 → 10', 'at most out of service 2 → 10']);
    expect(wider.finish.p90).toBeLessThan(same.finish.p90 ?? 0);
  });

  it('is changed at once, for hosts that have not begun', async () => {
    expect((await rollout()).atWork).toBe(2);
    await change({ batch: 6, maxUnavailable: 6 });
    expect(await rollout()).toMatchObject({ atWork: 6, plan: { batch: 6, maxUnavailable: 6 } });
    const at = (await hostsOfRollout((path) => server.getAnew(path), id)).map((row) => row.stage);
    expect(at.filter((stage) => stage === 'waiting')).toHaveLength(4);
  });

  it('keeps each change with who, when, why and what was expected', async () => {
    const [latest, ...earlier] = await revisions();
    expect(latest).toMatchObject({
      number: 6,
      at: server.now,
      by: 'engineer',
      says: 'hosts at a time 2 → 6; at most out of service 2 → 6',
      why: 'the library opens early',
    });
    expect(latest?.expectedAt).toBeGreaterThan(server.now);
    expect(earlier.map(({ says, why }) => [says, why])).toEqual([
      ['goes on', ''],
      ['paused', 'a look at the first two'],
      ['goes on', ''],
      ['paused', 'exams this week'],
      ['', ''],
    ]);
    const journal = await get<Page<JournalRow>>('/journal?limit=20');
    expect(journal.rows.map((row) => row.text)).toContain(
      'changed: hosts at a time 2 → 6; at most out of service 2 → 6 (the library opens early)',
    );
  });

  it('is not changed over what somebody else changed meanwhile, who is told what that was', async () => {
    const refused = await server.refused('post', `/rollouts/${id}/plan`, {
      plan: await planOf({ batch: 3 }),
      why: 'too many at once',
      basedOn: 5,
    });
    expect([refused.status, refused.detail]).toEqual([
      409,
      'It was changed meanwhile: hosts at a time 2 → 6; at most out of service 2 → 6 (engineer)',
    ]);
    expect((await rollout()).plan.batch).toBe(6);
  });

  it('changed by two at once is changed by the first, and the second is told', async () => {
    const plan = await planOf({});
    const { revision } = await rollout();
    const both = await Promise.allSettled(
      [4, 5].map((batch) =>
        server.send('post', `/rollouts/${id}/plan`, {
          plan: { ...plan, batch },
          why: 'both at once',
          basedOn: revision,
        }),
      ),
    );
    expect(both.map((one) => one.status).sort()).toEqual(['fulfilled', 'rejected']);
    expect((await rollout()).revision).toBe(revision + 1);
    expect(await revisions()).toHaveLength(revision + 1);
  });

  it.each<[string, Partial<Plan>, string]>([
    ['nobody at a time', { batch: 0 }, 'batch'],
    ['more at a time than it has hosts', { batch: 13 }, 'batch'],
    ['none out of service', { maxUnavailable: 0 }, 'maxUnavailable'],
    ['a window of no length', { window: { rule: 'FREQ=DAILY', start: '01:00', end: '01:00' } }, 'window.end'],
    [
      'nights that never come',
      { window: { rule: 'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=31', start: '01:00', end: '02:00' } },
      'window.rule',
    ],
    ['calendars that are not there', { calendarIds: ['nowhere'] }, 'calendarIds.0'],
    ['a zone that is none', { zone: 'Moon/Basin' }, 'zone'],
  ])('with %s is refused at its field, in the preview too', async (_what, part, path) => {
    const before = await rollout();
    const plan = await planOf(part);
    for (const [where, body] of [
      ['plan', { plan, why: 'no', basedOn: before.revision }],
      ['plan/preview', plan],
    ] as const) {
      const refused = await server.refused('post', `/rollouts/${id}/${where}`, body);
      expect(refused.status).toBe(422);
      expect(refused.paths.map((one) => one.replace(/^plan\./, ''))).toContain(path);
    }
    expect((await rollout()).revision).toBe(before.revision);
  });

  it('that says the same is no change', async () => {
    await expect(change({})).rejects.toThrow();
  });

  it('takes up what is left in its new window, and not in the old one', async () => {
    await change({ window: { rule: 'FREQ=DAILY', start: '13:00', end: '15:00' } });
    const { nextWindow } = await rollout();
    expect(new Date(nextWindow?.start ?? 0).toISOString().slice(11, 16)).toBe('13:00');
    await server.advance(60);
    // Those that were at work are done; nobody else has begun in what is left of the old one.
    expect(await rollout()).toMatchObject({ done: 8, atWork: 0, state: 'asleep' });
    await server.advance(14 * 60);
    expect(await rollout()).toMatchObject({ done: 12, state: 'done' });
  });

  it('of a rollout that has ended stays what it was', async () => {
    const refused = await server.refused('post', `/rollouts/${id}/pause`, { why: 'too late' });
    expect([refused.status, refused.detail]).toEqual([409, 'This rollout has ended already']);
    await expect(change({ batch: 1 })).rejects.toThrow();
  });
});

describe('a rollout of which too much fails', () => {
  let again: string;
  const state = () => server.getAnew<Rollout>(`/rollouts/${again}`);

  it('is paused by its rule, with the figures, and says so on home', async () => {
    const before = await server.getAnew<Rollout>(`/rollouts/${id}`);
    const hosts = await hostsOf((path) => server.getAnew(path), before.poolId);
    for (const { name } of hosts.slice(0, 3))
      await server.send('post', '/estate/faults', { kind: 'agent silent', target: name });
    ({ id: again } = await server.send<{ id: string }>('post', '/rollouts', {
      ...before.plan,
      window: { rule: 'FREQ=DAILY', start: '00:00', end: '23:59' },
      batch: 2,
      maxUnavailable: 12,
      poolId: before.poolId,
      imageVersionId: before.from.imageVersionId,
      packageVersionIds: [],
      stop: { failures: 2, share: null, after: 0 },
    }));
    await server.advance(24 * 60);
    const paused = await state();
    expect(paused.failed).toBeGreaterThanOrEqual(2);
    expect([paused.pausedAt !== null, paused.endedAt]).toEqual([true, null]);
    const [latest] = await server.getAnew<RolloutRevision[]>(`/rollouts/${again}/revisions`);
    expect(latest).toMatchObject({
      by: null,
      says: 'paused by itself',
      why: '2 hosts failed; it stops at 2',
    });
    const home = await server.getAnew<Home>('/home');
    expect(home.needs.map((need) => need.title)).toContain('The rollout of changed is paused');
  });

  it('goes on when somebody lets it, and is paused again only when more has failed', async () => {
    await server.send('post', `/rollouts/${again}/go-on`);
    await server.advance(30);
    const on = await state();
    if (on.pausedAt !== null) expect(on.failed).toBeGreaterThan(2);
    else expect(on.atWork + on.done).toBeGreaterThan(0);
    await server.advance(24 * 60);
    // The third silent host fails as well; whoever looks then lets it go on a last time.
    expect((await state()).failed).toBe(3);
    expect((await state()).pausedAt).not.toBeNull();
    await server.send('post', `/rollouts/${again}/go-on`);
    await server.advance(24 * 60);
    expect(await state()).toMatchObject({ pausedAt: null, failed: 3, done: 9 });
  });

  it('with a rule that says nothing is refused', async () => {
    const refused = await server.refused('post', `/rollouts/${again}/plan/preview`, {
      ...(await state()).plan,
      stop: { failures: null, share: null, after: 5 },
    });
    expect([refused.status, refused.paths]).toEqual([422, ['stop.failures']]);
  });
});
