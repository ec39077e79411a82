import { describe, expect, it } from 'vitest';
import { badness, busiestAhead, findingsOf, type PoolCondition } from '../src/pool/health.ts';

const expected = Array.from({ length: 24 }, (_, hour) => (hour >= 9 && hour < 17 ? 80 : 10));
const well: PoolCondition = {
  isKeptReady: false,
  hosts: 10,
  inService: 10,
  held: 0,
  off: 0,
  failed: 0,
  silent: 0,
  scratchSoon: 0,
  sessionLimit: 10,
  expected,
  hourNow: 8,
};
const whats = (change: Partial<PoolCondition>) =>
  findingsOf({ ...well, ...change }).map(({ what, count, hour }) => [what, count, hour]);

describe('how a pool is', () => {
  it('is well with seats for the day, and says nothing', () => expect(findingsOf(well)).toEqual([]));

  it.each<[string, Partial<PoolCondition>, unknown[][]]>([
    // Seven hosts have 70 seats, and 80 sessions come at nine.
    [
      'too few seats, with the hour',
      { inService: 7, held: 3 },
      [
        ['seats', 10, 9],
        ['held', 3, null],
      ],
    ],
    ['enough at night', { inService: 7, held: 3, hourNow: 18 }, [['held', 3, null]]],
    // 80 of 80: none is left.
    [
      'tight seats',
      { inService: 8, off: 2 },
      [
        ['tight', 0, 9],
        ['off', 2, null],
      ],
    ],
    [
      'hosts that failed before agents that are silent',
      { failed: 1, silent: 2 },
      [
        ['failed', 1, null],
        ['silent', 2, null],
      ],
    ],
    ['a scratch disk that is full soon', { scratchSoon: 2 }, [['scratch', 2, null]]],
    ['a pool that has none', { hosts: 0, inService: 0 }, [['no hosts', 0, null]]],
  ])('tells %s', (_what, change, told) => expect(whats(change)).toEqual(told));

  it('looks twelve hours ahead, over midnight, and takes the first of equal hours', () => {
    expect(busiestAhead({ expected, hourNow: 22 })).toEqual({ hour: 9, expected: 80 });
    expect(busiestAhead({ expected, hourNow: 19 })).toEqual({ hour: 19, expected: 10 });
    expect(busiestAhead({ expected, hourNow: 12 })).toEqual({ hour: 12, expected: 80 });
  });

  it('is worse with one seat too few than with any number held back', () => {
    const bad = (change: Partial<PoolCondition>) => badness(findingsOf({ ...well, ...change }));
    expect(bad({ failed: 1 })).toBeGreaterThan(bad({ held: 98, hosts: 5_000, inService: 4_000 }));
    expect(bad({ failed: 2 })).toBeGreaterThan(bad({ failed: 1 }));
    expect(bad({})).toBe(0);
  });
});
