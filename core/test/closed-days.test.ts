/** D22: which windows a calendar closes. */
import { describe, expect, it } from 'vitest';
import { listWindows } from '../src/time/windows.ts';
import { closedDays, type Closed } from '../src/time/closed-days.ts';
import { formatInstant } from '../src/time/instant.ts';
import { must } from '../src/result.ts';

const from = Date.parse('2027-03-22T08:00:00Z');
const zone = 'Europe/Dublin';
const calendar = (...lines: string[]) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Wrenfield//EN', ...lines, 'END:VCALENDAR', ''].join('\r\n');
const event = (...lines: string[]) => ['BEGIN:VEVENT', 'UID:1@wrenfield.example', ...lines, 'END:VEVENT'];
const closed = (...lines: string[]) => must(closedDays(calendar(...lines), zone, from));
const why = (text: string) => {
  const read = closedDays(text, zone, from);
  return read.ok ? '' : (read.error[0]?.message ?? '');
};
/** The first nights, 01:00 to 05:00, that are left. */
const nights = (days: Closed, count = 4, after = from) =>
  must(
    listWindows({ rule: 'FREQ=DAILY', start: '01:00', end: '05:00', zone, closed: days }, after, count),
  ).map((span) => formatInstant(span.start).slice(5, 16));

describe('all-day events', () => {
  it('close their local dates: no window begins on them', () => {
    const days = closed(...event('DTSTART;VALUE=DATE:20270323', 'DTEND;VALUE=DATE:20270325'));
    expect(nights(days, 2)).toEqual(['03-25T01:00', '03-26T01:00']);
  });

  it('that repeat count from the day asked about on, however long ago they began', () => {
    // Weekly since 1999: the 1,400th Wednesday is in 2026.
    const days = closed(...event('DTSTART;VALUE=DATE:19990106', 'RRULE:FREQ=WEEKLY;BYDAY=WE'));
    expect(days.dates.has('2027-03-24')).toBe(true);
    expect(days.dates.has('2035-03-28')).toBe(true);
    expect(nights(days, 3)).toEqual(['03-23T01:00', '03-25T01:00', '03-26T01:00']);
  });

  it('a moved instance closes where it went, a cancelled one nothing, an excepted one nothing', () => {
    const weekly = event(
      'DTSTART;VALUE=DATE:20270324',
      'RRULE:FREQ=DAILY;COUNT=4',
      'EXDATE;VALUE=DATE:20270327',
    );
    const moved = event('RECURRENCE-ID;VALUE=DATE:20270325', 'DTSTART;VALUE=DATE:20270330');
    const cancelled = event(
      'RECURRENCE-ID;VALUE=DATE:20270326',
      'DTSTART;VALUE=DATE:20270326',
      'STATUS:CANCELLED',
    );
    expect([...closed(...weekly, ...moved, ...cancelled).dates].sort()).toEqual(['2027-03-24', '2027-03-30']);
  });

  it.each([
    // On these the library that reads calendars never ends, or names days that there are not.
    ['FREQ=DAILY;BYMONTHDAY=-2', ['2027-03-30', '2027-04-29']],
    ['FREQ=DAILY;BYMONTHDAY=31;BYMONTH=2', []],
    ['FREQ=YEARLY;BYMONTHDAY=31;BYMONTH=2', []],
    ['FREQ=DAILY;BYMONTHDAY=1;BYSETPOS=2', []],
    ['FREQ=MONTHLY;BYDAY=MO;BYSETPOS=-1', ['2027-03-29', '2027-04-26']],
  ])('that repeat by %s end', (rule, next) => {
    const days = closed(...event('DTSTART;VALUE=DATE:20200101', `RRULE:${rule}`));
    expect(
      [...days.dates]
        .filter((date) => date >= '2027-03-22')
        .sort()
        .slice(0, 2),
    ).toEqual(next);
  });

  it('that are named one by one, or began long ago, close those', () => {
    const named = closed(...event('DTSTART;VALUE=DATE:20270322', 'RDATE;VALUE=DATE:20270324,20270326'));
    expect([...named.dates].sort()).toEqual(['2027-03-22', '2027-03-24', '2027-03-26']);
    const old = closed(...event('DTSTART;VALUE=DATE:19501225', 'RRULE:FREQ=YEARLY'));
    expect(old.dates.has('2036-12-25')).toBe(true);
  });

  it('an exception is found by its instant, in whatever zone it is written', () => {
    const daily = event(
      'DTSTART:20270323T020000Z',
      'DURATION:PT1H',
      'RRULE:FREQ=DAILY;COUNT=2',
      'EXDATE:20270324T020000Z',
    );
    expect(closed(...daily).spans.map((span) => formatInstant(span.start))).toEqual(['2027-03-23T02:00:00Z']);
  });

  it('a cancelled event closes nothing', () => {
    expect(closed(...event('DTSTART;VALUE=DATE:20270324', 'STATUS:CANCELLED')).dates.size).toBe(0);
  });
});

describe('timed events', () => {
  it('close every window that they overlap, also behind midnight', () => {
    const days = closed(
      ...event('DTSTART;TZID=Europe/Dublin:20270323T220000', 'DTEND;TZID=Europe/Dublin:20270325T013000'),
    );
    expect(nights(days, 2)).toEqual(['03-23T01:00', '03-26T01:00']);
  });

  it('in UTC close by the instant and not by the UTC day', () => {
    // 00:30 UTC in July is 01:30 in Dublin; the window of the day before ended at 05:00.
    const july = Date.parse('2027-07-01T12:00:00Z');
    const days = must(
      closedDays(calendar(...event('DTSTART:20270703T233000Z', 'DTEND:20270703T235900Z')), zone, july),
    );
    // 23:30 UTC is 00:30 on the 4th: before the window at 01:00, so nothing is closed.
    expect(nights(days, 3, july)).toEqual(['07-02T00:00', '07-03T00:00', '07-04T00:00']);
    const later = must(
      closedDays(calendar(...event('DTSTART:20270703T233000Z', 'DTEND:20270704T003000Z')), zone, july),
    );
    expect(nights(later, 3, july)).toEqual(['07-02T00:00', '07-03T00:00', '07-05T00:00']);
  });

  it('that only touch a window do not close it', () => {
    const days = closed(...event('DTSTART;TZID=Europe/Dublin:20270324T050000', 'DURATION:PT3H'));
    expect(nights(days, 2)).toEqual(['03-23T01:00', '03-24T01:00']);
  });

  it('without a zone are in the zone of the window', () => {
    const days = closed(...event('DTSTART:20270323T020000', 'DURATION:PT1H'));
    expect(nights(days, 1)).toEqual(['03-24T01:00']);
  });
});

describe('what is no calendar of closed days', () => {
  it.each([
    ['', 'is empty; an iCalendar file begins with BEGIN:VCALENDAR'],
    ['hello', 'is not an iCalendar file'],
    [calendar() + calendar(), 'holds more than one calendar; give each by itself'],
    [calendar(...event('SUMMARY:Stocktaking')), 'has the event "Stocktaking" without DTSTART'],
    [calendar(...event('DTSTART:20270323T020000', 'DURATION:P9999999D')), 'lasts longer than 400 days'],
    [
      calendar(...event('DTSTART;VALUE=DATE:20270325', 'DTEND;VALUE=DATE:20270323')),
      'lasts less than nothing',
    ],
    [
      calendar(...event('DTSTART:20270323T020000', 'DURATION:PT1S', 'RRULE:FREQ=SECONDLY')),
      'whose rule FREQ=SECONDLY must be DAILY, WEEKLY, MONTHLY or YEARLY',
    ],
    [
      calendar(...event('DTSTART;TZID=Atlantis/Poseidonis:20270323T020000')),
      'unknown zone Atlantis/Poseidonis',
    ],
  ])('%j is refused: %s', (text, message) => {
    const begun = performance.now();
    expect(why(text)).toContain(message);
    expect(performance.now() - begun).toBeLessThan(3_000);
  });
});
