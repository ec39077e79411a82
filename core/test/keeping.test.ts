import { describe, expect, it } from 'vitest';
import { afterErrand, isStillOn } from '../src/pool/errand.ts';
import { nextKeeping, type KeepingNow } from '../src/pool/keeping.ts';
import { restingRules, type ReadinessFacts, type ReadinessRules } from '../src/pool/readiness.ts';
import { holdBack, standingIn } from '../src/pool/service-state.ts';
import { simulateDay, simulateDays, type DayInput } from '../src/pool/simulated-day.ts';
import { Waiting } from '../src/pool/waiting.ts';

const hours = <T>(of: (hour: number) => T) => Array.from({ length: 24 }, (_, hour) => of(hour));
const facts: ReadinessFacts = {
  kind: 'pooled',
  sessionLimit: 10,
  hosts: 20,
  expected: hours(() => 80),
  arrivals: hours(() => 120),
  leads: { start: 4, resume: 1, make: 9 },
};
const offAlways = Array.from({ length: 7 }, () => hours(() => 'off' as const));
/** Ten hosts are needed, two of them spares. */
const rules: ReadinessRules = { ...restingRules(20), week: offAlways, reserve: 0 };
const now: KeepingNow = {
  day: 2,
  minute: 600,
  sessions: 80,
  serving: 10,
  coming: 0,
  starting: 0,
  resting: 10,
  longUnused: 0,
  startsAtOnce: 50,
};
const moves = (change: Partial<KeepingNow>, ofRules: Partial<ReadinessRules> = {}, of = facts) => {
  const { start, make, rest, remove } = nextKeeping(of, { ...rules, ...ofRules }, { ...now, ...change });
  return { start, make, rest, remove };
};
const none = { start: 0, make: 0, rest: 0, remove: 0 };

describe('keeping a pool ready', () => {
  it('does nothing while as many are ready as are needed', () => {
    expect(moves({})).toEqual(none);
  });

  it('starts what is missing, less what is coming already', () => {
    expect(moves({ serving: 6 })).toEqual({ ...none, start: 4 });
    expect(moves({ serving: 6, coming: 3, starting: 3 })).toEqual({ ...none, start: 1 });
    expect(moves({ sessions: 130 })).toEqual({ ...none, start: 5 });
  });

  it('starts no more at once than the datastore carries', () => {
    expect(moves({ serving: 2, startsAtOnce: 3 })).toEqual({ ...none, start: 3 });
    expect(moves({ serving: 2, coming: 3, starting: 3, startsAtOnce: 3 })).toEqual(none);
  });

  it('makes hosts only when none rests, up to the most', () => {
    const full = { serving: 20, resting: 0, sessions: 200 };
    const peak = { ...facts, expected: hours(() => 200) };
    // 200 people on 20 hosts, and spares for the ten minutes of making one: 20 on average, 31 seats.
    expect(moves(full, { mostHosts: 40 }, peak)).toEqual({ ...none, make: 4 });
    expect(moves(full, { mostHosts: 22 }, peak)).toEqual({ ...none, make: 2 });
    expect(moves(full, {}, peak)).toEqual(none);
    expect(moves({ ...full, coming: 4 }, { mostHosts: 40 }, peak)).toEqual(none);
  });

  it('lets rest what is not needed, now and in an hour', () => {
    expect(moves({ serving: 15, resting: 5 })).toEqual({ ...none, rest: 4 });
    const rising = { ...facts, expected: hours((hour) => (hour === 11 ? 130 : 80)) };
    expect(moves({ serving: 15, resting: 5 }, {}, rising)).toEqual(none);
  });

  it('keeps half a host more before it empties one, so that none comes and goes', () => {
    expect(moves({ serving: 11, resting: 9, sessions: 80 })).toEqual(none);
    expect(moves({ serving: 11, resting: 9, sessions: 74 })).toEqual({ ...none, rest: 1 });
  });

  it('lets nothing rest while others come, nor in hours in which all are to be on', () => {
    expect(moves({ serving: 15, resting: 4, coming: 1, starting: 1 })).toEqual(none);
    const on = offAlways.map((day) => day.map(() => 'on' as const));
    expect(moves({ serving: 15, resting: 5 }, { week: on })).toEqual({ ...none, start: 5 });
  });

  it('deletes what rests too long, down to the fewest', () => {
    expect(moves({ longUnused: 6 }, { fewestHosts: 16 })).toEqual({ ...none, remove: 4 });
    expect(moves({ longUnused: 2 }, { fewestHosts: 16 })).toEqual({ ...none, remove: 2 });
    expect(moves({ longUnused: 6 })).toEqual(none);
  });
});

describe('an errand', () => {
  const host = { ...standingIn('in service'), isHeld: false };
  const off = { ...standingIn('off'), isHeld: false };

  it('ends where it leads', () => {
    expect(afterErrand('starting', off, 'off')).toEqual({ then: 'stands', state: 'in service' });
    expect(afterErrand('resuming', { ...off, isHeld: true }, 'off')).toEqual({
      then: 'stands',
      state: 'held',
    });
    expect(afterErrand('draining', host, 'off')).toEqual({ then: 'goes on', errand: 'stopping' });
    expect(afterErrand('draining', host, 'suspended')).toEqual({ then: 'goes on', errand: 'suspending' });
    expect(afterErrand('stopping', host, 'suspended')).toEqual({ then: 'stands', state: 'off' });
    expect(afterErrand('suspending', host, 'off')).toEqual({ then: 'stands', state: 'suspended' });
  });

  it('gives way to what people and rollouts want of the host', () => {
    const draining = { ...standingIn('draining'), isHeld: false };
    expect(isStillOn('draining', draining)).toBe(true);
    expect(isStillOn('draining', { ...draining, isHeld: true })).toBe(false);
    expect(isStillOn('draining', { ...standingIn('rebuilding'), isHeld: false })).toBe(false);
    expect(isStillOn('starting', draining)).toBe(false);
    expect(isStillOn('starting', holdBack(standingIn('off')))).toBe(true);
  });
});

describe('those who wait', () => {
  it('are those who find no seat, and everybody behind them', () => {
    const waiting = new Waiting();
    // Ten seats: nobody, then 2 of 3 who come, then both who come behind them, then all have one.
    waiting.minute(4, 9, 10);
    waiting.minute(3, 12, 10);
    waiting.minute(2, 11, 10);
    waiting.minute(1, 10, 10);
    expect([waiting.people, waiting.minutes, waiting.longest]).toEqual([4, 3, 2]);
  });
});

describe('a simulated day', () => {
  const input: DayInput = {
    facts: {
      ...facts,
      hosts: 40,
      expected: hours((hour) => (hour >= 8 && hour < 18 ? 250 : 60)),
      arrivals: hours((hour) => (hour === 7 ? 260 : hour >= 8 && hour < 17 ? 100 : hour === 17 ? 0 : 24)),
      leads: { start: 1.3, resume: 0.4, make: 9.5 },
    },
    spreads: { start: [1, 1.3], resume: [0.3, 0.4], make: [7, 9.5] },
    startsAtOnce: 20,
    prices: { perHour: 0.24, suspendedPerHour: 0.003 },
    day: 0,
  };
  const off: ReadinessRules = { ...restingRules(40), week: offAlways };

  it('is the same for the same seed, and another for another', () => {
    expect(simulateDay(input, off, 'a')).toEqual(simulateDay(input, off, 'a'));
    expect(simulateDay(input, off, 'b').signIns).not.toBe(simulateDay(input, off, 'a').signIns);
  });

  it('costs all hosts at all hours where nothing may rest', () => {
    const day = simulateDay(input, restingRules(40), 'a');
    expect([day.onHours, day.cost, day.suspendedHours]).toEqual([960, 960 * 0.24, 0]);
    expect(new Set(day.seats)).toEqual(new Set([400]));
  });

  it('follows the sessions that are expected', () => {
    const noon = Array.from({ length: 30 }, (_, i) => simulateDay(input, off, `mean ${i}`).sessions[48] ?? 0);
    const mean = noon.reduce((sum, n) => sum + n, 0) / noon.length;
    expect(Math.abs(mean - 250)).toBeLessThan(12);
    expect(simulateDays(input, off, 5, 'mean').onHours).toBeLessThan(0.65 * 960);
  });

  it('keeps waits under 1 of 100 with the spares recommended, and makes more wait without', () => {
    const kept = simulateDays(input, off, 20, 'w').waitedShare;
    const bare = simulateDays(input, { ...off, spares: hours(() => 0), reserve: 0 }, 20, 'w').waitedShare;
    expect(kept).toBeLessThan(0.01);
    expect(bare).toBeGreaterThan(kept);
  });

  it('makes hosts when more come than there are, and no more than may be', () => {
    const few = { ...input, facts: { ...input.facts, hosts: 20 } };
    const day = simulateDay(few, { ...off, mostHosts: 30, fewestHosts: 20 }, 'm');
    expect(day.made).toBeGreaterThan(4);
    expect(Math.max(...day.seats)).toBeLessThanOrEqual(300);
    expect(simulateDay(few, { ...off, mostHosts: 20, fewestHosts: 20 }, 'm').made).toBe(0);
  });

  it('pays for the memory of hosts that are suspended', () => {
    const week = offAlways.map((day) => day.map(() => 'suspended' as const));
    const day = simulateDay(input, { ...off, week }, 's');
    expect(day.suspendedHours).toBeGreaterThan(200);
    expect(day.cost).toBeCloseTo(day.onHours * 0.24 + day.suspendedHours * 0.003, 9);
  });
});
