/** What past rollouts say of forecasts, as people read it. */
import { describe, expect, it } from 'vitest';
import { calibration, type KeptPromise } from '@vatline/core/rollout/promises';
import { answerInWords, shareInWords } from '../src/rollouts/promises/promises-in-words.ts';

const promised = { p10: 10, p50: 50, p90: 90 };
const of = (...at: number[]) => {
  const kept: KeptPromise[] = at.map((endedAt) => ({ promised, endedAt }));
  const rows = kept.map((one, i) => ({ ...one, id: `r${i}`, pool: 'desk', hosts: 1, startedAt: 0 }));
  const { by, ...found } = calibration(kept);
  return { calibration: { ...found, by: [...by] }, kept: rows, leftOut: 0 };
};
const many = (n: number, at: number) => Array.from({ length: n }, () => at);

describe('promises', () => {
  it.each([
    [[], 'No rollout has ended yet that could be held against its promise.'],
    [[20], 'The 9 in 10 held in 1 of 1 rollout; below 10 that says nothing yet.'],
    [[...many(9, 20), 95], 'The 9 in 10 held in 9 of 10 rollouts: as promised.'],
    [
      [...many(7, 20), ...many(13, 95)],
      'The 9 in 10 held in 7 of 20 rollouts: forecasts are too hopeful here.',
    ],
    [many(60, 20), 'The 9 in 10 held in 60 of 60 rollouts: forecasts are more careful than they need be.'],
  ])('%# %s', (at, says) => expect(answerInWords(of(...at))).toBe(says));

  it('say how much of a share is chance', () =>
    expect(shareInWords({ share: 0.8, low: 0.712, high: 0.866 })).toBe(
      '80 %, by chance anything from 71 to 87 %',
    ));
});
