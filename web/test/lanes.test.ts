/** Where things lie on the lanes of rings, by hand. */
import { describe, expect, it } from 'vitest';
import { wallClock } from '@vatline/core/time/zone';
import type { RingsForecast } from '@vatline/contract/rings/order';
import type { PlannedRing } from '@vatline/contract/rings/ring';
import type { StagedRing } from '@vatline/contract/rings/staged';
import { laneSpan, laneTicks, place, stretch, type Lane } from '../src/rollouts/rings/lane-times.ts';
import { gateInWords, inWindow, plannedLanes } from '../src/rollouts/rings/planned-lanes.ts';
import { ringInWords, stagedLanes } from '../src/rollouts/rings/staged-lanes.ts';
import { usualPlan } from './components/usual-plan.ts';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const T = Date.UTC(2027, 2, 22);
const span = { start: 0, end: 200 };
const gate = { finishedShare: 1, soakHours: 0, needsApproval: false, watchesSignIns: false, goesBack: false };
const lane = (change: Partial<Lane> = {}): Lane => ({
  name: 'pilot',
  pool: 'p',
  note: '',
  windows: [],
  from: T,
  to: T + 10 * DAY,
  latest: null,
  done: 0,
  gate: null,
  ...change,
});
const ring = (change: Partial<PlannedRing> = {}): PlannedRing => ({
  name: 'pilot',
  poolId: 'p1',
  take: { by: 'share', percent: 10, order: 'name' },
  plan: usualPlan,
  gate,
  ...change,
});

describe('the axis of the lanes', () => {
  it('has everything on it, and a little room', () => {
    const all = laneSpan([lane(), lane({ latest: T + 20 * DAY })], T);
    expect([(T - all.start) / DAY, (all.end - T) / DAY]).toEqual([0.4, 20.8]);
    // Of an hour a day and a half is shown all the same.
    const short = laneSpan([lane({ to: T + HOUR })], T);
    expect(Math.round((short.end - short.start) / HOUR)).toBe(38);
  });

  it('places an instant in percent, and what is off the axis at its edge', () => {
    expect([place(50, span), place(-10, span), place(300, span)]).toEqual([25, 0, 100]);
    expect(stretch(50, 100, span)).toEqual({ left: '25%', width: '25%' });
    expect(stretch(-10, 20, span)).toEqual({ left: '0%', width: '10%' });
    expect(stretch(250, 300, span)).toBeUndefined();
  });

  it('is labelled at midnights of the zone, also where clocks go forward', () => {
    const minutes = (at: number) => wallClock('Europe/Dublin', at).minutes;
    // Saturday 27 March to Tuesday: clocks go forward on Sunday at one.
    const days = { start: Date.UTC(2027, 2, 26, 12), end: Date.UTC(2027, 3, 4, 12) };
    const ticks = laneTicks(days, minutes);
    expect(ticks.map(minutes)).toEqual(ticks.map(() => 0));
    expect(ticks.length).toBe(9);
    expect(new Date(ticks[2] ?? 0).toISOString()).toBe('2027-03-28T23:00:00.000Z');
    const hours = laneTicks({ start: T + HOUR, end: T + 30 * HOUR }, minutes);
    expect(hours.map((at) => (at - T) / HOUR)).toEqual([6, 12, 18, 24]);
  });
});

describe('the lanes of planned rings', () => {
  const never = { p10: null, p50: null, p90: null };
  const at = (hours: number) => ({ p10: T + hours * HOUR, p50: T + hours * HOUR, p90: T + hours * HOUR });
  const none = { p10: 0, p50: 0, p90: 0 };
  const of = (change: object) => ({
    name: '',
    hosts: 6,
    poolHosts: 60,
    opens: at(8),
    finish: at(26),
    windowsUsed: none,
    minSeatsLeft: none,
    windows: [{ start: T + 25 * HOUR, end: T + 29 * HOUR }],
    binding: null,
    ...change,
  });
  const answer: RingsForecast = {
    runs: 1,
    finish: at(60),
    approvalHours: 4,
    rings: [
      of({}),
      of({ hosts: 0, opens: never, finish: never, windows: [] }),
      of({ opens: at(50), finish: at(60) }),
    ],
  };

  it('begin with the window after the ring has opened, and end at the gate', () => {
    const pools = [{ id: 'p1', name: 'reading-rooms' }];
    const [first, same, last] = plannedLanes([ring(), ring(), ring({ name: 'rest' })], pools, answer);
    expect(first).toMatchObject({
      note: 'reading-rooms: 6 of 60 hosts',
      from: T + 25 * HOUR,
      to: T + 26 * HOUR,
      gate: { does: 'planned', at: T + 50 * HOUR },
    });
    expect(same).toMatchObject({ note: 'reading-rooms: all run it already', from: null });
    expect(last?.gate).toBeNull();
  });

  it('say which hosts they take while nothing is forecast', () => {
    expect(plannedLanes([ring()], [], undefined)[0]).toMatchObject({
      note: '10 %, the first by name',
      from: null,
    });
  });

  it('use what is left of an open window', () => {
    const windows = [{ start: 10, end: 20 }];
    expect([
      inWindow(5, windows),
      inWindow(15, windows),
      inWindow(30, windows),
      inWindow(null, windows),
    ]).toEqual([10, 15, 30, null]);
  });

  it('say what a gate asks for', () => {
    expect(gateInWords(gate)).toBe('all hosts done');
    expect(
      gateInWords({ ...gate, finishedShare: 0.9, soakHours: 24, needsApproval: true, watchesSignIns: true }),
    ).toBe('90 % of the hosts done, 24 h of soak, sign-ins as quick as before, an approval');
  });
});

describe('the lanes of rings that have begun', () => {
  const between = { p10: T, p50: T + HOUR, p90: T + 2 * HOUR };
  const begun = {
    number: 0,
    pool: 'desks',
    planned: ring(),
    state: 'started',
    note: '',
    hosts: 10,
    done: 4,
    failed: 0,
    setAside: 0,
    isPaused: false,
    beganAt: T - DAY,
    workedFrom: T - HOUR,
    endedAt: null,
    windows: [],
    promised: { opens: T - DAY, finish: between },
    expected: { opens: between, finish: { p10: T, p50: T + 3 * HOUR, p90: T + 4 * HOUR } },
    gate: { does: 'wait', for: 'hosts', why: '', until: null, decisions: [], health: null },
  } as unknown as StagedRing;

  it('show what has been as it was, and what is left as forecast now', () => {
    const waiting = { ...begun, number: 1, state: 'waiting', beganAt: null, workedFrom: null } as StagedRing;
    const [first, second] = stagedLanes({ rings: [begun, waiting] });
    expect(first).toMatchObject({
      from: T - HOUR,
      to: T + 3 * HOUR,
      latest: T + 4 * HOUR,
      done: 0.4,
      gate: { does: 'planned', at: T + HOUR },
    });
    expect(second).toMatchObject({ from: T + HOUR, gate: null });
    const ended = { ...begun, endedAt: T + HOUR, expected: null, done: 10 };
    expect(stagedLanes({ rings: [ended] })[0]).toMatchObject({ to: T + HOUR, latest: T + HOUR, done: 1 });
    expect(stagedLanes({ rings: [{ ...begun, state: 'dropped' }] })[0]).toMatchObject({
      from: null,
      to: null,
    });
  });

  it('say how each ring is', () => {
    expect(ringInWords(begun)).toBe('desks: 4 of 10 done');
    expect(ringInWords({ ...begun, failed: 1, setAside: 1, isPaused: true })).toBe(
      'desks: 4 of 10 done, 2 failed, paused',
    );
    expect(ringInWords({ ...begun, state: 'waiting' })).toBe('desks: 10 to change');
    expect(ringInWords({ ...begun, state: 'waiting', note: 'busy' })).toBe('desks: busy');
    expect(ringInWords({ ...begun, state: 'done', note: 'every host runs it already' })).toBe(
      'desks: every host runs it already',
    );
    expect(ringInWords({ ...begun, state: 'dropped', note: 'stopped' })).toBe('desks: dropped, stopped');
  });
});
