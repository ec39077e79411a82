/** The stretches of a ribbon from now to a date, without anything that draws. */
import type { PoolAhead } from '@vatline/contract/ahead';
import type { DyeName } from '@vatline/core/dye/dyes';

export interface RibbonPart {
  /** Shares of the way from now to the date, 0 to 1. */
  readonly from: number;
  readonly to: number;
  /** Null for a version that is yet to be cut, or where there are no hosts. */
  readonly before: DyeName | null;
  /** Another than before while hosts change. */
  readonly after: DyeName | null;
}

/** Changes that only wait take no part; one that has no end in sight goes on to the date. */
export function ribbonParts(
  { now: image, changes }: Pick<PoolAhead, 'now' | 'changes'>,
  now: number,
  at: number,
): RibbonPart[] {
  const parts: RibbonPart[] = [];
  const share = (instant: number) => Math.min(1, Math.max(0, (instant - now) / Math.max(1, at - now)));
  let reached = 0;
  let dye = image?.dye ?? null;
  const add = (to: number, after: DyeName | null) => {
    if (to > reached) parts.push({ from: reached, to, before: dye, after });
    reached = Math.max(reached, to);
  };
  for (const { begins, done, difference, isWhole } of changes) {
    if (begins === null || begins >= at) continue;
    add(share(begins), dye);
    // The same image with other packages is the same dye.
    const after = difference === null ? null : (difference.image?.to.dye ?? dye);
    add(done === null ? 1 : share(done), after);
    if (isWhole) dye = after;
  }
  add(1, dye);
  return parts;
}
