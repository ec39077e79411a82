/** How a rollout gets on against what was forecast when it began. */
import type { Instant } from '../time/instant.ts';
import type { Percentiles } from './forecast/forecast.ts';

/** When each equal part of the hosts is through, in 1, 5 and 9 of 10 runs; null for never. */
export type Marks = readonly Percentiles<Instant | null>[];

/** Instants of a forecast have parts of milliseconds. */
export function wholeInstant(at: Instant | null): Instant | null {
  return at === null ? null : Math.round(at);
}

/** Marks as they are kept. */
export function wholeMarks(marks: Marks): Percentiles<Instant | null>[] {
  return marks.map(({ p10, p50, p90 }) => ({
    p10: wholeInstant(p10),
    p50: wholeInstant(p50),
    p90: wholeInstant(p90),
  }));
}

export const paces = ['ahead', 'as forecast', 'behind'] as const;
export type Pace = (typeof paces)[number];

export interface AgainstForecast {
  /** Hosts that are through by then at least, in 9 of 10 runs. */
  readonly low: number;
  readonly middle: number;
  /** At most, in 9 of 10 runs. */
  readonly high: number;
  readonly pace: Pace;
}

/**
 * How many of so many hosts were to be through by an instant, and whether those that are lie within.
 * Marks are as fine as a fortieth of the hosts, so that low is counted down and high up to the next one.
 */
export function againstForecast(marks: Marks, hosts: number, done: number, at: Instant): AgainstForecast {
  const reached = (which: keyof Percentiles<number>) =>
    marks.filter((mark) => (mark[which] ?? Infinity) <= at).length;
  const low = throughAt(marks, hosts, reached('p90'));
  const middle = throughAt(marks, hosts, reached('p50'));
  const early = reached('p10');
  // Below the next mark, which not even a fast run has reached.
  const high =
    early === 0 ? 0 : Math.max(throughAt(marks, hosts, early), throughAt(marks, hosts, early + 1) - 1);
  return { low, middle, high, pace: done < low ? 'behind' : done > high ? 'ahead' : 'as forecast' };
}

/** Hosts that are through at a mark, from 0 for none of them. */
export function throughAt({ length }: Marks, hosts: number, mark: number): number {
  return length === 0 ? 0 : Math.ceil((hosts * Math.min(mark, length)) / length);
}

export interface DoneStep {
  readonly at: Instant;
  /** Hosts done by then, this one included. */
  readonly done: number;
}

/** The way up as at most so many steps: of many hosts every so many, and always the last. */
export function doneSteps(finishes: readonly Instant[], most: number): DoneStep[] {
  const sorted = [...finishes].sort((a, b) => a - b);
  const each = Math.max(1, Math.ceil(sorted.length / most));
  return sorted.flatMap((at, i) =>
    (i + 1) % each === 0 || i === sorted.length - 1 ? [{ at, done: i + 1 }] : [],
  );
}
