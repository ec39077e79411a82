import { IANAZone } from 'luxon';
import type { Fault } from '../result.ts';
import { DAY, HOUR, MINUTE, type Instant } from './instant.ts';
import { offsetAt } from './zone-offset.ts';

/** A calendar date without a zone. Months and days count from 1. */
export interface LocalDate {
  readonly year: number;
  readonly month: number;
  readonly day: number;
}

/** A time of day in minutes after midnight, 0 to 1,439. */
export type WallMinutes = number;

/** Reads `HH:MM` (24 hours); undefined when it is not one. */
export function parseWallTime(text: string): WallMinutes | undefined {
  const match = /^([01]\d|2[0-3]):([0-5]\d)$/.exec(text);
  return match ? Number(match[1]) * 60 + Number(match[2]) : undefined;
}

/** `HH:MM` of a time of day, the inverse of `parseWallTime`; from 1,440 on those of the next day. */
export function formatWallTime(minutes: WallMinutes): string {
  const two = (n: number) => String(n).padStart(2, '0');
  return `${two(Math.floor(minutes / 60) % 24)}:${two(minutes % 60)}`;
}

/** Those that were found to be zones; looking one up takes longer than finding the next window. */
const zones = new Set<string>();

/** What is wrong with the name of a time zone at the field `zone`; nothing when it is an IANA zone known here. */
export function zoneFault(name: string): Fault | undefined {
  // An offset such as +01:00 is no zone: it knows no clock changes.
  if (zones.has(name)) return undefined;
  const known = /^[A-Za-z]/.test(name) && name.length <= 60 && IANAZone.isValidZone(name);
  if (known) {
    zones.add(name);
    return undefined;
  }
  return {
    path: 'zone',
    message: `"${name}" is not a known time zone; write one such as Europe/Dublin`,
  };
}

/** Minutes after local midnight at an instant, fractions included. */
export function localMinutes(zone: string, instant: Instant): number {
  const local = instant + offsetAt(zone, instant);
  return (((local % DAY) + DAY) % DAY) / MINUTE;
}

/** The wall clock in a zone: the date, and minutes after midnight. */
export function wallClock(
  zone: string,
  instant: Instant,
): LocalDate & { minutes: WallMinutes; weekday: number } {
  const shifted = new Date(instant + offsetAt(zone, instant));
  return {
    year: shifted.getUTCFullYear(),
    month: shifted.getUTCMonth() + 1,
    day: shifted.getUTCDate(),
    minutes: shifted.getUTCHours() * 60 + shifted.getUTCMinutes(),
    weekday: shifted.getUTCDay(),
  };
}

/**
 * The instant at which the wall clock of a zone shows the given date and time. A time that does
 * not exist (clocks go forward over it) moves forward by the gap. A time that exists twice
 * (clocks go back over it) is its `first` or its `second` occurrence, as asked.
 */
export function instantOfWall(
  zone: string,
  date: LocalDate,
  minutes: WallMinutes,
  occurrence: 'first' | 'second',
): Instant {
  const asUtc = Date.UTC(date.year, date.month - 1, date.day) + minutes * MINUTE;
  const before = offsetAt(zone, asUtc - 24 * HOUR);
  const after = offsetAt(zone, asUtc + 24 * HOUR);
  const found = [...new Set([asUtc - before, asUtc - after])]
    .filter((candidate) => candidate + offsetAt(zone, candidate) === asUtc)
    .sort((a, b) => a - b);
  const chosen = occurrence === 'first' ? found[0] : found.at(-1);
  return chosen ?? asUtc - before;
}

/** The date that lies `days` after another one. */
export function addDays(date: LocalDate, days: number): LocalDate {
  const moved = new Date(Date.UTC(date.year, date.month - 1, date.day + days));
  return { year: moved.getUTCFullYear(), month: moved.getUTCMonth() + 1, day: moved.getUTCDate() };
}

/** The day of the week, 0 for Sunday. */
export function weekdayOf({ year, month, day }: LocalDate): number {
  return new Date(Date.UTC(year, month - 1, day)).getUTCDay();
}

/** `2027-03-28`. */
export function formatDate(date: LocalDate): string {
  const two = (n: number) => String(n).padStart(2, '0');
  return `${date.year}-${two(date.month)}-${two(date.day)}`;
}
