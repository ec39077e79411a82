import ICAL from 'ical.js';
import { ok, refuse, type Result } from '../result.ts';

/** A year of repeated closed days is enough for any plan; more would let a file run for ever. */
const MAX_REPEATS = 400;

/**
 * Reads the closed days of an iCalendar file (RFC 5545): every date on which an event lies, as
 * `2027-03-17`. Repeating events count for their first 400 dates.
 */
export function closedDays(calendar: string): Result<ReadonlySet<string>> {
  let root: ICAL.Component;
  try {
    root = new ICAL.Component(ICAL.parse(calendar) as unknown[]);
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    return refuse('closed', `is not an iCalendar file (${why})`);
  }
  const days = new Set<string>();
  for (const component of root.getAllSubcomponents('vevent')) {
    const event = new ICAL.Event(component);
    const length = Math.max(1, Math.round(event.duration.toSeconds() / 86_400));
    const iterator = event.iterator();
    for (let i = 0; i < (event.isRecurring() ? MAX_REPEATS : 1); i++) {
      const start = iterator.next() as ICAL.Time | null;
      if (!start) break;
      for (let d = 0; d < length; d++) {
        const day = start.clone();
        day.addDuration(ICAL.Duration.fromSeconds(d * 86_400));
        days.add(`${day.year}-${String(day.month).padStart(2, '0')}-${String(day.day).padStart(2, '0')}`);
      }
    }
  }
  return ok(days);
}
