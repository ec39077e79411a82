import fc from 'fast-check';
import * as rruleModule from 'rrule';
import { describe, expect, it } from 'vitest';
import { isPlain, plainWeekDates } from '../src/time/plain-weeks.ts';
import { parseRule } from '../src/time/recurrence-rule.ts';
import { formatDate, type LocalDate } from '../src/time/zone.ts';
import { must } from '../src/result.ts';

const loaded = rruleModule as typeof rruleModule & { readonly [name: string]: unknown };
const { RRule } = ('RRule' in loaded ? loaded : loaded['default']) as typeof rruleModule;

const datesOf = (rule: string, anchor: LocalDate, count: number) => {
  const found: string[] = [];
  for (const date of plainWeekDates(must(parseRule(rule)), anchor, anchor.year + 3)) {
    if (found.length >= count) break;
    found.push(formatDate(date));
  }
  return found;
};

describe('rules by day and week', () => {
  it('every second week on Tuesday and Sunday, the week beginning on Sunday or on Monday', () => {
    // RFC 5545, 3.8.5.3, the example for WKST, at dates of our own.
    const anchor = { year: 2027, month: 8, day: 3 };
    expect(datesOf('FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO', anchor, 9)).toEqual([
      '2027-08-03',
      '2027-08-08',
      '2027-08-17',
      '2027-08-22',
    ]);
    expect(datesOf('FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU', anchor, 9)).toEqual([
      '2027-08-03',
      '2027-08-15',
      '2027-08-17',
      '2027-08-29',
    ]);
  });

  it('are the same as those of the library, whatever the rule', () => {
    const names = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'];
    const rule = fc.record({
      frequency: fc.constantFrom('DAILY', 'WEEKLY'),
      interval: fc.option(fc.integer({ min: 1, max: 9 })),
      count: fc.option(fc.integer({ min: 1, max: 40 })),
      start: fc.option(fc.constantFrom(...names)),
      days: fc.option(fc.array(fc.constantFrom(...names), { minLength: 1, maxLength: 5 })),
    });
    const property = fc.property(rule, fc.integer({ min: 0, max: 4_000 }), (parts, after) => {
      const text = [
        `FREQ=${parts.frequency}`,
        ...(parts.interval === null ? [] : [`INTERVAL=${parts.interval}`]),
        ...(parts.count === null ? [] : [`COUNT=${parts.count}`]),
        ...(parts.start === null ? [] : [`WKST=${parts.start}`]),
        ...(parts.days === null ? [] : [`BYDAY=${parts.days.join(',')}`]),
      ].join(';');
      const dtstart = new Date(Date.UTC(2027, 0, 1 + after));
      const [year = 0, month = 0, day = 0] = dtstart.toISOString().slice(0, 10).split('-').map(Number);
      const until = new Date(Date.UTC(year + 3, 11, 31));
      const theirs = new RRule({ ...RRule.parseString(text), dtstart, until })
        .all((_date, i) => i < 30)
        .map((date) => date.toISOString().slice(0, 10));
      expect(datesOf(text, { year, month, day }, 30)).toEqual(theirs);
    });
    fc.assert(property, { numRuns: 300 });
  });

  it.each([
    ['FREQ=DAILY', true],
    ['FREQ=WEEKLY;BYDAY=SU;INTERVAL=2', true],
    ['FREQ=WEEKLY;BYMONTH=3', false],
    ['FREQ=MONTHLY;BYDAY=1SU', false],
    ['FREQ=DAILY;BYMONTHDAY=1', false],
  ])('%s is plain: %s', (rule, plain) => {
    expect(isPlain(must(parseRule(rule)))).toBe(plain);
  });
});
