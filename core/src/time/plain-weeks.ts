/**
 * Rules by day and by week that name weekdays at the most: nearly all that windows ever have. Counted
 * in days here, since the library takes a hundred times as long, and windows are asked for whenever a
 * host is finished. Everything else is the library's.
 */
import { DAY } from './instant.ts';
import type { RuleParts } from './recurrence-rule.ts';
import { weekdayNames } from './set-positions.ts';
import type { LocalDate } from './zone.ts';

const known = new Set(['FREQ', 'INTERVAL', 'COUNT', 'WKST', 'BYDAY']);

export function isPlain({ frequency, values }: RuleParts): boolean {
  return (
    (frequency === 'DAILY' || frequency === 'WEEKLY') && [...values.keys()].every((name) => known.has(name))
  );
}

/** The dates from an anchor on, up to the end of a year. The rule must be plain. */
export function* plainWeekDates(
  { frequency, values }: RuleParts,
  anchor: LocalDate,
  lastYear: number,
): Generator<LocalDate> {
  const first = Date.UTC(anchor.year, anchor.month - 1, anchor.day) / DAY;
  const last = Date.UTC(lastYear, 11, 31) / DAY;
  const interval = Number(values.get('INTERVAL') ?? 1);
  const named = values.get('BYDAY')?.split(',').map(numberOf);
  const days =
    frequency === 'DAILY'
      ? byDay(first, last, interval, named)
      : byWeek(first, interval, named, weekStart(values));
  let left = Number(values.get('COUNT') ?? Infinity);
  for (const day of days) {
    if (day > last || left-- <= 0) return;
    yield dateOf(day);
  }
}

/** To the last day at most: every seventh day is never one of the others. */
function* byDay(
  first: number,
  last: number,
  interval: number,
  named: readonly number[] | undefined,
): Generator<number> {
  for (let day = first; day <= last; day += interval) if (!named || named.includes(weekdayOf(day))) yield day;
}

function* byWeek(
  first: number,
  interval: number,
  named: readonly number[] = [weekdayOf(first)],
  start: number,
): Generator<number> {
  const places = [...new Set(named.map((day) => (day - start + 7) % 7))].sort((a, b) => a - b);
  const week = first - ((weekdayOf(first) - start + 7) % 7);
  for (let begin = week; ; begin += 7 * interval)
    for (const place of places) if (begin + place >= first) yield begin + place;
}

const numberOf = (name: string) => weekdayNames.indexOf(name as (typeof weekdayNames)[number]);
const weekStart = (values: RuleParts['values']) => numberOf(values.get('WKST') ?? 'MO');

/** Of a day counted from 1 January 1970, a Thursday; 0 for Sunday. */
function weekdayOf(day: number): number {
  return (((day + 4) % 7) + 7) % 7;
}

function dateOf(day: number): LocalDate {
  const date = new Date(day * DAY);
  return { year: date.getUTCFullYear(), month: date.getUTCMonth() + 1, day: date.getUTCDate() };
}
