/** When the clocks of a zone change. */
import { DAY, MINUTE, type Instant } from './instant.ts';
import { wallClock } from './zone.ts';

export interface ClockChange {
  readonly at: Instant;
  /** Minutes by which clocks go forward (+) or back (-). */
  readonly minutes: number;
}

/**
 * The changes in a stretch of time, earliest first: two days whose wall time runs on by other than a
 * day hold one, found by halving to the minute. Two changes within one day that cancel out are not seen;
 * no zone ever had them.
 */
export function clockChanges(zone: string, from: Instant, to: Instant): ClockChange[] {
  const offset = (at: Instant) => {
    const { year, month, day, minutes } = wallClock(zone, at);
    return Math.round((Date.UTC(year, month - 1, day) + minutes * MINUTE - at) / MINUTE);
  };
  const changes: ClockChange[] = [];
  for (let day = from; day < to; day += DAY) {
    const end = Math.min(to, day + DAY);
    const minutes = offset(end) - offset(day);
    if (minutes !== 0) changes.push({ at: firstWith(offset, offset(end), day, end), minutes });
  }
  return changes;
}

/** The first minute at which clocks are as they are at the end. */
function firstWith(
  offset: (at: Instant) => number,
  wanted: number,
  before: Instant,
  after: Instant,
): Instant {
  let [low, high] = [Math.floor(before / MINUTE), Math.ceil(after / MINUTE)];
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2);
    if (offset(middle * MINUTE) === wanted) high = middle;
    else low = middle;
  }
  return high * MINUTE;
}
