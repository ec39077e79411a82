import * as rruleModule from 'rrule';
import { instantOfWall, weekdayOf, type LocalDate, type WallMinutes } from './zone.ts';
import { ok, type Result } from '../result.ts';
import { isPlain, plainWeekDates } from './plain-weeks.ts';
import { parseRule, type RuleParts, type Until } from './recurrence-rule.ts';
import { atPositions, periodOf, weekdayNames, type Periods } from './set-positions.ts';

// The package ships both module kinds; depending on the loader its names stand on the namespace
// or on its default.
const loaded = rruleModule as typeof rruleModule & { readonly [name: string]: unknown };
const { RRule } = ('RRule' in loaded ? loaded : loaded['default']) as typeof rruleModule;

/** The dates on which something recurs, earliest first, until the last year looked at or as long as its rule says. */
export interface Recurrence {
  dates(): Iterable<LocalDate>;
}

/** When on its dates something happens: an UNTIL with a time is compared with that. */
export interface TimeOfDay {
  readonly zone: string;
  readonly minutes: WallMinutes;
}

/**
 * Longer than any plan, and long enough for a Sunday on 29 February; a rule that never happens is
 * found out at the end of it, in less than half a second.
 */
const YEARS_LOOKED_AT = 40;
/** Dates that are worked out at once, at first. */
const FIRST_DATES = 32;

/**
 * Reads an RFC 5545 recurrence rule (`FREQ=WEEKLY;BYDAY=SU`), anchored at a local date. Only
 * rules by day or longer make sense for a maintenance window: at most one occurrence a day.
 */
export function recurrence(
  rule: string,
  anchor: LocalDate,
  at: TimeOfDay,
  lastYear = anchor.year + YEARS_LOOKED_AT,
): Result<Recurrence> {
  const parsed = parseRule(rule);
  if (!parsed.ok) return parsed;
  const { until } = parsed.value;
  const dates = parsed.value.positions.length > 0 ? datesAtPositions : allDates;
  return ok({
    *dates() {
      for (const date of dates(parsed.value, anchor, lastYear)) {
        if (isPast(date, until, at)) return;
        yield date;
      }
    },
  });
}

/** Dates at places of their period are chosen from all dates of the rule, from the first day of a period on. */
function* datesAtPositions(parts: RuleParts, anchor: LocalDate, lastYear: number): Generator<LocalDate> {
  // A day has one date at the most.
  if (parts.frequency === 'DAILY' && !parts.positions.some((place) => Math.abs(place) === 1)) return;
  const periods: Periods = {
    frequency: parts.frequency,
    weekStart: weekdayNames.indexOf((parts.values.get('WKST') ?? 'MO') as (typeof weekdayNames)[number]),
  };
  const values = new Map([...impliedBy(parts, anchor), ...parts.values]);
  values.delete('COUNT');
  const all = libraryDates({ values }, periodOf(anchor, periods), lastYear);
  let left = Number(parts.values.get('COUNT') ?? Infinity);
  for (const date of atPositions(all, periods, parts.positions)) {
    if (numberOf(date) < numberOf(anchor)) continue;
    if (left-- <= 0) return;
    yield date;
  }
}

/** What the anchor says of the day where a rule does not (RFC 5545, 3.3.10); the first of a period would say another. */
function impliedBy({ frequency, values }: RuleParts, anchor: LocalDate): [string, string][] {
  const says = (...names: string[]) => names.some((name) => values.has(name));
  if (frequency === 'DAILY' || says('BYDAY', 'BYMONTHDAY', 'BYYEARDAY')) return [];
  return frequency === 'WEEKLY' || says('BYWEEKNO')
    ? [['BYDAY', weekdayNames[weekdayOf(anchor)] ?? 'SU']]
    : [['BYMONTHDAY', String(anchor.day)]];
}

function allDates(parts: RuleParts, anchor: LocalDate, lastYear: number): Iterable<LocalDate> {
  return (isPlain(parts) ? plainWeekDates : libraryDates)(parts, anchor, lastYear);
}

/** The library counts from the first date at each call, so that dates are asked for in ever larger portions. */
function* libraryDates(
  { values }: Pick<RuleParts, 'values'>,
  anchor: LocalDate,
  lastYear: number,
): Generator<LocalDate> {
  const dtstart = new Date(Date.UTC(anchor.year, anchor.month - 1, anchor.day));
  const until = new Date(Date.UTC(lastYear, 11, 31));
  const text = [...values].map(([name, value]) => `${name}=${value}`).join(';');
  const rule = new RRule({ ...RRule.parseString(text), dtstart, until });
  let given = 0;
  for (let size = FIRST_DATES; ; size *= 4) {
    const dates = rule.all((_date, i) => i < size);
    for (const next of dates.slice(given))
      yield { year: next.getUTCFullYear(), month: next.getUTCMonth() + 1, day: next.getUTCDate() };
    if (dates.length < size) return;
    given = dates.length;
  }
}

function isPast(date: LocalDate, until: Until | undefined, { zone, minutes }: TimeOfDay): boolean {
  if (!until) return false;
  if ('instant' in until) return instantOfWall(zone, date, minutes, 'first') > until.instant;
  return numberOf(date) > numberOf(until.date);
}

function numberOf({ year, month, day }: LocalDate): number {
  return year * 10_000 + month * 100 + day;
}
