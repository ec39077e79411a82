/** What is coming to the hosts of a pool, one planned change after the other, and how far that is at an instant. */
import type { Instant } from '../time/instant.ts';
import { compareBlends, type BlendComparison, type ComparedBlend } from './blends/compare.ts';

/** Something planned that takes hosts of one pool to other contents. */
export interface ComingChange {
  /** The rollout, the ring or the place behind a cut that it is of. */
  readonly of: string;
  /** When the first host may begin; null where somebody has to let it go on first. */
  readonly begins: Instant | null;
  /** When the last host is done, 9 in 10; null where that is not known. */
  readonly done: Instant | null;
  /** Whether it takes all hosts of the pool; a share of them says nothing of the rest. */
  readonly isWhole: boolean;
  /** What hosts hold then; null for an image that is yet to be cut. */
  readonly to: ComparedBlend | null;
}

/** How far a change is at some instant: 9 in 10 that it is done, begun by then, or not begun. */
export const changeStandings = ['done', 'under way', 'later'] as const;
export type ChangeStanding = (typeof changeStandings)[number];

export interface ChangeAhead<C extends ComingChange> {
  readonly change: C;
  readonly standing: ChangeStanding;
  /** Against what hosts hold before it; null where that, or what it brings, is yet to be cut. */
  readonly comparison: BlendComparison | null;
}

export interface PoolAhead<C extends ComingChange> {
  /** In the order in which they come. */
  readonly changes: readonly ChangeAhead<C>[];
  /** What all hosts hold once all that is done by then is done; null where that is yet to be cut. */
  readonly holds: ComparedBlend | null;
  /** From what they hold now to what they hold then; null where one of both is not known. */
  readonly comparison: BlendComparison | null;
}

/** `now` is what the hosts hold, null where none are there yet. */
export function poolAhead<C extends ComingChange>(
  now: ComparedBlend | null,
  coming: readonly C[],
  at: Instant,
): PoolAhead<C> {
  // What nobody knows the beginning of comes behind what has a time.
  const inTurn = [...coming].sort((a, b) => (a.begins ?? Infinity) - (b.begins ?? Infinity));
  let before = now;
  let holds = now;
  const changes = inTurn.map((change) => {
    const standing = standingAt(change, at);
    const comparison = before && change.to && compareBlends(before, change.to);
    if (change.isWhole) before = change.to;
    if (change.isWhole && standing === 'done') holds = change.to;
    return { change, standing, comparison };
  });
  return { changes, holds, comparison: now && holds && compareBlends(now, holds) };
}

export function standingAt(
  { begins, done }: Pick<ComingChange, 'begins' | 'done'>,
  at: Instant,
): ChangeStanding {
  if (done !== null && done <= at) return 'done';
  return begins !== null && begins < at ? 'under way' : 'later';
}
