/**
 * Closed days from iCalendar files (RFC 5545). The calendar library reads them; when an event repeats
 * is worked out by `recurrence.ts`, since the library never ends on some rules and is wrong on others.
 */
import ICAL from 'ical.js';
import { ok, refuse, type Result } from '../result.ts';
import { DAY, type Instant } from './instant.ts';
import { recurrence } from './recurrence.ts';
import { addDays, formatDate, instantOfWall, zoneFault, type LocalDate } from './zone.ts';

/** When nothing may be done. */
export interface Closed {
  /** Local dates of all-day events: no window begins on them. */
  readonly dates: ReadonlySet<string>;
  /** Timed events: every window that overlaps one is closed. */
  readonly spans: readonly { readonly start: Instant; readonly end: Instant }[];
}

/** Events are looked at from the day asked about on, for longer than anybody plans ahead. */
const YEARS_AHEAD = 10;
/** Times that one event may repeat up to there: daily for over forty years. */
const MOST_REPEATS = 15_000;
/** Of all events together; a calendar has some hundred. */
const MOST_EVENTS = 5_000;
const MOST_CLOSED = 100_000;
const MOST_DAYS_LONG = 400;
const MOST_CHARACTERS = 5_000_000;

/** What cannot be used in a calendar, in words. */
class Unusable extends Error {}

/**
 * Reads a calendar. Wall times without a zone are in `zone`. Moved instances of a repeating event
 * close where they went, cancelled ones and cancelled events close nothing. Errors, at `closed`: no
 * iCalendar file, not exactly one calendar in it, an event without a beginning, in an unknown zone,
 * longer than 400 days, or repeating too often.
 */
export function closedDays(calendar: string, zone: string, from: Instant): Result<Closed> {
  try {
    const dates = new Set<string>();
    const spans: { start: Instant; end: Instant }[] = [];
    const until = from + YEARS_AHEAD * 365 * DAY;
    for (const event of eventsIn(calendar))
      for (const { start, end, zone: own } of occurrences(event, from, until)) {
        if (start.isDate) for (const date of datesOf(start, end)) dates.add(date);
        else spans.push(spanOf(start, end, own || zone));
        if (dates.size + spans.length > MOST_CLOSED) throw new Unusable('closes too many days to be meant');
      }
    return ok({ dates, spans: spans.filter((span) => span.end > from) });
  } catch (error) {
    if (error instanceof Unusable) return refuse('closed', error.message);
    const why = error instanceof Error ? error.message : String(error);
    return refuse('closed', `is not an iCalendar file (${why})`);
  }
}

function eventsIn(calendar: string): ICAL.Event[] {
  if (calendar.trim() === '') throw new Unusable('is empty; an iCalendar file begins with BEGIN:VCALENDAR');
  if (calendar.length > MOST_CHARACTERS) throw new Unusable('is larger than any calendar of closed days');
  const parsed = ICAL.parse(calendar) as unknown[];
  if (Array.isArray(parsed[0])) throw new Unusable('holds more than one calendar; give each by itself');
  const components = new ICAL.Component(parsed).getAllSubcomponents('vevent');
  if (components.length > MOST_EVENTS)
    throw new Unusable(`has over ${MOST_EVENTS.toLocaleString('en-GB')} events`);
  const [moved, own] = [[] as ICAL.Event[], [] as ICAL.Event[]];
  for (const component of components) {
    const event = new ICAL.Event(component, { strictExceptions: false });
    if (!component.hasProperty('dtstart'))
      throw new Unusable(`has the event ${nameOf(event)} without DTSTART`);
    (event.isRecurrenceException() ? moved : own).push(event);
  }
  for (const exception of moved) {
    const of = own.find((event) => event.uid === exception.uid);
    if (of) of.relateException(exception);
    else own.push(exception);
  }
  return own.filter((event) => !isCancelled(event));
}

function nameOf(event: ICAL.Event): string {
  return JSON.stringify((event.summary || event.uid || '').slice(0, 60));
}

function isCancelled({ component }: ICAL.Event): boolean {
  return String(component.getFirstPropertyValue('status') ?? '').toUpperCase() === 'CANCELLED';
}

interface Occurrence {
  readonly start: ICAL.Time;
  readonly end: ICAL.Time;
  /** What the event says of its zone; empty for a wall time of the calendar's readers. */
  readonly zone: string;
}

/** Occurrences of an event that may reach into a stretch of time; zones shift them by a day at the most. */
function* occurrences(event: ICAL.Event, from: Instant, until: Instant): Generator<Occurrence> {
  if (!event.isRecurring()) {
    yield checked(event, event.startDate, event.endDate);
    return;
  }
  // By the instant: an exception may be written in another zone than the event.
  const excepted = new Set(timesIn(event, 'exdate').map((time) => time.toUnixTime()));
  for (const next of beginnings(event, until)) {
    if (excepted.has(next.toUnixTime())) continue;
    const { item, startDate, endDate } = event.getOccurrenceDetails(next);
    if (isCancelled(item)) continue;
    const occurrence = checked(item, startDate, endDate);
    if (wallInstant(endDate) >= from - DAY) yield occurrence;
  }
}

/** When a repeating event begins: once as it says itself, then by its rule, then at each time that is named. */
function* beginnings(event: ICAL.Event, until: Instant): Generator<ICAL.Time> {
  const first = event.startDate;
  yield first;
  let count = 0;
  for (const date of datesByRule(event, new Date(until).getUTCFullYear())) {
    const next = first.clone();
    next.resetTo(date.year, date.month, date.day, first.hour, first.minute, first.second, first.zone);
    next.isDate = first.isDate;
    if (wallInstant(next) > until + DAY) break;
    if (++count > MOST_REPEATS)
      throw new Unusable(
        `has the event ${nameOf(event)}, which repeats over ${MOST_REPEATS.toLocaleString('en-GB')} times`,
      );
    if (next.compare(first) !== 0) yield next;
  }
  yield* timesIn(event, 'rdate');
}

function* datesByRule(event: ICAL.Event, lastYear: number): Generator<LocalDate> {
  const first = event.startDate;
  const at = {
    zone: zoneFault(zoneOf(event)) ? 'UTC' : zoneOf(event),
    minutes: first.hour * 60 + first.minute,
  };
  for (const rule of event.component.getAllProperties('rrule')) {
    const read = recurrence(String(rule.getFirstValue()), dateOf(first), at, lastYear);
    if (!read.ok)
      throw new Unusable(`has the event ${nameOf(event)}, whose rule ${read.error[0]?.message ?? 'is none'}`);
    yield* read.value.dates();
  }
}

/** Times that are named one by one; of a period its beginning. */
function timesIn(event: ICAL.Event, name: 'rdate' | 'exdate'): ICAL.Time[] {
  const values = event.component.getAllProperties(name).flatMap((property) => property.getValues());
  return values.map((value) => (value instanceof ICAL.Period ? value.start : (value as ICAL.Time)));
}

function zoneOf(event: ICAL.Event): string {
  const zone = event.component.getFirstProperty('dtstart')?.getParameter('tzid');
  return typeof zone === 'string' ? zone : '';
}

function checked(event: ICAL.Event, start: ICAL.Time, end: ICAL.Time): Occurrence {
  const days = (wallInstant(end) - wallInstant(start)) / DAY;
  if (!(days >= 0 && days <= MOST_DAYS_LONG))
    throw new Unusable(
      `has the event ${nameOf(event)}, which lasts ${days < 0 ? 'less than nothing' : `longer than ${MOST_DAYS_LONG} days`}`,
    );
  return { start, end, zone: zoneOf(event) };
}

/** As if the wall clock were UTC: near enough to order and to measure. */
function wallInstant(time: ICAL.Time): number {
  return Date.UTC(time.year, time.month - 1, time.day, time.hour, time.minute, time.second);
}

const dateOf = ({ year, month, day }: ICAL.Time): LocalDate => ({ year, month, day });

/** The end of an all-day event is the day after its last; one without an end has one day. */
function* datesOf(start: ICAL.Time, end: ICAL.Time): Generator<string> {
  const days = Math.max(1, Math.round((wallInstant(end) - wallInstant(start)) / DAY));
  for (let i = 0; i < days; i++) yield formatDate(addDays(dateOf(start), i));
}

function spanOf(start: ICAL.Time, end: ICAL.Time, zone: string): { start: Instant; end: Instant } {
  return { start: instantOf(start, zone, 'first'), end: instantOf(end, zone, 'second') };
}

function instantOf(time: ICAL.Time, zone: string, occurrence: 'first' | 'second'): Instant {
  const named = time.zone?.tzid;
  if (named === 'UTC') return wallInstant(time);
  if (!zoneFault(zone))
    return instantOfWall(zone, dateOf(time), time.hour * 60 + time.minute, occurrence) + time.second * 1000;
  // A zone that only the calendar knows is asked for its own rules.
  if (named === zone) return time.toUnixTime() * 1000;
  throw new Unusable(`has a time in the unknown zone ${zone}`);
}
