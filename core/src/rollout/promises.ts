/**
 * How promises were kept: what was forecast at the start of rollouts against when they ended. A
 * forecast is right when what it calls 9 in 10 holds in nine of ten, no more and no less.
 */
import type { Instant } from '../time/instant.ts';
import type { Percentiles } from './forecast/forecast.ts';

export interface KeptPromise {
  /** As forecast at its start. */
  readonly promised: Percentiles<Instant>;
  readonly endedAt: Instant;
}

/** A share of what was observed, with the range in which the true share lies, 19 in 20. */
export interface ObservedShare {
  readonly share: number;
  readonly low: number;
  readonly high: number;
}

export const promiseVerdicts = ['too few', 'as promised', 'too hopeful', 'too careful'] as const;
export type PromiseVerdict = (typeof promiseVerdicts)[number];

export interface Calibration {
  readonly rollouts: number;
  /** Share that had ended by what was forecast for 1, 5 and 9 in 10. */
  readonly by: readonly (ObservedShare & { readonly promised: number })[];
  /** Share that ended between the first and the last of them; 8 in 10 should. */
  readonly inBand: ObservedShare;
  /** Of the 9 in 10. */
  readonly verdict: PromiseVerdict;
}

/** So many rollouts say something: of fewer even all or none would be chance. */
export const ENOUGH_PROMISES = 10;

const levels = [
  ['p10', 0.1],
  ['p50', 0.5],
  ['p90', 0.9],
] as const;

export function calibration(kept: readonly KeptPromise[]): Calibration {
  const by = levels.map(([level, promised]) => ({
    promised,
    ...observed(kept.filter(({ endedAt, promised: at }) => endedAt <= at[level]).length, kept.length),
  }));
  const inside = kept.filter(({ endedAt, promised: { p10, p90 } }) => endedAt >= p10 && endedAt <= p90);
  return {
    rollouts: kept.length,
    by,
    inBand: observed(inside.length, kept.length),
    verdict: verdictOf(by.at(-1), kept.length),
  };
}

function verdictOf(
  late: (ObservedShare & { readonly promised: number }) | undefined,
  rollouts: number,
): PromiseVerdict {
  if (!late || rollouts < ENOUGH_PROMISES) return 'too few';
  if (late.high < late.promised) return 'too hopeful';
  return late.low > late.promised ? 'too careful' : 'as promised';
}

/** 1.96 standard deviations: 19 in 20. */
const Z = 1.96;

/** Wilson's score interval (1927): it keeps within 0 and 1, and holds for few as for many. */
function observed(held: number, of: number): ObservedShare {
  if (of === 0) return { share: 0, low: 0, high: 1 };
  const share = held / of;
  const z2 = Z * Z;
  const middle = (share + z2 / (2 * of)) / (1 + z2 / of);
  const half = (Z / (1 + z2 / of)) * Math.sqrt((share * (1 - share)) / of + z2 / (4 * of * of));
  return { share, low: Math.max(0, middle - half), high: Math.min(1, middle + half) };
}
