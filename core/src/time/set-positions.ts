/**
 * BYSETPOS of RFC 5545: of the dates that a rule has in each day, week, month or year, the first, the
 * last and so on. Done here and not by the library that knows the rules: where a place is never
 * reached, such as the second of one date a day, it searches for half a minute.
 */
import type { Frequency } from './recurrence-rule.ts';
import { addDays, formatDate, weekdayOf, type LocalDate } from './zone.ts';

export const weekdayNames = ['SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA'] as const;

/** When in the periods of a rule its dates are counted from. */
export interface Periods {
  readonly frequency: Frequency;
  /** The first day of a week, 0 for Sunday. */
  readonly weekStart: number;
}

/** The first day of the period that a date lies in. */
export function periodOf(date: LocalDate, { frequency, weekStart }: Periods): LocalDate {
  switch (frequency) {
    case 'DAILY':
      return date;
    case 'WEEKLY':
      return addDays(date, -((weekdayOf(date) - weekStart + 7) % 7));
    case 'MONTHLY':
      return { ...date, day: 1 };
    case 'YEARLY':
      return { ...date, month: 1, day: 1 };
  }
}

/** Of dates in order, beginning with a whole period, those at the places that are asked for. */
export function* atPositions(
  dates: Iterable<LocalDate>,
  periods: Periods,
  positions: readonly number[],
): Generator<LocalDate> {
  let period: LocalDate[] = [];
  let key = '';
  for (const date of dates) {
    const own = formatDate(periodOf(date, periods));
    if (own !== key) {
      yield* pick(period, positions);
      [period, key] = [[], own];
    }
    period.push(date);
  }
  yield* pick(period, positions);
}

function pick(period: readonly LocalDate[], positions: readonly number[]): LocalDate[] {
  const places = new Set(positions.map((place) => (place > 0 ? place - 1 : period.length + place)));
  return period.filter((_date, i) => places.has(i));
}
