import * as rruleModule from 'rrule';
import { instantOfWall, type LocalDate, type WallMinutes } from './zone.ts';
import { ok, type Result } from '../result.ts';
import { parseRule, type Until } from './recurrence-rule.ts';

// The package ships both module kinds; depending on the loader its names stand on the namespace
// or on its default.
const loaded = rruleModule as typeof rruleModule & { readonly [name: string]: unknown };
const { RRule } = ('RRule' in loaded ? loaded : loaded['default']) as typeof rruleModule;

/** The dates on which something recurs, earliest first, for a hundred years or as long as its rule says. */
export interface Recurrence {
  dates(): Iterable<LocalDate>;
}

/** When on its dates something happens: an UNTIL with a time is compared with that. */
export interface TimeOfDay {
  readonly zone: string;
  readonly minutes: WallMinutes;
}

/** Longer than any plan; a rule that never happens is found out at the end of it. */
const YEARS_LOOKED_AT = 100;
/** Dates that are worked out at once, at first. */
const FIRST_DATES = 32;

/**
 * Reads an RFC 5545 recurrence rule (`FREQ=WEEKLY;BYDAY=SU`), anchored at a local date. Only
 * rules by day or longer make sense for a maintenance window: at most one occurrence a day.
 */
export function recurrence(rule: string, anchor: LocalDate, at: TimeOfDay): Result<Recurrence> {
  const parsed = parseRule(rule);
  if (!parsed.ok) return parsed;
  const { text, until } = parsed.value;
  const dtstart = new Date(Date.UTC(anchor.year, anchor.month - 1, anchor.day));
  const end = new Date(Date.UTC(anchor.year + YEARS_LOOKED_AT, anchor.month - 1, anchor.day));
  const options = RRule.parseString(text);
  const repeats = new RRule({ ...options, dtstart, until: end });
  return ok({ dates: () => datesOf(repeats, (date) => isPast(date, until, at)) });
}

/** The library counts from the first date at each call, so that dates are asked for in ever larger portions. */
function* datesOf(
  rule: InstanceType<typeof RRule>,
  isOver: (date: LocalDate) => boolean,
): Iterable<LocalDate> {
  let given = 0;
  for (let size = FIRST_DATES; ; size *= 4) {
    const dates = rule.all((_date, i) => i < size);
    for (const next of dates.slice(given)) {
      const date = { year: next.getUTCFullYear(), month: next.getUTCMonth() + 1, day: next.getUTCDate() };
      if (isOver(date)) return;
      yield date;
    }
    if (dates.length < size) return;
    given = dates.length;
  }
}

function isPast(date: LocalDate, until: Until | undefined, { zone, minutes }: TimeOfDay): boolean {
  if (!until) return false;
  if ('instant' in until) return instantOfWall(zone, date, minutes, 'first') > until.instant;
  const number = (one: LocalDate) => one.year * 10_000 + one.month * 100 + one.day;
  return number(date) > number(until.date);
}
