/** What is assumed before anything was measured, and what follows from it, by hand. */
import { describe, expect, it } from 'vitest';
import { makingTime } from '../src/pool/making-time.ts';
import { cloneStorage } from '../src/pool/clone-storage.ts';
import { disksOnPlace, storageOnOne } from '../src/pool/demand.ts';
import { dealOverPlaces } from '../src/pool/places.ts';
import { officeSessions } from '../src/pool/session-curve.ts';
import { isTriedAgain, usualFailures } from '../src/rollout/usual-failures.ts';
import { workTime } from '../src/rollout/usual-work.ts';

describe('making hosts', () => {
  it('takes batch after batch, each as long as its slowest host', () => {
    const one = makingTime('linked', 1, 8);
    // A clone of 4 (9 in 10: 6), half a minute for the broker, and half of the five for the agent.
    expect(one.p50Minutes).toBeGreaterThan(6.5);
    expect(one.p50Minutes).toBeLessThan(8);
    const eight = makingTime('linked', 8, 8);
    expect(eight.p50Minutes).toBeGreaterThan(one.p50Minutes);
    expect(makingTime('linked', 80, 8).p50Minutes).toBeCloseTo(10 * eight.p50Minutes);
    // The spread of ten batches is √10 times that of one.
    const spread = (n: number) =>
      makingTime('linked', n, 8).p90Minutes - makingTime('linked', n, 8).p50Minutes;
    expect(spread(80) / spread(8)).toBeCloseTo(Math.sqrt(10));
  });
  it('takes longer for full clones, shorter many at a time, no time for none', () => {
    expect(makingTime('full', 8, 8).p50Minutes).toBeGreaterThan(makingTime('linked', 8, 8).p50Minutes + 9);
    expect(makingTime('linked', 40, 20).p50Minutes).toBeLessThan(makingTime('linked', 40, 8).p50Minutes);
    expect(makingTime('full', 0, 8)).toEqual({ p50Minutes: 0, p90Minutes: 0 });
  });
});

describe('storage of a month', () => {
  const plan = { imageBytes: 17e9, dataBytes: 0, isCleanedAtSignOut: false, days: 30, scratchBytes: 6e9 };
  const store = { name: 'standard', capacityBytes: 1e12, usedBytes: 0, overcommit: 1 };
  const bytes = (kind: 'full' | 'linked' | 'network', change: object = {}) =>
    cloneStorage(kind, storageOnOne(10, { ...plan, ...change }, store)).totalBytes;
  it('of ten linked clones is one image and 8 GB each', () =>
    expect(bytes('linked')).toBe(17e9 + 10 * (30 * 0.2e9 + 2e9)));
  it('of ten full clones is an image and 8 GB each', () => expect(bytes('full')).toBe(10 * (17e9 + 8e9)));
  it('of ten that stream is one image and a scratch disk each', () =>
    expect(bytes('network')).toBe(17e9 + 10 * 6e9));
  it('of ten that return to clean is what a session of twelve hours gathers', () =>
    expect(bytes('linked', { isCleanedAtSignOut: true })).toBe(17e9 + 10 * (0.5 * 0.2e9 + 2e9)));
  it('is asked of each datastore for what lies there', () => {
    const places = { datastore: 'standard', parentDatastore: 'fast', dataDatastore: 'archive' };
    expect(disksOnPlace('linked', { ...plan, dataBytes: 100e9 }, places)).toEqual([
      { datastore: 'standard', fixedBytes: 0, perHostBytes: 8e9, operationsPerHost: 12 },
      { datastore: 'fast', fixedBytes: 17e9, perHostBytes: 0, operationsPerHost: 0 },
      { datastore: 'archive', fixedBytes: 0, perHostBytes: 100e9, operationsPerHost: 0 },
    ]);
  });
});

describe('hosts on several places', () => {
  it.each([
    [10, [null], [10]],
    [10, [4, null], [4, 6]],
    [3, [4, null], [3, 0]],
    [10, [4, 3], [4, 3]],
    [0, [4, null], [0, 0]],
  ])('%i over bounds of %j stand as %j', (hosts, bounds, dealt) =>
    expect(dealOverPlaces(hosts, bounds)).toEqual(dealt),
  );
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

describe('making a host anew', () => {
  it('takes the usual time of its kind, and one check of its agent less without packages', () => {
    expect(workTime('linked', [])).toEqual({ medianMinutes: 19, p90Minutes: 25, learnedFrom: 0 });
    expect(workTime('linked', [], 5)).toEqual({ medianMinutes: 14, p90Minutes: 20, learnedFrom: 0 });
  });
  it('takes what ten hosts took, whatever is usual', () => {
    const past = [12, 14, 13, 15, 11, 12, 13, 14, 12, 20];
    expect(workTime('linked', past.slice(1), 5).learnedFrom).toBe(0);
    expect(workTime('linked', past, 5)).toEqual({ medianMinutes: 13, p90Minutes: 15, learnedFrom: 10 });
  });
});
