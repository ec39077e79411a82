/** Calendars, read in the worker pool for what comes from outside. */
import type { Result } from '@vatline/core/result';
import { closedDays, type Closed } from '@vatline/core/time/closed-days';
import type { Instant } from '@vatline/core/time/instant';

export interface CalendarReading {
  readonly text: string;
  /** IANA zone of wall times that have none. */
  readonly zone: string;
  readonly from: Instant;
}

export function readCalendar({ text, zone, from }: CalendarReading): Result<Closed> {
  return closedDays(text, zone, from);
}
