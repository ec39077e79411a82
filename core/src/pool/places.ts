/** A pool that stands on several places: the first is filled up to its bound, then the next. */

/** How many of so many hosts each place takes; `bounds` are the most it may have, null without bound. */
export function dealOverPlaces(hosts: number, bounds: readonly (number | null)[]): number[] {
  let left = hosts;
  return bounds.map((bound) => {
    const here = Math.min(left, bound ?? left);
    left -= here;
    return here;
  });
}
