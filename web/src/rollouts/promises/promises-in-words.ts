/** What past rollouts say of forecasts, in a sentence. */
import type { Promises } from '@vatline/contract/promises';
import { ENOUGH_PROMISES } from '@vatline/core/rollout/promises';
import { percent, plural } from '../../parts/format.ts';

export function answerInWords({ calibration, kept }: Promises): string {
  const { by, rollouts, verdict } = calibration;
  if (kept.length === 0) return 'No rollout has ended yet that could be held against its promise.';
  const late = by.at(-1);
  const held = Math.round((late?.share ?? 0) * rollouts);
  const said = `The 9 in 10 held in ${held} of ${plural(rollouts, 'rollout')}`;
  if (verdict === 'too few') return `${said}; below ${ENOUGH_PROMISES} that says nothing yet.`;
  if (verdict === 'as promised') return `${said}: as promised.`;
  return verdict === 'too hopeful'
    ? `${said}: forecasts are too hopeful here.`
    : `${said}: forecasts are more careful than they need be.`;
}

/** `85 %, by chance anything from 71 to 94 %`. */
export function shareInWords({ share, low, high }: { share: number; low: number; high: number }): string {
  return `${percent(share)}, by chance anything from ${Math.round(low * 100)} to ${percent(high)}`;
}
