/** Points in time that recur, such as a weekly cut, as a person writes them: in local wall time. */
import { ok, refuseAll, type Fault, type Result } from '../result.ts';
import type { Instant } from './instant.ts';
import { recurrence } from './recurrence.ts';
import { instantOfWall, parseWallTime, wallClock, zoneFault } from './zone.ts';

export interface RecurringMoment {
  /** RFC 5545 recurrence rule, by day or longer. */
  readonly rule: string;
  /** Wall time, `HH:MM`. */
  readonly at: string;
  /** IANA time zone. */
  readonly zone: string;
}

/**
 * The first `count` moments after `from`, earliest first; empty when the rule never happens. A
 * wall time that does not exist moves forward by the gap; one that exists twice is its first.
 * Errors: unknown zone, a time that is not `HH:MM`, a bad rule.
 */
export function nextOccurrences(moment: RecurringMoment, from: Instant, count: number): Result<Instant[]> {
  const faults: Fault[] = [];
  const at = parseWallTime(moment.at);
  if (at === undefined) faults.push({ path: 'at', message: `"${moment.at}" is not a time such as 02:00` });
  const unknown = zoneFault(moment.zone);
  if (unknown) return refuseAll([...faults, unknown]);
  const time = { zone: moment.zone, minutes: at ?? 0 };
  const repeats = recurrence(moment.rule, wallClock(moment.zone, from), time);
  if (!repeats.ok) return refuseAll([...faults, ...repeats.error]);
  if (at === undefined || faults.length > 0) return refuseAll(faults);
  const list: Instant[] = [];
  for (const date of repeats.value.dates()) {
    if (list.length >= count) break;
    const instant = instantOfWall(moment.zone, date, at, 'first');
    if (instant > from) list.push(instant);
  }
  return ok(list);
}
