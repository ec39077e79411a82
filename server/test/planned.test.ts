/** Everything planned in a stretch of time, as the calendar asks for it. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { z } from 'zod';
import type { LineSummary } from '@vatline/contract/image';
import type { plannedEndpoints } from '@vatline/contract/planned';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Rollout } from '@vatline/contract/rollout';
import { collisionsIn } from '@vatline/core/rollout/calendar/collisions';
import { movedWindow } from '@vatline/core/rollout/calendar/moved-window';
import { must } from '@vatline/core/result';
import { TestServer } from './harness.ts';

type Answer = z.output<(typeof plannedEndpoints)['between']['response']>;

let server: TestServer;
let pools: Record<string, string>;
beforeAll(async () => {
  server = await TestServer.open({ demo: true });
  const all = await server.get<PoolSummary[]>('/pools');
  pools = Object.fromEntries(all.map(({ name, id }) => [name, id]));
}, 120_000);
afterAll(() => server.close());

const from = Date.UTC(2027, 2, 1);
const to = Date.UTC(2027, 3, 5);
const march = () => server.get<Answer>(`/planned?from=${from}&to=${to}`);
const at = (instant: number) => new Date(instant).toISOString().slice(5, 16);
const rolloutOf = async (pool: string) =>
  (await server.get<Rollout[]>('/rollouts')).find((one) => one.pool === pool && one.endedAt === null);

describe('what is planned', () => {
  it('is every window that rollouts will use, and until when in the last of them', async () => {
    const { planned, more } = await march();
    expect(more).toBe(0);
    const ahead = planned.filter(({ isOver }) => !isOver);
    expect(ahead.map(({ label, start }) => [label, at(start)])).toEqual([
      ['contact-centre', '03-23T01:00'],
      ['contact-centre', '03-26T01:00'],
      ['desk-staff', '03-28T01:00'],
    ]);
    const [first, last, sunday] = ahead;
    expect(first?.worksUntil).toBe(first?.end);
    expect(last?.worksUntil).toBeLessThan(last?.end ?? 0);
    expect(sunday).toMatchObject({
      kind: 'rollout',
      poolId: pools['desk-staff'],
      hosts: 24,
      batch: 8,
      version: { dye: 'indigo', number: 15 },
      moves: 'rollout',
    });
    // Eight hosts at a time, which are full clones: each 300 operations a second while it starts.
    expect(sunday?.loads).toEqual([
      { store: 'yard-a', operations: 8 },
      { store: 'yard-a, standard', operations: 8 * 300 },
    ]);
  });

  it('holds the windows that are over, which nobody can move', async () => {
    const over = (await march()).planned.filter(({ isOver }) => isOver);
    expect(over.map(({ label, moves, fixed, loads }) => [label, moves, fixed, loads])).toEqual([
      ['contact-centre', null, 'it is over', []],
    ]);
  });

  it('comes with changes of clocks, closed days and what datastores have left', async () => {
    const { clockChanges, closed, stores } = await march();
    expect(clockChanges).toEqual([{ at: Date.UTC(2027, 2, 28, 1), minutes: 60 }]);
    expect(closed.map(({ date }) => date)).toEqual(['2027-03-26', '2027-03-29']);
    expect(stores.find(({ store }) => store === 'yard-a, standard')?.free).toBeGreaterThan(0);
  });

  it('ends at the last window that is shown, and begins with the one that runs into it', async () => {
    const [first] = (await march()).planned.filter(({ isOver }) => !isOver);
    const within = await server.get<Answer>(
      `/planned?from=${(first?.start ?? 0) + 60_000}&to=${first?.end ?? 0}`,
    );
    expect(within.planned.map(({ id }) => id)).toEqual([first?.id]);
    const after = await server.get<Answer>(
      `/planned?from=${(first?.end ?? 0) + 60_000}&to=${(first?.end ?? 0) + 120_000}`,
    );
    expect(after.planned).toEqual([]);
  });

  it('of a paused rollout is nothing', async () => {
    const contact = await rolloutOf('contact-centre');
    await server.send('post', `/rollouts/${contact?.id ?? ''}/pause`, { why: 'exams' });
    const ahead = (await march()).planned.filter(({ isOver }) => !isOver);
    expect(ahead.map(({ label }) => label)).toEqual(['desk-staff']);
    await server.send('post', `/rollouts/${contact?.id ?? ''}/go-on`);
  });

  it.each([
    [`from=${to}&to=${from}`, 'to', 'is before the beginning'],
    [`from=${from}&to=${from + 93 * 86_400_000}`, 'to', 'is over 92 days after the beginning'],
    [`from=-5&to=0`, 'from', 'is before the year 2000'],
    [`from=9e15&to=9e15`, 'from', 'is after the year 2100'],
    [`to=${to}`, 'from', undefined],
  ])('between %s is refused at %s', async (query, path, message) => {
    const refused = await server.refused('get', `/planned?${query}`);
    expect([refused.status, refused.faults[0]?.path]).toEqual([422, path]);
    if (message !== undefined) expect(refused.faults[0]?.message).toBe(message);
  });
});

describe('what a schedule plans', () => {
  const sunday = (pool: string, start: string, end: string) => ({
    poolId: pools[pool] ?? '',
    window: { rule: 'FREQ=WEEKLY;BYDAY=SU', start, end },
    batch: 4,
    maxUnavailable: 4,
    drainLimitMinutes: 15,
    reserve: null,
  });

  it('is its cuts and all windows that the rollouts after each use', async () => {
    const line = (await server.get<LineSummary[]>('/lines')).find(
      ({ name }) => name === 'Staff multi-session',
    );
    await server.send('put', `/lines/${line?.id ?? ''}/schedule`, {
      rule: 'FREQ=WEEKLY;BYDAY=SA',
      at: '02:00',
      zone: 'Europe/Dublin',
      takeUpdates: true,
      onlyIfChanged: true,
      leaveRunning: false,
      waitHours: 12,
      rollouts: [sunday('pilot-bench', '02:00', '03:00'), sunday('desk-staff', '03:00', '05:00')],
      basedOn: 0,
    });
    const { planned } = await march();
    expect(new Set(planned.map(({ id }) => id)).size).toBe(planned.length);
    const scheduled = planned.filter(({ moves }) => moves === 'schedule');
    expect(scheduled.map(({ kind, label, place, start }) => [kind, label, place, at(start)])).toEqual([
      ['cut', 'cut Staff multi-session', null, '03-27T02:00'],
      ['after a cut', 'pilot-bench', 0, '03-28T01:00'],
      ['after a cut', 'desk-staff', 1, '03-28T02:00'],
      ['cut', 'cut Staff multi-session', null, '04-03T01:00'],
      ['after a cut', 'pilot-bench', 0, '04-04T01:00'],
      ['after a cut', 'desk-staff', 1, '04-04T02:00'],
    ]);
    // Of 24 desks, 4 at a time and 25 minutes each, 16 fit two hours; of 6 pilots 4 fit the one.
    expect(scheduled.filter(({ isEnough }) => !isEnough).map(({ label }) => label)).toContain('desk-staff');
  });

  it('collides with the rollout of the same pool that brings the version before', async () => {
    const { planned, stores } = await march();
    const desk = await rolloutOf('desk-staff');
    const found = collisionsIn(
      planned.filter(({ isOver }) => !isOver),
      stores,
    ).filter(({ of }) => of.includes(desk?.id ?? ''));
    expect(found.map(({ kind, at: instant }) => [kind, at(instant)])).toEqual([
      ['behind a cut', '03-28T01:00'],
      ['one pool', '03-28T02:00'],
    ]);
  });

  it('does not any more once the rollout is moved to the Friday before', async () => {
    const desk = await rolloutOf('desk-staff');
    if (!desk) throw new Error('desk-staff has no rollout');
    const window = must(movedWindow(desk.plan.window, { days: -2, minutes: 0 }));
    await server.send('post', `/rollouts/${desk.id}/plan`, {
      plan: { ...desk.plan, window },
      why: 'before the cut',
      basedOn: desk.revision,
    });
    const { planned, stores } = await march();
    const moved = planned.filter(({ of }) => of === desk.id);
    expect(moved.map(({ start }) => at(start))).toEqual(['03-26T01:00']);
    const found = collisionsIn(planned, stores);
    expect(found.filter(({ of }) => of.includes(desk.id) && of.length === 2)).toEqual([]);
  });
});
