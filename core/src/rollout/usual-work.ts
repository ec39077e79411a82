/** How long making one host anew takes, before a pool has any history of it and then. */
import type { RolloutWork } from '../image/cut-plan.ts';
import { quantile } from '../quantile.ts';
import { MINUTE, type Instant } from '../time/instant.ts';

export interface WorkTime {
  readonly medianMinutes: number;
  readonly p90Minutes: number;
  /** Hosts it was learned from; 0 for the usual times. */
  readonly learnedFrom: number;
}

/** Rebuild, join, attach at the next agent check, verify at the one after. Minutes. */
const usual: Record<'full' | 'linked' | 'network', readonly [number, number]> = {
  full: [32, 40],
  linked: [19, 25],
  network: [14, 18],
};

/** Below this many finished hosts the usual times are the better guess. */
const ENOUGH = 10;

/**
 * Median and 90th percentile of past work, in minutes, or the usual times of the kind. `less` minutes of
 * those are not needed: without packages an agent is waited for once and not twice.
 */
export function workTime(clone: 'full' | 'linked' | 'network', past: readonly number[], less = 0): WorkTime {
  if (past.length >= ENOUGH) {
    const sorted = [...past].sort((a, b) => a - b);
    const median = quantile(sorted, 0.5) ?? 0;
    const p90 = Math.max(median, quantile(sorted, 0.9) ?? 0);
    return { medianMinutes: round(median), p90Minutes: round(p90), learnedFrom: past.length };
  }
  const [median, p90] = usual[clone];
  return { medianMinutes: median - less, p90Minutes: p90 - less, learnedFrom: 0 };
}

/** What a rollout that follows a cut has before it, as far as is known before there is a version. */
export function workAfterCut(
  pool: { readonly clone: 'full' | 'linked' | 'network'; readonly hosts: number },
  batch: number,
): RolloutWork {
  return { hosts: pool.hosts, batch, hostMinutes: workTime(pool.clone, []).p90Minutes };
}

/** When the last of so many hosts is done that begin at an instant, wave after wave, in 9 of 10 cases. */
export function wavesEnd(start: Instant, { hosts, batch, hostMinutes }: RolloutWork): Instant {
  return start + Math.ceil(hosts / Math.max(1, batch)) * hostMinutes * MINUTE;
}

function round(minutes: number): number {
  return Math.round(minutes * 10) / 10;
}
