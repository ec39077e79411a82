import { describe, expect, it } from 'vitest';
import { chooseSize, type SizeQuestion } from '../src/pool/size-choice.ts';

/** Everybody uses exactly half a core and 1 GB, at all times. */
const means = Array.from({ length: 40 }, (_, i) => ({
  user: `u${i}`,
  slot: i % 4,
  cpu: 0.5,
  memoryBytes: 1e9,
  operations: 5,
}));
const size = (name: string, processors: number, gigabytes: number, pricePerHour: number) => ({
  name,
  processors,
  memoryBytes: gigabytes * 1e9,
  graphics: 0,
  pricePerHour,
});
const ask = (change: Partial<SizeQuestion> = {}) =>
  chooseSize({
    means,
    sizes: [
      size('small', 2, 8, 0.1),
      size('large', 8, 32, 0.3),
      size('lean', 8, 6, 0.2),
      size('tiny', 2, 2, 0.01),
    ],
    people: 100,
    sessionLimit: 50,
    baseMemoryBytes: 2.5e9,
    seed: 'a',
    ...change,
  });

describe('a size for so many people', () => {
  it('is the cheapest that holds them: how many a host holds, and how many hosts that makes', () => {
    // 80 % of 2 cores: 3 people; of 8: 12. 90 % of 6 GB less 2.5: 2 people. Of 2 GB: nobody.
    expect(ask().map(({ name, sessionsHeld, binds, hosts }) => [name, sessionsHeld, binds, hosts])).toEqual([
      ['large', 12, 'processors', 9],
      ['small', 3, 'processors', 34],
      ['lean', 2, 'memory', 50],
      ['tiny', 0, 'memory', null],
    ]);
    expect(ask()[0]?.pricePerMonth).toBeCloseTo(9 * 0.3 * 730);
  });

  it('is not asked to hold more than the limit, and is told to be larger than that needs', () => {
    const one = ask({ sessionLimit: 1 });
    expect(one.map(({ name, sessionsHeld, hosts }) => [name, sessionsHeld, hosts])).toEqual([
      ['small', 1, 100],
      ['lean', 1, 100],
      ['large', 1, 100],
      ['tiny', 0, null],
    ]);
    expect(one.find((answer) => answer.name === 'large')?.oversized).toEqual(['processors', 'memory']);
    expect(one.find((answer) => answer.name === 'lean')?.oversized).toEqual(['processors']);
  });
});
