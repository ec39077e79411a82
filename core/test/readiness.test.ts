import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  hostsNeeded,
  leadAt,
  readinessFaults,
  restingRules,
  sparesAt,
  type ReadinessFacts,
  type ReadinessRules,
  type RestMode,
} from '../src/pool/readiness.ts';
import { planWeek } from '../src/pool/readiness-week.ts';

const flat = (n: number) => Array.from({ length: 24 }, () => n);
const week = (mode: RestMode) => Array.from({ length: 7 }, () => flat(0).map(() => mode));

const facts: ReadinessFacts = {
  kind: 'pooled',
  sessionLimit: 10,
  hosts: 20,
  expected: flat(80),
  arrivals: flat(120),
  leads: { start: 4, resume: 1, make: 9 },
};
const rules: ReadinessRules = { ...restingRules(20), week: week('off'), reserve: 0 };
const at = { day: 0, minute: 600, sessions: 0 };

describe('the hosts that are needed', () => {
  it('carry those who are expected, and the spares for those who come meanwhile', () => {
    // 80 sessions on 8 hosts; in the 4 minutes of a start and the minute of a look 10 come: 18 seats.
    expect([sparesAt(facts, rules, 0, 10), hostsNeeded(facts, rules, at)]).toEqual([2, 10]);
  });

  it('carry those who are there where these are more', () => {
    expect(hostsNeeded(facts, rules, { ...at, sessions: 101 })).toBe(13);
  });

  it('have the reserve on top', () => {
    expect(hostsNeeded(facts, { ...rules, reserve: 0.25 }, at)).toBe(12);
  });

  it('are ready before an hour begins that needs more', () => {
    const rising = { ...facts, expected: flat(0).map((_, hour) => (hour >= 11 ? 150 : 50)) };
    // At 10:00 and in the 19 minutes after it at most 82 are expected, at 10:41 the 150 of 11:00.
    expect(hostsNeeded(rising, rules, at)).toBe(9 + 2);
    expect(hostsNeeded(rising, rules, { ...at, minute: 641 })).toBe(15 + 2);
  });

  it('are at least those that are on in any case, and at most those that may be', () => {
    expect(hostsNeeded(facts, { ...rules, leastOn: flat(14) }, at)).toBe(14);
    expect(hostsNeeded(facts, rules, { ...at, sessions: 900 })).toBe(20);
    expect(hostsNeeded(facts, { ...rules, mostHosts: 30 }, { ...at, sessions: 900 })).toBe(30);
  });

  it('have more spares the longer the next host takes', () => {
    const spares = (start: number) => sparesAt({ ...facts, leads: { ...facts.leads, start } }, rules, 0, 10);
    // 4, 10, 20 and 60 people on average: 9, 18, 31 and 79 seats.
    expect([spares(1), spares(4), spares(9), spares(29)]).toEqual([1, 2, 4, 8]);
  });

  it('have as many spares as somebody set', () => {
    expect(sparesAt(facts, { ...rules, spares: flat(5) }, 0, 10)).toBe(5);
  });

  it('are all or none where each is one person’s', () => {
    const own: ReadinessFacts = { ...facts, kind: 'dedicated', sessionLimit: 1 };
    expect(hostsNeeded({ ...own, expected: flat(3) }, rules, at)).toBe(20);
    expect(hostsNeeded({ ...own, expected: flat(0) }, rules, at)).toBe(0);
  });

  it('are never fewer than the sessions expected need', () => {
    const curves = fc.array(fc.nat(200), { minLength: 24, maxLength: 24 });
    fc.assert(
      fc.property(curves, fc.integer({ min: 1, max: 40 }), fc.nat(1439), (expected, sessionLimit, minute) => {
        const any = { ...facts, expected, sessionLimit };
        const needed = hostsNeeded(any, rules, { day: 3, minute, sessions: 0 });
        const hour = Math.floor(minute / 60);
        const [low = 0, high = 0] = [expected[hour], expected[(hour + 1) % 24]];
        const now = low + ((high - low) * (minute % 60)) / 60;
        expect(needed).toBeGreaterThanOrEqual(Math.min(20, Math.ceil(now / sessionLimit - 1e-6)));
      }),
    );
  });
});

describe('the next host', () => {
  it('is started, resumed, or made when all are in use', () => {
    expect(leadAt(facts, rules, 0, 10)).toBe('start');
    expect(leadAt(facts, { ...rules, week: week('suspended') }, 0, 10)).toBe('resume');
    const full = { ...facts, expected: flat(200) };
    expect(leadAt(full, { ...rules, mostHosts: 25 }, 0, 10)).toBe('make');
    expect(leadAt(full, rules, 0, 10)).toBe('start');
  });
});

describe('a week', () => {
  const prices = { perHour: 0.5, suspendedPerHour: 0.01 };

  it('costs what its hours come to', () => {
    const plan = planWeek(facts, rules, prices);
    // 10 of 20 hosts at every hour: 1,680 host hours, half of what all on cost.
    expect([plan.onHours, plan.allOnHours]).toEqual([1680, 3360]);
    expect([plan.costPerMonth, plan.allOnPerMonth]).toEqual([3650, 7300]);
  });

  it('pays for the memory of suspended hosts', () => {
    // A resume takes a minute: 4 people on average in two, 9 seats, one host.
    const plan = planWeek(facts, { ...rules, week: week('suspended') }, prices);
    expect([plan.hours[0]?.needed, plan.hours[0]?.resting]).toEqual([9, 11]);
    // (9 × 0.50 + 11 × 0.01) × 730 hours.
    expect(plan.costPerMonth).toBeCloseTo(3365.3, 6);
  });

  it('leaves all on where that is what is set', () => {
    const half = week('off').map((hours, day) => hours.map((mode): RestMode => (day < 5 ? 'on' : mode)));
    const plan = planWeek(facts, { ...rules, week: half }, prices);
    expect(plan.onHours).toBe(5 * 24 * 20 + 2 * 24 * 10);
  });
});

describe('rules', () => {
  const paths = (change: Partial<ReadinessRules>, of: ReadinessFacts = facts) =>
    readinessFaults(of, { ...rules, ...change }).map((fault) => fault.path);

  it('that contradict themselves or the pool are told at their field', () => {
    expect(paths({})).toEqual([]);
    expect(paths({ mostHosts: 10 })).toEqual(['mostHosts']);
    expect(paths({ leastOn: flat(0).map((_, hour) => (hour === 7 ? 21 : 0)) })).toEqual(['leastOn']);
    const own: ReadinessFacts = { ...facts, kind: 'dedicated' };
    expect(paths({ mostHosts: 21, deleteAfterMinutes: 60 }, own)).toEqual([
      'mostHosts',
      'deleteAfterMinutes',
    ]);
  });
});
