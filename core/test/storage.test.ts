/** Storage worked out by hand, for all three kinds, and the chance that it fills. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cloneKinds, cloneStorage, dealHosts, type CloneStorageInput } from '../src/pool/clone-storage.ts';
import { startUpStorm } from '../src/pool/start-up-storm.ts';
import { chanceOfFilling, drawGrowth, fillingByDay } from '../src/pool/storage-risk.ts';

const GB = 1e9;
const store = { name: 'fast', capacityBytes: 4_000 * GB, usedBytes: 0, overcommit: 1 };
/** 60 hosts of 18 GB, each growing by 0.4 GB a day for a week beside 2 GB of swap. */
const reading: CloneStorageInput = {
  hosts: 60,
  imageBytes: 18 * GB,
  swapBytes: 2 * GB,
  dataBytes: 0,
  throwawayBytes: 0,
  growthBytesPerDay: 0.4 * GB,
  days: 7,
  scratchBytes: 6 * GB,
  streamingStores: 1,
  datastores: [store],
};
const gigabytes = (bytes: number) => Math.round(bytes / 1e6) / 1000;

describe('storage of 60 hosts', () => {
  // A host: 7 × 0.4 + 2 = 4.8 GB of its own. Full: 60 × 22.8 = 1,368. Linked: 18 + 60 × 4.8 = 306.
  // Streamed: 18 + 60 × 6 = 378. Of 4,000 GB: 4,000 ÷ 22.8 = 175.4; 3,982 ÷ 4.8 = 829.6; 3,982 ÷ 6 = 663.7.
  it.each([
    ['full', 0, 22.8, 1_368, 175],
    ['linked', 18, 4.8, 306, 829],
    ['network', 18, 6, 378, 663],
  ] as const)('%s: %d GB once, %d GB a host, %d GB in all, %i hosts fit', (kind, fixed, each, total, fit) => {
    const answer = cloneStorage(kind, reading);
    expect([answer.fixedBytes, answer.perHostBytes, answer.totalBytes].map(gigabytes)).toEqual([
      fixed,
      each,
      total,
    ]);
    expect(answer.hostsThatFit).toBe(fit);
  });

  it('adds personal and throwaway disks to those with disks of their own', () => {
    const input = { ...reading, dataBytes: 10 * GB, throwawayBytes: 1 * GB };
    expect(gigabytes(cloneStorage('full', input).perHostBytes)).toBe(33.8);
    expect(gigabytes(cloneStorage('linked', input).perHostBytes)).toBe(15.8);
    expect(gigabytes(cloneStorage('network', input).perHostBytes)).toBe(6);
  });

  it('has a parent on each datastore, and two streaming stores two images on the first', () => {
    const input = { ...reading, streamingStores: 2, datastores: [store, { ...store, name: 'second' }] };
    expect(gigabytes(cloneStorage('linked', input).fixedBytes)).toBe(36);
    expect(cloneStorage('linked', input).hostsThatFit).toBe(829 * 2);
    expect(gigabytes(cloneStorage('network', input).fixedBytes)).toBe(36);
    // (4,000 − 36) ÷ 6 = 660.7 and 4,000 ÷ 6 = 666.7.
    expect(cloneStorage('network', input).hostsThatFit).toBe(660 + 666);
  });

  it('promises more than is there where a datastore is over-committed', () => {
    const twice = { ...reading, datastores: [{ ...store, overcommit: 2 }] };
    // 3,982 × 2 ÷ 4.8 = 1,659.2: what is there once is not promised twice.
    expect(cloneStorage('linked', twice).hostsThatFit).toBe(1_659);
  });

  it('fits none on a datastore that is too full for the parent, and any number where a host takes none', () => {
    const full = { ...reading, datastores: [{ ...store, usedBytes: 3_990 * GB }] };
    expect(cloneStorage('linked', full).hostsThatFit).toBe(0);
    expect(cloneStorage('network', { ...reading, scratchBytes: 0 }).hostsThatFit).toBeNull();
  });

  it('deals hosts evenly, the first datastores taking one more', () => {
    expect(dealHosts(7, 3)).toEqual([3, 2, 2]);
    expect(dealHosts(2, 3)).toEqual([1, 1, 0]);
  });
});

describe('the chance that a datastore fills', () => {
  const certain = { medianBytesPerDay: 0.4 * GB, p90BytesPerDay: 0.4 * GB };
  const uncertain = { medianBytesPerDay: 0.4 * GB, p90BytesPerDay: 0.9 * GB };
  const draw = (growth = uncertain, input = reading, seed: number | string = 1) =>
    drawGrowth({ hosts: input.hosts, datastores: input.datastores.length, growth, runs: 2_000, seed });

  it('is 0 or 1 where growth is certain: 306 GB on 306 GB, and on one byte less', () => {
    const on = (bytes: number) => ({ ...reading, datastores: [{ ...store, capacityBytes: bytes }] });
    expect(chanceOfFilling('linked', on(306 * GB + 1), draw(certain))).toBe(0);
    expect(chanceOfFilling('linked', on(306 * GB - 1_000), draw(certain))).toBe(1);
  });

  it('of one host is that of its growth: a tenth over the 90th percentile', () => {
    const one = { ...reading, hosts: 1, datastores: [{ ...store, capacityBytes: (18 + 2 + 7 * 0.9) * GB }] };
    // 2,000 draws lie within three standard errors of 0.1: 3 × √(0.1 × 0.9 ÷ 2,000) = 0.02.
    expect(Math.abs(chanceOfFilling('linked', one, draw(uncertain, one)) - 0.1)).toBeLessThan(0.02);
  });

  it('plays no part for a scratch disk that has its size from the beginning, nor does over-commitment', () => {
    const tight = { ...reading, datastores: [{ ...store, capacityBytes: 378 * GB, overcommit: 5 }] };
    expect(chanceOfFilling('network', tight, draw())).toBe(0);
    const small = { ...reading, datastores: [{ ...store, capacityBytes: 377 * GB, overcommit: 5 }] };
    expect(chanceOfFilling('network', small, draw())).toBe(1);
  });

  it('is the same for the same seed, and never falls from day to day', () => {
    expect(draw(uncertain, reading, 'a')).toEqual(draw(uncertain, reading, 'a'));
    const tight = { ...reading, datastores: [{ ...store, capacityBytes: 400 * GB }] };
    const days = fillingByDay('linked', tight, draw(), 14);
    expect(days).toHaveLength(15);
    expect(days[0]).toMatchObject({ chance: 0, p50Bytes: 138 * GB });
    for (const [i, day] of days.entries())
      expect(day.chance).toBeGreaterThanOrEqual(days[i - 1]?.chance ?? 0);
    expect(days.at(-1)?.chance).toBe(1);
    expect(days[7]?.chance).toBe(chanceOfFilling('linked', tight, draw()));
  });

  it('grows with hosts, whatever the kind', () =>
    fc.assert(
      fc.property(fc.constantFrom(...cloneKinds), fc.integer({ min: 1, max: 40 }), (kind, hosts) => {
        const on = (n: number) => ({
          ...reading,
          hosts: n,
          datastores: [{ ...store, capacityBytes: 300 * GB }],
        });
        const chance = (n: number) => chanceOfFilling(kind, on(n), draw(certain, on(n)));
        expect(chance(hosts + 1)).toBeGreaterThanOrEqual(chance(hosts));
      }),
      { numRuns: 20 },
    ));
});

describe('hosts that start together', () => {
  const storm = { hosts: 60, operationsPerHost: 300, startSeconds: 60, parentShare: 0.8 };
  it('are as many as the datastore carries, and the others follow at a stagger', () => {
    // 3,000 ÷ 300 = 10 at once: one every six seconds, the last after 59 × 6 + 60 s.
    expect(startUpStorm({ ...storm, childrenFree: 3_000, parentFree: null })).toEqual({
      allAtOnce: 18_000,
      atOnce: 10,
      binds: 'children',
      staggerSeconds: 6,
      allStartedSeconds: 414,
    });
  });
  it('are bound by the parent, which everybody reads, or by the children', () => {
    // A host asks 240 of the parent and 60 of its child.
    expect(startUpStorm({ ...storm, childrenFree: 3_000, parentFree: 4_800 })).toMatchObject({
      atOnce: 20,
      binds: 'parent',
    });
    expect(startUpStorm({ ...storm, childrenFree: 600, parentFree: 48_000 })).toMatchObject({
      atOnce: 10,
      binds: 'children',
    });
  });
  it('may all start at once where there is enough, and none where there is nothing', () => {
    expect(startUpStorm({ ...storm, childrenFree: 18_000, parentFree: null })).toMatchObject({
      atOnce: 60,
      staggerSeconds: 0,
      allStartedSeconds: 60,
    });
    expect(startUpStorm({ ...storm, childrenFree: 299, parentFree: null })).toMatchObject({
      atOnce: 0,
      staggerSeconds: Infinity,
    });
  });
});
