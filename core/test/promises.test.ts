/** What was promised against what came of it; shares and their ranges by hand. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { calibration, type KeptPromise } from '../src/rollout/promises.ts';

const promised = { p10: 10, p50: 50, p90: 90 };
const ended = (...at: number[]): KeptPromise[] => at.map((endedAt) => ({ promised, endedAt }));

describe('how promises were kept', () => {
  it('counts what had ended by each, the very instant included, and what lies between', () => {
    const { by, inBand, rollouts } = calibration(ended(5, 10, 20, 50, 60, 90, 91, 200));
    expect(rollouts).toBe(8);
    expect(by.map(({ promised: level, share }) => [level, share])).toEqual([
      [0.1, 0.25],
      [0.5, 0.5],
      [0.9, 0.75],
    ]);
    expect(inBand.share).toBe(5 / 8);
  });

  it('gives the range of Wilson: 9 of 10 is 60 % to 98 %, 0 of 20 up to 16 %', () => {
    const nine = calibration(ended(...Array.from({ length: 9 }, () => 60), 91)).by[2];
    expect([nine?.share, nine?.low.toFixed(3), nine?.high.toFixed(3)]).toEqual([0.9, '0.596', '0.982']);
    const none = calibration(ended(...Array.from({ length: 20 }, () => 91))).by[2];
    expect([none?.low, none?.high.toFixed(3)]).toEqual([0, '0.161']);
  });

  it.each([
    ['too few', Array.from({ length: 9 }, () => 60)],
    ['as promised', [...Array.from({ length: 9 }, () => 60), 91]],
    ['too hopeful', [...Array.from({ length: 7 }, () => 60), ...Array.from({ length: 13 }, () => 91)]],
    ['too careful', Array.from({ length: 60 }, () => 60)],
  ])('is %s', (verdict, at) => expect(calibration(ended(...at)).verdict).toBe(verdict));

  it('has shares in order, within their ranges, whatever came', () =>
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 100 }), { maxLength: 60 }), (at) => {
        const { by, inBand } = calibration(ended(...at));
        for (const { share, low, high } of [...by, inBand]) {
          expect(low).toBeGreaterThanOrEqual(0);
          expect(high).toBeLessThanOrEqual(1);
          if (at.length > 0) expect(low <= share + 1e-12 && share <= high + 1e-12).toBe(true);
        }
        expect(by.map((one) => one.share)).toEqual(by.map((one) => one.share).sort((a, b) => a - b));
      }),
    ));
});
