/** A window for what does not wait for the night: it begins with the next full minute. */
import { MINUTE, type Instant } from '../time/instant.ts';
import { formatWallTime, wallClock } from '../time/zone.ts';

/** Long enough for the largest pool that goes back, and over by the same time tomorrow. */
const HOURS = 12;

/** Every day at this time, so that what is left by the end of it goes on tomorrow. */
export function windowFromNow(
  zone: string,
  now: Instant,
): { readonly rule: string; readonly start: string; readonly end: string } {
  const { minutes } = wallClock(zone, now + MINUTE - 1);
  return {
    rule: 'FREQ=DAILY',
    start: formatWallTime(minutes % 1440),
    end: formatWallTime((minutes + HOURS * 60) % 1440),
  };
}
