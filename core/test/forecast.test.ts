import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { must } from '../src/result.ts';
import { forecast as forecastRings } from '../src/rollout/forecast/forecast.ts';
import { oneRing, type FlatPlan } from './one-ring.ts';
import { numberedHosts } from '../src/rollout/planned-hosts.ts';
import { suggestions } from '../src/rollout/suggestions.ts';
import { formatInstant, parseInstant } from '../src/time/instant.ts';

const forecast = (flat: FlatPlan) => forecastRings(oneRing(flat));

const plan: FlatPlan = {
  from: parseInstant('2027-03-22T08:00:00Z') as number,
  window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00', zone: 'Europe/Dublin' },
  hosts: numberedHosts(100),
  batch: 25,
  maxUnavailable: 25,
  work: { medianMinutes: 30, p90Minutes: 30 },
  drain: { limitMinutes: 0 },
  failure: { rate: 0, retries: 0 },
  runs: 1,
  seed: 1,
};
const finish = (p: FlatPlan) => {
  const { p50 } = must(forecast(p)).finish;
  return p50 === null ? null : formatInstant(p50);
};

describe('forecast without randomness equals the calculation by hand', () => {
  it('four waves of 30 minutes from 01:00', () => {
    const answer = must(forecast(plan));
    expect(formatInstant(answer.finish.p90 ?? 0)).toBe('2027-03-23T03:00:00Z');
    expect(answer.windowsUsed).toEqual({ p10: 1, p50: 1, p90: 1 });
    expect(answer.finishesInFirstWindow).toBe(1);
    expect(answer.minSeatsLeft.p50).toBe(75);
    expect(answer.binding).toEqual([{ constraint: 'batch', minutes: 90 }]);
  });

  it('at 70 minutes three waves fit a night: 75 hosts the first, 25 the second', () => {
    const slow = { ...plan, work: { medianMinutes: 70, p90Minutes: 70 } };
    const answer = must(forecast(slow));
    const nights = answer.hosts.map((h) => formatInstant(h.start).slice(0, 10));
    expect(nights.filter((n) => n === '2027-03-23')).toHaveLength(75);
    expect(nights.filter((n) => n === '2027-03-24')).toHaveLength(25);
    expect(finish(slow)).toBe('2027-03-24T02:10:00Z');
    expect(answer.finishesInFirstWindow).toBe(0);
  });

  it('a max unavailable below the batch is what binds', () => {
    const answer = must(forecast({ ...plan, maxUnavailable: 10 }));
    // 8 waves of 30 minutes fit four hours: 80 hosts; the last 20 take an hour of the second night.
    expect(formatInstant(answer.finish.p50 ?? 0)).toBe('2027-03-24T02:00:00Z');
    expect(answer.binding[0]?.constraint).toBe('max unavailable');
  });

  it('the drain limit counts before a host may start', () => {
    // 230 minutes of work and 20 of draining do not fit 240; without draining they do.
    const work = { medianMinutes: 230, p90Minutes: 230 };
    expect(finish({ ...plan, hosts: numberedHosts(25), work })).toBe('2027-03-23T04:50:00Z');
    // With them it fits the one night that has an hour more, when the clocks go back: 00:00 UTC and 250 minutes.
    expect(finish({ ...plan, hosts: numberedHosts(25), work, drain: { limitMinutes: 20 } })).toBe(
      '2027-10-31T04:10:00Z',
    );
    // 310 minutes fit none.
    const longer = { medianMinutes: 290, p90Minutes: 290 };
    expect(
      finish({ ...plan, hosts: numberedHosts(25), work: longer, drain: { limitMinutes: 20 } }),
    ).toBeNull();
  });

  it('D20: a retry goes first, drains nobody, and is admitted with the length that it has', () => {
    // Every attempt fails. 01:00 to 02:30: 30 minutes of draining and 30 of work until 02:00; the retry
    // has 30 minutes, fits exactly, and ends the plan at 02:30.
    const failing = {
      ...plan,
      window: { ...plan.window, end: '02:30' },
      hosts: numberedHosts(1),
      batch: 1,
      drain: { limitMinutes: 30 },
      failure: { rate: 1, retries: 1 },
    };
    expect(finish(failing)).toBe('2027-03-23T02:30:00Z');
    // A minute less, and it waits for the next night.
    expect(finish({ ...failing, window: { ...plan.window, end: '02:29' } })).toBe('2027-03-24T01:30:00Z');
  });

  it('D20: failed hosts that wait do not hold up the rest: 50 hosts, 3 at once, one in ten failing', () => {
    const answer = must(
      forecast({
        ...plan,
        hosts: numberedHosts(50),
        batch: 3,
        maxUnavailable: 3,
        failure: { rate: 0.1, retries: 3 },
        runs: 200,
      }),
    );
    expect(answer.finish.p90).not.toBeNull();
    expect(answer.failed).toBe(0);
  });

  it('D20: a large plan answers in time, with all its runs', () => {
    const begun = performance.now();
    const large = {
      ...plan,
      hosts: numberedHosts(5_000),
      batch: 500,
      maxUnavailable: 500,
      work: { medianMinutes: 30, p90Minutes: 40 },
      runs: 1_000,
    };
    expect(must(forecast(large)).runs).toBe(1_000);
    expect(performance.now() - begun).toBeLessThan(30_000);
    const more = forecast({ ...large, hosts: numberedHosts(1_000_000) });
    expect(more.ok ? '' : more.error[0]?.message).toBe('must be at most 100,000; forecast the rest apart');
  });

  it('an empty host needs no draining; one with sessions waits for the last of them', () => {
    const expected = (n: number) => Array.from({ length: 24 }, () => n);
    const seats = (n: number) => ({
      hosts: 25,
      perHost: 4,
      expected: expected(n),
      reserve: -1,
      zone: 'Europe/Dublin',
    });
    const drain = { limitMinutes: 20, session: { medianMinutes: 90, p90Minutes: 90 } };
    expect(finish({ ...plan, hosts: numberedHosts(25), drain, seats: seats(0) })).toBe(
      '2027-03-23T01:30:00Z',
    );
    // Two sessions a host, each with 90 minutes left: everyone is signed out at the limit.
    expect(finish({ ...plan, hosts: numberedHosts(25), drain, seats: seats(50) })).toBe(
      '2027-03-23T01:50:00Z',
    );
  });

  it('the shorter night of the clock change holds fewer waves', () => {
    const saturday = {
      ...plan,
      from: parseInstant('2027-03-27T08:00:00Z') as number,
      hosts: numberedHosts(250),
    };
    const answer = must(forecast({ ...saturday, batch: 25 }));
    const first = answer.hosts.filter((h) => formatInstant(h.start).startsWith('2027-03-28'));
    expect(first).toHaveLength(150); // 3 hours: six waves
  });

  it('seats: takes no host whose absence would leave people standing', () => {
    const expected = Array.from({ length: 24 }, () => 300);
    const seats = { hosts: 40, perHost: 10, expected, reserve: 0.1, zone: 'Europe/Dublin' };
    const answer = must(
      forecast({ ...plan, hosts: numberedHosts(40), batch: 20, maxUnavailable: 20, seats }),
    );
    // 400 seats, 330 to keep: 7 hosts at a time; 40 hosts need 6 waves.
    expect(formatInstant(answer.finish.p50 ?? 0)).toBe('2027-03-23T04:00:00Z');
    expect(answer.minSeatsLeft.p50).toBe(30);
    expect(answer.binding[0]?.constraint).toBe('seats');
  });

  it('a host that always fails is set aside and the plan still ends', () => {
    const answer = must(
      forecast({
        ...plan,
        hosts: numberedHosts(2),
        batch: 2,
        maxUnavailable: 4,
        failure: { rate: 1, retries: 1 },
      }),
    );
    expect(answer.failed).toBe(2);
    expect(formatInstant(answer.finish.p50 ?? 0)).toBe('2027-03-23T02:00:00Z');
  });

  it('never finishes when failed hosts use up what may be unavailable', () => {
    const doomed = {
      ...plan,
      hosts: numberedHosts(20),
      batch: 5,
      maxUnavailable: 5,
      failure: { rate: 1, retries: 0 },
    };
    const answer = must(forecast(doomed));
    expect(answer.finish.p90).toBeNull();
    expect(answer.binding[0]?.constraint).toBe('max unavailable');
  });
});

describe('forecast with randomness', () => {
  const random: FlatPlan = {
    ...plan,
    work: { medianMinutes: 30, p90Minutes: 45 },
    failure: { rate: 0.05, retries: 1 },
    maxUnavailable: 40,
    runs: 200,
  };

  it('same seed, same answer; percentiles in order', () => {
    const [a, b] = [must(forecast(random)), must(forecast(random))];
    expect(a).toEqual(b);
    expect(a.finish.p10).toBeLessThanOrEqual(a.finish.p50 ?? 0);
    expect(a.finish.p50).toBeLessThanOrEqual(a.finish.p90 ?? Infinity);
    expect(must(forecast({ ...random, seed: 2 })).finish).not.toEqual(a.finish);
  });

  it('every host is done exactly once, inside a window, never more at once than allowed', () => {
    const property = fc.property(
      fc.integer({ min: 1, max: 60 }),
      fc.integer({ min: 1, max: 20 }),
      fc.integer({ min: 5, max: 90 }),
      fc.integer({ min: 0, max: 30 }),
      fc.nat(1000),
      (hosts, wanted, minutes, spread, seed) => {
        const batch = Math.min(wanted, hosts);
        const work = { medianMinutes: minutes, p90Minutes: minutes + spread };
        const answer = must(
          forecast({
            ...plan,
            hosts: numberedHosts(hosts),
            batch,
            maxUnavailable: batch + 1,
            work,
            runs: 3,
            seed,
          }),
        );
        expect(answer.hosts.map((h) => h.index)).toEqual(Array.from({ length: hosts }, (_, i) => i));
        for (const host of answer.hosts) {
          const together = answer.hosts.filter((o) => o.start <= host.start && o.finish > host.start);
          expect(together.length).toBeLessThanOrEqual(batch);
          const inside = answer.windows.some(
            (w) => host.start >= w.start && host.start + (minutes + spread) * 60_000 <= w.end,
          );
          expect(inside).toBe(true);
        }
      },
    );
    fc.assert(property, { numRuns: 60 });
  });
});

describe('suggestions', () => {
  it('the smallest batch that makes one window, checked by a forecast of its own', () => {
    const slow = { ...plan, work: { medianMinutes: 70, p90Minutes: 70 } };
    const list = suggestions(oneRing(slow), must(forecast(slow)));
    const smallest = list.find((s) => s.kind === 'smallest batch for one window');
    expect(smallest?.batch).toBe(34); // three waves of 34 hold 100; three of 33 do not
    const longer = list.find((s) => s.kind === 'longer window');
    expect(longer?.windowEnd).toBe('06:00'); // four waves of 70 minutes are 4 h 40 min
  });
});

describe('faults of a plan', () => {
  it.each([
    [{ batch: 0 }, 'batch'],
    [{ batch: 101 }, 'batch'],
    [{ hosts: numberedHosts(0) }, 'hosts'],
    [{ maxUnavailable: 0 }, 'maxUnavailable'],
    [{ work: { medianMinutes: 30, p90Minutes: 20 } }, 'work.p90Minutes'],
    [{ failure: { rate: 2, retries: 0 } }, 'failure.rate'],
    [{ window: { ...plan.window, end: '01:00' } }, 'window.end'],
  ])('%o is refused at %s', (change, path) => {
    const result = forecast({ ...plan, ...change });
    expect(result.ok ? [] : result.error.map((f) => f.path)).toContain(path);
  });
});
