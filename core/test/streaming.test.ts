import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  scratchFillsSoon,
  scratchFullAt,
  storeRefusal,
  switchFaults,
  type SwitchFacts,
} from '../src/pool/streaming.ts';
import { DAY, HOUR } from '../src/time/instant.ts';

describe('a scratch disk', () => {
  it.each([
    // 4.5 of 6 GB are left, at 1.5 GB a day three days.
    [{ bytes: 6e9, usedBytes: 1.5e9, fillsBytesPerDay: 1.5e9 }, 3 * DAY],
    [{ bytes: 6e9, usedBytes: 5.9375e9, fillsBytesPerDay: 1.5e9 }, HOUR],
    [{ bytes: 6e9, usedBytes: 6e9, fillsBytesPerDay: 1.5e9 }, 0],
    [{ bytes: 6e9, usedBytes: 7e9, fillsBytesPerDay: 0 }, 0],
    [{ bytes: 6e9, usedBytes: 1e9, fillsBytesPerDay: 0 }, null],
  ])('%j is full after %s ms', (disk, after) => {
    const now = Date.UTC(2027, 2, 28);
    expect(scratchFullAt(disk, now)).toBe(after === null ? null : now + after);
  });
  it('is full soon from a day before on, and once it is', () => {
    const disk = { bytes: 6e9, fillsBytesPerDay: 1e9 };
    expect(scratchFillsSoon({ ...disk, usedBytes: 4.99e9 })).toBe(false);
    expect(scratchFillsSoon({ ...disk, usedBytes: 5e9 })).toBe(true);
    expect(scratchFillsSoon({ ...disk, usedBytes: 6e9 })).toBe(true);
    expect(scratchFillsSoon({ bytes: 6e9, usedBytes: 5.9e9, fillsBytesPerDay: 0 })).toBe(false);
  });
  it('holds at the moment that is said just what it can hold', () =>
    fc.assert(
      fc.property(
        fc.record({
          bytes: fc.integer({ min: 1e9, max: 1e12 }),
          usedBytes: fc.integer({ min: 0, max: 1e9 - 1 }),
          fillsBytesPerDay: fc.integer({ min: 1e6, max: 1e12 }),
        }),
        (disk) => {
          const days = (scratchFullAt(disk, 0) ?? NaN) / DAY;
          const then = disk.usedBytes + days * disk.fillsBytesPerDay;
          // Instants are whole milliseconds.
          expect(Math.abs(then - disk.bytes)).toBeLessThanOrEqual(disk.fillsBytesPerDay / DAY);
        },
      ),
    ));
});

const good: SwitchFacts = {
  pool: 'digitisation',
  isStreamed: true,
  hosts: 16,
  hasOpenRollout: false,
  held: undefined,
  isOfLine: true,
  isAsked: false,
  image: { number: 12, state: 'approved', isGone: false, hasAgent: true },
  store: { name: 'stream-7', freeBytes: 20e9, neededBytes: 17e9 },
};

describe('a switch of all hosts of a pool', () => {
  const says = (change: Partial<SwitchFacts>) =>
    switchFaults({ ...good, ...change }).map((fault) => fault.message);
  it('has nothing in its way where all is as it should be', () => {
    expect(says({})).toEqual([]);
    // Whoever tries a version out wants it streamed before it is approved.
    expect(says({ image: { ...good.image, state: 'in test', hasAgent: null } })).toEqual([]);
    expect(says({ store: { name: 'stream-7', freeBytes: 17e9, neededBytes: 17e9 } })).toEqual([]);
  });
  it.each<[Partial<SwitchFacts>, string]>([
    [
      { isStreamed: false },
      'the hosts of digitisation have disks of their own; a rollout takes them to another image',
    ],
    [{ hosts: 0 }, 'digitisation has no hosts'],
    [{ hasOpenRollout: true }, 'a rollout of digitisation is under way; wait for its end or stop it first'],
    [
      { held: 'what digitisation is made from is held: audit' },
      'what digitisation is made from is held: audit',
    ],
    [{ isOfLine: false }, 'it is of another line than the hosts of digitisation'],
    [{ isAsked: true }, 'all hosts of digitisation run version 12 or will from their next start on'],
    [{ image: { ...good.image, state: 'retired' } }, 'version 12 is retired'],
    [{ image: { ...good.image, isGone: true } }, 'version 12 was deleted'],
    [
      { image: { ...good.image, hasAgent: false } },
      'the image has no host agent, so that no host would ever report',
    ],
    [
      { store: { name: 'stream-7', freeBytes: 16.94e9, neededBytes: 17.06e9 } },
      'stream-7 has no room for the image: it takes 17.1 GB and 16.9 GB are free',
    ],
  ])('says why not: %j', (change, message) => expect(says(change)).toEqual([message]));
  it('tells all that is wrong, each at the version', () => {
    const faults = switchFaults({ ...good, hasOpenRollout: true, isOfLine: false });
    expect(faults.map((fault) => fault.path)).toEqual(['imageVersionId', 'imageVersionId']);
  });
  it('takes no room of a store that has the image', () =>
    expect(storeRefusal({ name: 'stream-7', freeBytes: 0, neededBytes: 0 })).toBeUndefined());
});
