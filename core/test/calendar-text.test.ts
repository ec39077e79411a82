import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { calendarText, type CalendarEvent } from '../src/time/calendar-text.ts';
import { listWindows } from '../src/time/windows.ts';
import { must } from '../src/result.ts';

/** What another program reads: Debian's python3-icalendar, which knows nothing of ours. */
const READER = `
import json, sys
from icalendar import Calendar
calendar = Calendar.from_ical(sys.stdin.buffer.read())
end = lambda event: event.decoded('dtend') if 'dtend' in event else event.decoded('dtstart')
print(json.dumps([[str(event['uid']), str(event['summary']), event.decoded('dtstart').timestamp(), end(event).timestamp()]
  for event in calendar.walk('VEVENT')]))
`;
const readBack = (events: readonly CalendarEvent[]): unknown =>
  JSON.parse(
    execFileSync('/usr/bin/python3', ['-c', READER], {
      input: calendarText({ name: 'Vat Line', madeAt: Date.UTC(2027, 2, 22, 8), events }),
      encoding: 'utf8',
    }),
  );
const seconds = (events: readonly CalendarEvent[]) =>
  events.map(({ id, summary, start, end }) => [id, summary, start / 1000, end / 1000]);

describe('a calendar', () => {
  it('opens in another program with the same instants, on both nights on which clocks change', () => {
    const events = ['2027-03-26T08:00:00Z', '2027-10-29T08:00:00Z'].flatMap((from) =>
      must(
        listWindows(
          { rule: 'FREQ=DAILY', start: '01:00', end: '05:00', zone: 'Europe/Dublin' },
          Date.parse(from),
          4,
        ),
      ).map(({ start, end }) => ({
        id: `${start}@vat-line`,
        summary: 'Rollout of contact-centre',
        start,
        end,
      })),
    );
    expect(events.map(({ start, end }) => (end - start) / 3_600_000)).toEqual([4, 3, 4, 4, 4, 5, 4, 4]);
    expect(readBack(events)).toEqual(seconds(events));
  });

  it('keeps what an event says, whatever is in it, and one that takes no time', () => {
    const summaries = ['cut Staff; then, "pilot"', 'Zürich \\ n', 'two\nlines', 'ä'.repeat(200)];
    const events = summaries.map((summary, i) => ({ id: `e${i}`, summary, start: 1.8e12, end: 1.8e12 }));
    expect(readBack(events)).toEqual(seconds(events));
  });

  it('has lines of at most 75 bytes that end as the standard says', () => {
    const property = fc.property(fc.string({ unit: 'grapheme', maxLength: 120 }), (summary) => {
      const event = { id: 'e', summary, start: 1.8e12, end: 1.8e12 + 60_000 };
      const text = calendarText({ name: 'Vat Line', madeAt: 0, events: [event] });
      expect(text.endsWith('END:VCALENDAR\r\n')).toBe(true);
      for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
    });
    fc.assert(property, { numRuns: 50 });
  });
});
