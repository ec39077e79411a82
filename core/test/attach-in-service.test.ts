/** Hosts that their agents attach while people work on: how long it takes, what limits it, and what it leaves alone. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { admit, type Situation } from '../src/rollout/admission.ts';
import { minutesByChecks, workByChecks } from '../src/rollout/agent-checks.ts';
import { forecast } from '../src/rollout/forecast/forecast.ts';
import { restOfRing, type RingPlan } from '../src/rollout/forecast/plan.ts';
import { numberedHosts } from '../src/rollout/planned-hosts.ts';
import { must } from '../src/result.ts';
import { MINUTE } from '../src/time/instant.ts';
import { oneRing, type FlatPlan } from './one-ring.ts';

describe('a change that rides the checks', () => {
  it.each([
    ['looks in the middle of an interval, reports at the next check', 5, 1, 0.5, 7.5],
    ['looks at once', 5, 1, 0, 5],
    ['looks last', 5, 1, 1, 10],
    ['attaches for longer than an interval, and reports at the one after', 5, 6, 0.5, 12.5],
    ['attaches for exactly one: that check is over when it is done', 5, 5, 0, 10],
    ['without checks takes what attaching takes', 0, 3, 0.5, 3],
  ])('%s', (_what, everyMinutes, attachMinutes, wait, minutes) =>
    expect(minutesByChecks({ everyMinutes, attachMinutes }, wait)).toBe(minutes),
  );

  it('takes as long as work whose median and 9 in 10 lie evenly', () =>
    expect(workByChecks({ everyMinutes: 5, attachMinutes: 1 })).toEqual({
      medianMinutes: 7.5,
      p90Minutes: 9.5,
      learnedFrom: 0,
    }));
});

const from = Date.UTC(2027, 2, 23, 8);
const plan = (change: Partial<FlatPlan> = {}) =>
  oneRing({
    from,
    window: { rule: 'FREQ=DAILY', start: '12:00', end: '13:00', zone: 'UTC' },
    hosts: numberedHosts(40),
    batch: 40,
    maxUnavailable: 1,
    work: { medianMinutes: 30, p90Minutes: 30 },
    drain: { limitMinutes: 25, session: { medianMinutes: 20, p90Minutes: 60 } },
    failure: { rate: 0, retries: 0 },
    inService: { checks: { everyMinutes: 0, attachMinutes: 4 } },
    // Every seat is taken at noon: nothing could be taken out of service.
    seats: {
      hosts: 40,
      perHost: 10,
      expected: Array.from({ length: 24 }, () => 400),
      reserve: 0,
      zone: 'UTC',
    },
    runs: 200,
    seed: 1,
    ...change,
  });
const noon = Date.UTC(2027, 2, 23, 12);
const finish = (change: Partial<FlatPlan> = {}) => {
  const { p10, p50, p90 } = must(forecast(plan(change))).finish;
  return [p10, p50, p90].map((at) => (at === null ? null : (at - noon) / MINUTE));
};

describe('a forecast of hosts that stay in service', () => {
  it('at noon, with every seat taken and one host out at most: four minutes', () => {
    const answer = must(forecast(plan()));
    expect(finish()).toEqual([4, 4, 4]);
    expect(answer.minSeatsLeft).toEqual({ p10: 0, p50: 0, p90: 0 });
    expect(answer.binding).toEqual([]);
  });

  it('in batches, one after the other: 40 hosts, 15 at a time, three times four minutes', () =>
    expect(finish({ batch: 15 })).toEqual([12, 12, 12]));

  it('by checks every five minutes: all within 5 to 10 minutes', () => {
    const [p10 = null, p50 = null, p90 = null] = finish({
      inService: { checks: { everyMinutes: 5, attachMinutes: 1 } },
    });
    // The last of forty evenly drawn ones: 10 - 5/41 on average.
    expect(p50).toBeGreaterThan(9.7);
    expect(p10).toBeGreaterThan(9.3);
    expect(p90).toBeLessThanOrEqual(10);
  });

  it('none begins that would not be through by the end of the window', () => {
    const window = { rule: 'FREQ=DAILY', start: '12:00', end: '12:09', zone: 'UTC' };
    const checks = { everyMinutes: 5, attachMinutes: 1 };
    expect(finish({ window, inService: { checks } })).toEqual([null, null, null]);
    expect(finish({ window: { ...window, end: '12:10' }, inService: { checks } })[1]).toBeGreaterThan(9);
  });

  it('a host that fails keeps what it has: it takes no seat, and is tried again', () => {
    const failing = must(forecast(plan({ failure: { rate: 0.5, retries: 8 } })));
    expect(failing.finish.p50).toBeGreaterThan(noon + 4 * MINUTE);
    expect(failing.minSeatsLeft.p10).toBe(0);
    expect(finish({ failure: { rate: 1, retries: 1 } })).toEqual([8, 8, 8]);
  });

  it('hosts that are made anew besides wait for seats and places; by night, by hand', () => {
    const night = { rule: 'FREQ=DAILY', start: '12:00', end: '14:00', zone: 'UTC' };
    const names = numberedHosts(4);
    const mixed = {
      window: night,
      hosts: names,
      batch: 4,
      drain: { limitMinutes: 0 },
      seats: {
        hosts: 40,
        perHost: 10,
        expected: Array.from({ length: 24 }, () => 0),
        reserve: 0,
        zone: 'UTC',
      },
      inService: { hosts: ['host 2', 'host 4'], checks: { everyMinutes: 0, attachMinutes: 4 } },
    };
    // One is out at a time: hosts 1 and 3 after one another, 30 minutes each; the others wait for nobody.
    expect(finish(mixed)).toEqual([60, 60, 60]);
    const spans = must(forecast(plan(mixed))).hosts.map((span) => [span.name, (span.finish - noon) / MINUTE]);
    expect(spans).toEqual([
      ['host 1', 30],
      ['host 2', 4],
      ['host 3', 60],
      ['host 4', 4],
    ]);
  });

  it('keeps of those that stay in service the ones that are left', () => {
    const [ring] = plan({
      inService: { hosts: ['host 2', 'host 30'], checks: { everyMinutes: 5, attachMinutes: 1 } },
    }).rings;
    const rest = restOfRing(ring as RingPlan, 3);
    expect([rest.hosts, rest.batch, rest.inService?.hosts]).toEqual([
      ['host 1', 'host 2', 'host 3'],
      3,
      ['host 2'],
    ]);
    expect(forecast({ ...plan(), rings: [rest] }).ok).toBe(true);
  });

  it('refuses hosts that it does not have and checks that never come', () => {
    const faults = forecast(
      plan({ inService: { hosts: ['stranger'], checks: { everyMinutes: -1, attachMinutes: 1e9 } } }),
    );
    expect(faults.ok ? [] : faults.error.map(({ path }) => path)).toEqual([
      'inService.everyMinutes',
      'inService.attachMinutes',
      'inService.hosts.0',
    ]);
  });
});

describe('who may start, some of them in service', () => {
  const situation: Situation = {
    now: 0,
    windowEnd: 60 * MINUTE,
    atWork: 0,
    servingAtWork: 0,
    out: 0,
    slots: Infinity,
    seatsPerHost: 10,
    p90Length: { empty: 30 * MINUTE, withPeople: 55 * MINUTE, inService: 10 * MINUTE },
    seatsToSpare: () => Infinity,
  };
  it('keeps to every limit, whatever the queue', () => {
    const host = fc.record({ sessions: fc.nat(3), isOut: fc.constant(false), staysInService: fc.boolean() });
    const around = fc.record({
      atWork: fc.nat(5),
      serving: fc.nat(5),
      out: fc.nat(3),
      slots: fc.nat(4),
      now: fc.integer({ min: 0, max: 60 }),
      spare: fc.nat(6),
    });
    fc.assert(
      fc.property(
        fc.array(host, { maxLength: 20 }),
        around,
        (queue, { atWork, serving, out, slots, now, spare }) => {
          const servingAtWork = Math.min(atWork, serving);
          const limits = { batch: 8, maxUnavailable: 5 };
          const seatsToSpare = (n: number) => (spare - n) * 10;
          const { start } = admit(
            queue,
            { ...situation, now: now * MINUTE, atWork, servingAtWork, out, slots, seatsToSpare },
            limits,
          );
          const taken = start.filter((one) => !one.staysInService).length;
          expect(start.length + atWork).toBeLessThanOrEqual(Math.max(atWork, limits.batch));
          const before = atWork - servingAtWork + out;
          if (taken > 0) {
            expect(before + taken).toBeLessThanOrEqual(limits.maxUnavailable);
            expect(taken).toBeLessThanOrEqual(slots);
            expect(before + taken).toBeLessThanOrEqual(spare);
          }
          for (const one of start) {
            const minutes = one.staysInService ? 10 : one.sessions > 0 ? 55 : 30;
            expect(now + minutes).toBeLessThanOrEqual(60);
          }
        },
      ),
    );
  });
});
