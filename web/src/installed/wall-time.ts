/** Instants as people type them: `2027-03-22 18:00` on the estate's wall clock. */
import { formatDate, formatWallTime, instantOfWall, parseWallTime, wallClock } from '@vatline/core/time/zone';

export function toWallText(at: number, zone: string): string {
  const clock = wallClock(zone, at);
  return `${formatDate(clock)} ${formatWallTime(clock.minutes)}`;
}

/** Nothing for a text that is none. */
export function fromWallText(text: string, zone: string): number | undefined {
  const [, year, month, day, time] = /^(\d{4})-(\d{2})-(\d{2})[ T](\d{2}:\d{2})$/.exec(text.trim()) ?? [];
  const minutes = time === undefined ? undefined : parseWallTime(time);
  if (minutes === undefined) return undefined;
  const date = { year: Number(year), month: Number(month), day: Number(day) };
  return instantOfWall(zone, date, minutes, 'first');
}
