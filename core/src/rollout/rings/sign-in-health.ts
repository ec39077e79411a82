/** Whether people wait longer to sign in on hosts that were changed than on those that were not. */
import { mannWhitney } from '../../mann-whitney.ts';
import { median, quantile } from '../../quantile.ts';

export interface SignInHealth {
  /** Sign-ins that were measured on changed hosts, and on those that run the earlier blend. */
  readonly changed: Sample;
  readonly earlier: Sample;
  /** Chance of a difference as large where there is none, one-sided; null for too few to say. */
  readonly p: number | null;
  readonly isSlower: boolean;
}

/** Seconds. */
export interface Sample {
  readonly signIns: number;
  readonly median: number | null;
  readonly p95: number | null;
}

/** Below so many in each sample the test says nothing; with as many it finds what takes 40 % longer in 9 of 10 cases. */
const FEWEST_SIGN_INS = 20;
const SURE = 0.01;
/** While more sign-ins are to come it is looked at again and again, and some look would be unlucky. */
const SURE_EARLY = 0.001;
const WORSE_BY = 0.1;

/**
 * Seconds of each sign-in. Slower when p < 0.01, or 0.001 before all of them are there, and the median is
 * over 10 % longer. Source: `docs/models.md`, "Gates".
 */
export function signInHealth(
  changed: readonly number[],
  earlier: readonly number[],
  isEarly = false,
): SignInHealth {
  const [a, b] = [sampleOf(changed), sampleOf(earlier)];
  const enough = Math.min(changed.length, earlier.length) >= FEWEST_SIGN_INS;
  const p = enough ? mannWhitney(changed, earlier).p : null;
  const isWorse = a.median !== null && b.median !== null && a.median > b.median * (1 + WORSE_BY);
  return { changed: a, earlier: b, p, isSlower: p !== null && p < (isEarly ? SURE_EARLY : SURE) && isWorse };
}

function sampleOf(seconds: readonly number[]): Sample {
  const sorted = [...seconds].sort((a, b) => a - b);
  return { signIns: seconds.length, median: median(seconds) ?? null, p95: quantile(sorted, 0.95) ?? null };
}

/** `sign-ins take 24 s instead of 19 s in the middle (p < 0.001, 120 against 340)`; undefined unless slower. */
export function slowerInWords({ changed, earlier, p, isSlower }: SignInHealth): string | undefined {
  if (!isSlower || p === null) return undefined;
  const sure = p < 0.001 ? 'p < 0.001' : `p = ${p.toFixed(3)}`;
  const [now, before] = [changed.median ?? 0, earlier.median ?? 0].map((n) => n.toFixed(0));
  return `sign-ins take ${now} s instead of ${before} s in the middle (${sure}, ${changed.signIns} against ${earlier.signIns})`;
}

/** Why nothing can be said yet; undefined where something can, or where nothing ever can for want of what was before. */
export function unjudgedInWords({ changed, earlier, p }: SignInHealth): string | undefined {
  if (p !== null || earlier.signIns < FEWEST_SIGN_INS) return undefined;
  return `${changed.signIns} sign-ins on changed hosts so far, ${FEWEST_SIGN_INS} are needed to judge them`;
}
