/** Calendars as other programs read them: iCalendar, RFC 5545. */
import ICAL from 'ical.js';
import type { Instant } from './instant.ts';

export interface CalendarEvent {
  /** The same as long as it is the same event, so that a program that subscribed moves it. */
  readonly id: string;
  readonly summary: string;
  readonly start: Instant;
  /** At the start for what takes no time. */
  readonly end: Instant;
}

export interface CalendarOfEvents {
  readonly name: string;
  /** When it was made. */
  readonly madeAt: Instant;
  readonly events: readonly CalendarEvent[];
}

/** Instants are written in UTC: what a clock shows then is the reader's to say, clock changes included. */
export function calendarText({ name, madeAt, events }: CalendarOfEvents): string {
  const calendar = new ICAL.Component('vcalendar');
  calendar.updatePropertyWithValue('prodid', '-//Vat Line//Vat Line//EN');
  calendar.updatePropertyWithValue('version', '2.0');
  // RFC 7986: a name, and how often to ask again.
  calendar.updatePropertyWithValue('name', name);
  calendar.updatePropertyWithValue('refresh-interval', ICAL.Duration.fromString('PT1H'));
  for (const event of events) calendar.addSubcomponent(componentOf(event, madeAt));
  return `${calendar.toString()}\r\n`;
}

function componentOf({ id, summary, start, end }: CalendarEvent, madeAt: Instant): ICAL.Component {
  const component = new ICAL.Component('vevent');
  component.updatePropertyWithValue('uid', id);
  component.updatePropertyWithValue('dtstamp', timeOf(madeAt));
  component.updatePropertyWithValue('dtstart', timeOf(start));
  if (end > start) component.updatePropertyWithValue('dtend', timeOf(end));
  component.updatePropertyWithValue('summary', summary);
  return component;
}

/** To the second, as the standard has it. */
function timeOf(instant: Instant): ICAL.Time {
  return ICAL.Time.fromJSDate(new Date(Math.floor(instant / 1000) * 1000), true);
}
