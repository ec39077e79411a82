import { describe, expect, it } from 'vitest';
import { admit, PASSED_OVER, type Situation } from '../src/rollout/admission.ts';
import { forecast as forecastRings } from '../src/rollout/forecast/forecast.ts';
import { numberedHosts } from '../src/rollout/planned-hosts.ts';
import { drawFor } from '../src/random.ts';
import { must } from '../src/result.ts';
import { oneRing, type FlatPlan } from './one-ring.ts';

const MINUTE = 60_000;
const limits = { batch: 3, maxUnavailable: 4 };
const situation: Situation = {
  now: 0,
  windowEnd: 60 * MINUTE,
  atWork: 0,
  servingAtWork: 0,
  out: 0,
  slots: Infinity,
  seatsPerHost: 10,
  // Half an hour of work, and another half hour to drain a host that has people.
  p90Length: { empty: 30 * MINUTE, withPeople: 60 * MINUTE, inService: Infinity },
  seatsToSpare: () => Infinity,
};
const hosts = (...sessions: number[]) =>
  sessions.map((n, index) => ({ index, sessions: n, isOut: false, staysInService: false }));
const admitted = (change: Partial<Situation>, queue = hosts(0, 0, 0, 0, 0)) => {
  const { start, held } = admit(queue, { ...situation, ...change }, limits);
  return [start.map((host) => host.index), held];
};

describe('which hosts may start', () => {
  it('no more than the batch, those at work counted', () => {
    expect(admitted({})).toEqual([[0, 1, 2], 'batch']);
    expect(admitted({ atWork: 2 })).toEqual([[0], 'batch']);
    expect(admitted({}, hosts(0, 0))).toEqual([[0, 1], undefined]);
  });

  it('no more than may be out of service, failed ones counted', () => {
    expect(admitted({ out: 2 })).toEqual([[0, 1], 'max unavailable']);
  });

  it('none whose end lies beyond the window', () => {
    expect(admitted({ now: 30 * MINUTE })).toEqual([[0, 1, 2], 'batch']);
    expect(admitted({ now: 31 * MINUTE })).toEqual([[], 'window']);
  });

  it('an empty host instead of one whose people would not be gone in time', () => {
    expect(admitted({ now: 10 * MINUTE }, hosts(4, 0, 2, 0))).toEqual([[1, 3], 'window']);
    expect(admitted({ now: 0 }, hosts(4, 0, 2, 0))).toEqual([[0, 1, 2], 'batch']);
  });

  it('passes over so many and no more', () => {
    const busy = hosts(...Array.from({ length: PASSED_OVER }, () => 1), 0);
    expect(admitted({ now: 10 * MINUTE }, busy)).toEqual([[PASSED_OVER], 'window']);
    const busier = hosts(...Array.from({ length: PASSED_OVER + 1 }, () => 1), 0);
    expect(admitted({ now: 10 * MINUTE }, busier)).toEqual([[], 'window']);
  });

  it('no more than the limits shared with others leave, after its own', () => {
    expect(admitted({ slots: 2 })).toEqual([[0, 1], 'shared limit']);
    expect(admitted({ slots: 3 })).toEqual([[0, 1, 2], 'batch']);
    expect(admitted({ slots: -1 })).toEqual([[], 'shared limit']);
  });

  it('keeps the seats: each host that goes takes its own', () => {
    // 25 seats to spare with nobody out: two hosts of ten.
    const seatsToSpare = (out: number) => 25 - out * 10;
    expect(admitted({ seatsToSpare })).toEqual([[0, 1], 'seats']);
  });

  it('a host that failed takes no seat and no place among the unavailable', () => {
    const queue = [{ index: 0, sessions: 0, isOut: true, staysInService: false }];
    expect(admitted({ out: 4, seatsToSpare: () => -5 }, queue)).toEqual([[0], undefined]);
  });
});

describe('a forecast with people on the hosts', () => {
  const expected = Array.from({ length: 24 }, () => 20);
  const forecast = (flat: FlatPlan) => forecastRings(oneRing(flat));
  const plan: FlatPlan = {
    from: Date.UTC(2027, 2, 22, 8),
    window: { rule: 'FREQ=DAILY', start: '01:00', end: '02:00', zone: 'UTC' },
    hosts: numberedHosts(40),
    batch: 10,
    maxUnavailable: 10,
    work: { medianMinutes: 25, p90Minutes: 25 },
    drain: { limitMinutes: 30, session: { medianMinutes: 5, p90Minutes: 5 } },
    failure: { rate: 0, retries: 0 },
    seats: { hosts: 40, perHost: 10, expected, reserve: -1, zone: 'UTC' },
    runs: 200,
    seed: 3,
  };

  it('starts the empty half in the last half hour, where the others no longer fit', () => {
    const { hosts: spans } = must(forecast(plan));
    const minute = (at: number) => (at / MINUTE) % 1440;
    // The first wave takes hosts as they come; those begun after 01:05 must be empty, 25 minutes each.
    const late = spans.filter((span) => minute(span.start) > 65);
    expect(late.length).toBeGreaterThan(0);
    expect(new Set(late.map((span) => Math.round((span.finish - span.start) / MINUTE)))).toEqual(
      new Set([25]),
    );
  });

  it('looks at the seats again while the window is open, not only when a host is done', () => {
    // At 01:00 all 400 seats are wanted, from 02:00 on none: 10 hosts may go once 100 seats are spare.
    const falling = expected.map((_, hour) => (hour <= 1 ? 400 : 0));
    const seats = { hosts: 40, perHost: 10, expected: falling, reserve: 0, zone: 'UTC' };
    const window = { ...plan.window, end: '05:00' };
    const drain = { limitMinutes: 0 };
    const answer = must(forecast({ ...plan, window, drain, seats }));
    const first = new Date(answer.hosts[0]?.start ?? 0).toISOString();
    // Straight from 400 at 01:00 to 0 at 02:00: one host's ten seats are free from 01:01:30, seen at 01:15.
    expect(first).toBe('2027-03-23T01:15:00.000Z');
  });
});

describe('a draw for whole numbers', () => {
  it('is the same each time, and uniform over neighbours', () => {
    expect(drawFor(1, 2, 3)).toBe(drawFor(1, 2, 3));
    const draws = Array.from({ length: 10_000 }, (_, i) => drawFor(7, i, 500_000));
    const share = (limit: number) => draws.filter((draw) => draw < limit).length / draws.length;
    expect(share(0.1)).toBeCloseTo(0.1, 1);
    expect(share(0.5)).toBeCloseTo(0.5, 1);
    expect(Math.min(...draws)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...draws)).toBeLessThan(1);
  });
});
