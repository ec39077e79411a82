/** The days that a calendar shows, and what begins on each. */
import { DAY, type Instant } from '@vatline/core/time/instant';
import {
  addDays,
  formatDate,
  instantOfWall,
  wallClock,
  weekdayOf,
  type LocalDate,
} from '@vatline/core/time/zone';

export const calendarViews = ['month', 'week', 'list'] as const;
export type CalendarView = (typeof calendarViews)[number];

export interface CalendarDay {
  readonly date: LocalDate;
  /** As `2027-03-28`. */
  readonly key: string;
  readonly start: Instant;
  readonly end: Instant;
  /** False for the days before and after a month that fill its weeks. */
  readonly isInMonth: boolean;
}

/** Reads `2027-03-28`; undefined for what is no date between 2001 and 2099. */
export function dateIn(text: string): LocalDate | undefined {
  const match = /^(20\d\d)-(\d\d)-(\d\d)$/.exec(text);
  if (!match) return undefined;
  const date = { year: Number(match[1]), month: Number(match[2]), day: Number(match[3]) };
  const isReal = formatDate(addDays(date, 0)) === text;
  return isReal && date.year > 2000 ? date : undefined;
}

/** Whole weeks from Monday on: those that a month touches, or the one of a date; a list has the month alone. */
export function daysOf(view: CalendarView, date: LocalDate, zone: string): CalendarDay[] {
  const first = { ...date, day: 1 };
  const afterLast = addDays(first, daysInMonth(date));
  const from = view === 'list' ? first : mondayOf(view === 'month' ? first : date);
  const to =
    view === 'list'
      ? afterLast
      : view === 'month'
        ? addDays(mondayOf(addDays(afterLast, -1)), 7)
        : addDays(from, 7);
  const days: CalendarDay[] = [];
  for (let day = from; formatDate(day) !== formatDate(to); day = addDays(day, 1))
    days.push({
      date: day,
      key: formatDate(day),
      start: instantOfWall(zone, day, 0, 'first'),
      end: instantOfWall(zone, addDays(day, 1), 0, 'first'),
      isInMonth: view === 'week' || day.month === date.month,
    });
  return days;
}

/** The date one page on or back. */
export function stepped(view: CalendarView, date: LocalDate, by: 1 | -1): LocalDate {
  if (view === 'week') return addDays(date, 7 * by);
  const first = { ...date, day: 1 };
  return by === 1 ? addDays(first, daysInMonth(date)) : { ...addDays(first, -1), day: 1 };
}

/** Whole days from one local date to another. */
export function daysBetween(from: LocalDate, to: LocalDate): number {
  return (utcOf(to) - utcOf(from)) / DAY;
}

/** By the day on which each begins; what began before the first day stands on that. */
export function byDay<T extends { readonly start: Instant; readonly end: Instant }>(
  planned: readonly T[],
  days: readonly CalendarDay[],
  zone: string,
): ReadonlyMap<string, readonly T[]> {
  const found = new Map<string, T[]>(days.map(({ key }) => [key, []]));
  const [first] = days;
  for (const one of planned) {
    const key = formatDate(wallClock(zone, one.start));
    const isRunning = first && one.start < first.start && one.end > first.start;
    found.get(isRunning ? first.key : key)?.push(one);
  }
  return found;
}

const utcOf = ({ year, month, day }: LocalDate) => Date.UTC(year, month - 1, day);

function daysInMonth({ year, month }: LocalDate): number {
  return new Date(Date.UTC(year, month, 0)).getUTCDate();
}

function mondayOf(date: LocalDate): LocalDate {
  return addDays(date, -((weekdayOf(date) + 6) % 7));
}
