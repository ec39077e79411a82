/** The moment that is asked for, as a field for a date with a time holds it: wall time of the estate. */
import {
  addDays,
  formatDate,
  formatWallTime,
  instantOfWall,
  parseWallTime,
  wallClock,
} from '@vatline/core/time/zone';

/** `2027-03-29T08:00`. */
export function wallOf(at: number, zone: string): string {
  const wall = wallClock(zone, at);
  return `${formatDate(wall)}T${formatWallTime(wall.minutes)}`;
}

/** Undefined for what is no date with a time. Where clocks go back, the first of the two. */
export function atOf(wall: string, zone: string): number | undefined {
  const [, year = '', month = '', date = '', time = ''] =
    /^(\d{4})-(\d\d)-(\d\d)T(\d\d:\d\d)$/.exec(wall) ?? [];
  const minutes = parseWallTime(time);
  if (minutes === undefined) return undefined;
  const day = { year: Number(year), month: Number(month), day: Number(date) };
  const isDay = formatDate(addDays(day, 0)) === `${year}-${month}-${date}`;
  return isDay ? instantOfWall(zone, day, minutes, 'first') : undefined;
}

/** Wall minutes. */
const MORNING = 8 * 60;

/** When people come back to what the weekend made of it. */
export function nextMonday(now: number, zone: string): number {
  const wall = wallClock(zone, now);
  const ahead = (8 - wall.weekday) % 7 || 7;
  return instantOfWall(zone, addDays(wall, ahead), MORNING, 'first');
}
