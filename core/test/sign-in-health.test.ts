/** The rank test and what it says of sign-ins: by hand, and what holds of any samples. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { mannWhitney } from '../src/mann-whitney.ts';
import { signInHealth, slowerInWords, unjudgedInWords } from '../src/rollout/rings/sign-in-health.ts';

const upTo = (count: number, from = 1) => Array.from({ length: count }, (_, i) => from + i);

describe('the rank test', () => {
  it('counts the pairs in which the first is larger', () => {
    // 3 > 1, 3 > 2, 5 > 1, 2, 4; ties count half.
    expect(mannWhitney([3, 5], [1, 2, 4]).u).toBe(5);
    expect(mannWhitney([2, 2], [2, 2, 2]).u).toBe(3);
    expect(mannWhitney([2], [1, 2, 3]).u).toBe(1.5);
  });

  it('is as sure as the tables of the normal distribution say', () => {
    // All of 11..20 above 1..10: U = 100, mean 50, variance 100 * 21 / 12 = 175; z = 49.5 / 13.2288 = 3.7418.
    expect(mannWhitney(upTo(10, 11), upTo(10)).p).toBeCloseTo(9.13e-5, 6);
    // The same numbers: ties take 60 / 380 off, variance 100 / 12 * 20.842 = 173.68; z = -0.5 / 13.179 = -0.0379.
    expect(mannWhitney(upTo(10), upTo(10)).p).toBeCloseTo(0.515, 2);
    // With ties: 1 1 2 2 against 1 2 2 2: ranks of the ones 2, of the twos 6; U = 2*2+2*6-10 = 6, mean 8,
    // variance 16/12 * (9 - (24 + 120) / 56) = 8.5714; z = -2.5 / 2.9277 = -0.8539.
    expect(mannWhitney([1, 1, 2, 2], [1, 2, 2, 2])).toMatchObject({ u: 6 });
    expect(mannWhitney([1, 1, 2, 2], [1, 2, 2, 2]).p).toBeCloseTo(0.8034, 3);
  });

  it('says nothing of nothing, or of one number over and over', () => {
    expect(mannWhitney([], [1, 2])).toEqual({ u: 0, p: 1 });
    expect(mannWhitney([4, 4, 4], [4, 4]).p).toBe(1);
  });

  it('shares all pairs between both samples, and does not mind a common scale', () => {
    const numbers = fc.array(fc.integer({ min: 1, max: 50 }), { minLength: 1, maxLength: 40 });
    const property = fc.property(numbers, numbers, (a, b) => {
      expect(mannWhitney(a, b).u + mannWhitney(b, a).u).toBe(a.length * b.length);
      const { p } = mannWhitney(a, b);
      expect(p).toBeGreaterThanOrEqual(0);
      expect(p).toBeLessThanOrEqual(1);
      const twice = mannWhitney(
        a.map((n) => n * 2),
        b.map((n) => n * 2),
      );
      expect(twice.p).toBeCloseTo(p, 12);
    });
    fc.assert(property);
  });
});

describe('sign-ins after a change', () => {
  const seconds = (from: number) => Array.from({ length: 40 }, (_, i) => from + (i % 5));

  it('are slower when it is sure and large', () => {
    const health = signInHealth(seconds(24), seconds(18));
    expect(health).toMatchObject({
      changed: { signIns: 40, median: 26, p95: 28 },
      earlier: { signIns: 40, median: 20, p95: 22 },
      isSlower: true,
    });
    expect(slowerInWords(health)).toBe(
      'sign-ins take 26 s instead of 20 s in the middle (p < 0.001, 40 against 40)',
    );
  });

  it('are slower before the end only when it is surer', () => {
    // 46 to 65 s against 40 to 59 s: U = 200 + 6 * 20 - 6 * 6 / 2 = 302, fourteen pairs of ties;
    // z = 101.5 / sqrt(400 / 12 * (41 - 84 / 1560)) = 2.7475.
    const [changed, earlier] = [upTo(20, 46), upTo(20, 40)];
    expect(mannWhitney(changed, earlier).u).toBe(302);
    expect(signInHealth(changed, earlier).p).toBeCloseTo(0.003, 4);
    expect(signInHealth(changed, earlier).isSlower).toBe(true);
    expect(signInHealth(changed, earlier, true).isSlower).toBe(false);
  });

  it('are not slower by less than a tenth, however sure', () => {
    const health = signInHealth(seconds(101), seconds(98));
    expect(health.p).toBeLessThan(0.01);
    expect(health.isSlower).toBe(false);
    expect(slowerInWords(health)).toBeUndefined();
  });

  it('are not called slower by a few, however large', () => {
    expect(signInHealth([90, 91, 92, 93, 94, 95, 96], seconds(18))).toMatchObject({
      p: null,
      isSlower: false,
    });
    expect(signInHealth([], [])).toEqual({
      changed: { signIns: 0, median: null, p95: null },
      earlier: { signIns: 0, median: null, p95: null },
      p: null,
      isSlower: false,
    });
  });

  it('are waited for until there are enough, where there were enough before', () => {
    expect(unjudgedInWords(signInHealth([20, 21], seconds(18)))).toBe(
      '2 sign-ins on changed hosts so far, 20 are needed to judge them',
    );
    expect(unjudgedInWords(signInHealth(seconds(18), seconds(18)))).toBeUndefined();
    // A pool that nobody used before will never tell.
    expect(unjudgedInWords(signInHealth([20], [18, 19]))).toBeUndefined();
  });
});
