import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { againstForecast, doneSteps, throughAt, type Marks } from '../src/rollout/progress.ts';

/** Four marks of two hosts each, an hour apart; fast runs are half an hour earlier, slow ones later. */
const marks: Marks = [10, 11, 12, 13].map((hour) => ({ p10: hour - 0.5, p50: hour, p90: hour + 0.5 }));
const at = (hour: number, done = 0) => againstForecast(marks, 8, done, hour);

describe('a rollout against its forecast', () => {
  it('has between so many hosts and so many through, by the clock', () => {
    expect(at(9)).toMatchObject({ low: 0, middle: 0, high: 0 });
    // A fast run has reached the first mark, and is below the second.
    expect(at(9.5)).toMatchObject({ low: 0, middle: 0, high: 3 });
    expect(at(10)).toMatchObject({ low: 0, middle: 2, high: 3 });
    expect(at(11.5)).toMatchObject({ low: 4, middle: 4, high: 7 });
    expect(at(20)).toMatchObject({ low: 8, middle: 8, high: 8 });
  });

  it('is behind below the least, ahead above the most, and as forecast between', () => {
    expect([3, 4, 7, 8].map((done) => at(11.5, done).pace)).toEqual([
      'behind',
      'as forecast',
      'as forecast',
      'ahead',
    ]);
    expect(at(9, 1).pace).toBe('ahead');
  });

  it('waits for marks that no run reaches for ever', () => {
    const never: Marks = [...marks.slice(0, 2), { p10: 12, p50: null, p90: null }];
    expect(againstForecast(never, 6, 2, 1e9)).toMatchObject({ low: 4, middle: 4, high: 6, pace: 'behind' });
    expect(againstForecast([], 6, 0, 5)).toMatchObject({ low: 0, high: 0, pace: 'as forecast' });
  });

  it('counts marks up to whole hosts, where there are fewer hosts than marks', () => {
    const fine: Marks = Array.from({ length: 40 }, (_, i) => ({ p10: i, p50: i, p90: i }));
    expect([0, 1, 20, 40, 99].map((mark) => throughAt(fine, 3, mark))).toEqual([0, 1, 2, 3, 3]);
  });

  it('never expects fewer in a fast run than in a slow one, nor fewer later', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 500 }),
        fc.double({ min: 8, max: 15, noNaN: true }),
        (hosts, hour) => {
          const now = againstForecast(marks, hosts, 0, hour);
          const later = againstForecast(marks, hosts, 0, hour + 1);
          expect(now.low).toBeLessThanOrEqual(now.middle);
          expect(now.middle).toBeLessThanOrEqual(now.high);
          expect(later.low).toBeGreaterThanOrEqual(now.low);
          expect(later.high).toBeGreaterThanOrEqual(now.high);
        },
      ),
    );
  });
});

describe('hosts that are done', () => {
  it('are a step each where they are few', () => {
    expect(doneSteps([30, 10, 20], 5)).toEqual([
      { at: 10, done: 1 },
      { at: 20, done: 2 },
      { at: 30, done: 3 },
    ]);
    expect(doneSteps([], 5)).toEqual([]);
  });

  it('are at most so many steps where they are many, and the last is among them', () => {
    const steps = doneSteps(
      Array.from({ length: 10_001 }, (_, i) => i),
      200,
    );
    expect(steps.length).toBeLessThanOrEqual(200);
    expect(steps.at(-1)).toEqual({ at: 10_000, done: 10_001 });
  });
});
