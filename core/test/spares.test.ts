import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { arrivalsOf, mostSessions, sessionsAt } from '../src/pool/session-curve.ts';
import { poissonQuantile, spareHosts, spareSeats } from '../src/pool/spares.ts';
import { poisson, seededRandom } from '../src/random.ts';

/** P(X > s) by multiplying the terms up, which the code adds as logarithms. */
function tail(mean: number, s: number): number {
  let term = Math.exp(-mean);
  let within = term;
  for (let k = 1; k <= s; k++) {
    term *= mean / k;
    within += term;
  }
  return 1 - within;
}

describe('the spares', () => {
  it.each([
    // From tables of the Poisson distribution: P(X > 4) = 0.0037 and P(X > 3) = 0.0190 at a mean of 1.
    [1, 4],
    // P(X > 11) = 0.0055, P(X > 10) = 0.0137.
    [5, 11],
    // P(X > 18) = 0.0072, P(X > 17) = 0.0143.
    [10, 18],
    [0, 0],
    // P(X > 0) = 0.00995.
    [0.01, 0],
    [0.0101, 1],
  ])('for a mean of %d are %d', (mean, spares) => {
    expect(poissonQuantile(mean)).toBe(spares);
  });

  it('are the fewest that do', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.02, max: 400, noNaN: true }), (mean) => {
        const s = poissonQuantile(mean);
        expect(tail(mean, s)).toBeLessThanOrEqual(0.01 + 1e-9);
        if (s > 0) expect(tail(mean, s - 1)).toBeGreaterThan(0.01 - 1e-9);
      }),
    );
  });

  it('of thousands who come are near what the normal distribution says', () => {
    for (const mean of [1_000, 20_000])
      expect(Math.abs(poissonQuantile(mean) - (mean + 2.326 * Math.sqrt(mean)))).toBeLessThan(3);
  });

  it('are for the people of the lead time, and whole hosts carry them', () => {
    // 120 an hour in 5 minutes are 10 on average, which 18 seats hold 99 times of 100.
    expect([spareSeats(120, 5), spareHosts(120, 5, 10), spareHosts(120, 5, 1)]).toEqual([18, 2, 18]);
    expect(spareHosts(120, 10, 10)).toBe(4);
  });
});

describe('a curve of sessions', () => {
  const curve = Array.from({ length: 24 }, (_, hour) => (hour === 9 ? 100 : hour === 10 ? 40 : 0));

  it('is straight between full hours, and goes on at midnight', () => {
    const at = [8 * 60, 8 * 60 + 30, 9 * 60 + 15].map((minute) => sessionsAt(curve, minute));
    expect(at).toEqual([0, 50, 85]);
    const night = Array.from({ length: 24 }, (_, hour) => (hour === 23 ? 10 : hour === 0 ? 20 : 0));
    expect(sessionsAt(night, 23 * 60 + 30)).toBe(15);
  });

  it('has its most at a full hour or at an end of what is looked at', () => {
    expect(mostSessions(curve, 8 * 60 + 30, 45)).toBe(100);
    expect(mostSessions(curve, 8 * 60 + 30, 15)).toBe(75);
    expect(mostSessions(curve, 9 * 60 + 30, 60)).toBe(70);
    expect(mostSessions(curve, 23 * 60, 540)).toBe(0);
  });

  it('tells who must come: the rise, and those who take the place of others', () => {
    const arrivals = arrivalsOf(curve, 60);
    // From 0 to 100 with 50 on average, each of whom stays an hour: 150 come.
    expect([arrivals[8], arrivals[0]]).toEqual([150, 0]);
    // From 100 to 40 with 70 on average: 70 leave by themselves, and 10 come.
    expect(arrivals[9]).toBe(10);
    // Sessions fall faster than people leave: nobody comes.
    expect(arrivalsOf(curve, 600)[9]).toBe(0);
  });
});

describe('draws from the Poisson distribution', () => {
  it.each([0.4, 7, 29, 31, 4_000])('of mean %d have it as their mean and variance', (mean) => {
    const random = seededRandom('poisson');
    const draws = Array.from({ length: 20_000 }, () => poisson(random, mean));
    const found = draws.reduce((sum, n) => sum + n, 0) / draws.length;
    const variance = draws.reduce((sum, n) => sum + (n - found) ** 2, 0) / draws.length;
    expect(Math.abs(found - mean)).toBeLessThan(4 * Math.sqrt(mean / draws.length));
    expect(variance / mean).toBeGreaterThan(0.95);
    expect(variance / mean).toBeLessThan(1.05);
  });
});
