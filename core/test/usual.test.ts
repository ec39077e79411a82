/** What is assumed before anything was measured, and what follows from it, by hand. */
import { describe, expect, it } from 'vitest';
import { makingMinutes, usualPace, usualStorage } from '../src/pool/assumptions.ts';
import { cloneStorage } from '../src/pool/clone-storage.ts';
import { officeSessions } from '../src/pool/session-curve.ts';
import { isTriedAgain, usualFailures } from '../src/rollout/usual-failures.ts';

describe('making hosts', () => {
  it.each([
    [1, 'linked', 4.5],
    [8, 'linked', 4.5],
    [9, 'linked', 9],
    [40, 'linked', 22.5],
    [40, 'full', 72.5],
    [0, 'full', 0],
  ] as const)('%i %s clones, eight at a time, take %d minutes', (hosts, clone, minutes) =>
    expect(makingMinutes(hosts, usualPace(clone))).toBe(minutes),
  );
});

describe('storage of a month', () => {
  const input = { ...usualStorage, hosts: 10, imageBytes: 17e9, replicas: 1 };
  it('of ten linked clones is one image and 8 GB each', () =>
    expect(cloneStorage('linked', input).total).toBe(17e9 + 10 * (30 * 0.2e9 + 2e9)));
  it('of ten full clones is an image and 8 GB each', () =>
    expect(cloneStorage('full', input).total).toBe(10 * (17e9 + 8e9)));
});

describe('a host that failed', () => {
  it('once is tried again by itself, twice it waits for a person', () =>
    expect([0, 1, 2, 3].map((attempts) => isTriedAgain(attempts))).toEqual([true, true, false, false]));
  it('without retries waits at once', () => {
    expect(isTriedAgain(1, { ...usualFailures, retries: 0 })).toBe(false);
  });
});

describe('sessions of an office day', () => {
  const day = officeSessions(10, 10);
  it('are 24, most at ten in the morning, when 76 of 100 who come are there', () => {
    expect(day).toHaveLength(24);
    expect(Math.max(...day)).toBe(day[10]);
    // 10 hosts × 10 seats × 70 % × 0.76 = 53.2.
    expect(day[10]).toBe(53);
  });
  it('dip at lunch and are nearly none at night', () => {
    expect((day[12] ?? 0) < (day[11] ?? 0) && (day[12] ?? 0) < (day[13] ?? 0)).toBe(true);
    expect(Math.max(...day.slice(1, 5))).toBe(1);
  });
  it('grow with hosts and seats, and are none without', () => {
    expect(officeSessions(20, 10)[10]).toBe(106);
    expect(officeSessions(0, 10)).toEqual(Array(24).fill(0));
  });
});
