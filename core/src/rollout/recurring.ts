/** A rollout that comes again: what it does when its window begins. The screen and the server ask here. */

import type { DyeName } from '../dye/dyes.ts';

export const recurringTakes = ['newest approved', 'made anew'] as const;
/** The newest approved version of the pool's line, or what hosts run, made anew. */
export type RecurringTakes = (typeof recurringTakes)[number];

export interface RecurringVersion {
  readonly id: string;
  readonly number: number;
  readonly dye: DyeName;
}

export interface RecurringSituation {
  readonly takes: RecurringTakes;
  /** What the pool runs; null before its first hosts. */
  readonly current: RecurringVersion | null;
  /** The newest version of its line that is approved; null where none is. */
  readonly newest: RecurringVersion | null;
  /** Whether a rollout of the pool is under way. */
  readonly isBusy: boolean;
}

export type RecurringMove =
  | { readonly do: 'begin'; readonly version: RecurringVersion; readonly isRemake: boolean }
  /** Nothing is begun, and this is why: a clause without a full stop. */
  | { readonly do: 'leave'; readonly why: string };

export function recurringMove({ takes, current, newest, isBusy }: RecurringSituation): RecurringMove {
  const leave = (why: string): RecurringMove => ({ do: 'leave', why });
  if (!current) return leave('the pool has no hosts yet');
  if (isBusy) return leave('a rollout of the pool is under way');
  if (takes === 'made anew') return { do: 'begin', version: current, isRemake: true };
  if (!newest) return leave('no version of its line is approved');
  // A pool that somebody has taken further is not taken back by itself.
  if (newest.number <= current.number)
    return leave(
      `version ${newest.number} is the newest that is approved, and the pool runs ${current.number}`,
    );
  return { do: 'begin', version: newest, isRemake: false };
}
