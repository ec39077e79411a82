/** Which dates a rule has, above all at places of their period. */
import fc from 'fast-check';
import * as rruleModule from 'rrule';
import { describe, expect, it } from 'vitest';
import { must } from '../src/result.ts';
import { recurrence } from '../src/time/recurrence.ts';
import { formatDate } from '../src/time/zone.ts';

const loaded = rruleModule as typeof rruleModule & { readonly [name: string]: unknown };
const { RRule } = ('RRule' in loaded ? loaded : loaded['default']) as typeof rruleModule;

const at = { zone: 'Europe/Dublin', minutes: 60 };
const monday = { year: 2027, month: 3, day: 22 };

function firstDates(rule: string, count: number, anchor = monday): string[] {
  const found: string[] = [];
  for (const date of must(recurrence(rule, anchor, at)).dates()) {
    found.push(formatDate(date));
    if (found.length === count) break;
  }
  return found;
}

describe('places of a period', () => {
  it.each([
    ['FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1', ['2027-03-31', '2027-04-30', '2027-05-31']],
    // March has had its second Monday before the rule begins.
    ['FREQ=MONTHLY;BYDAY=MO;BYSETPOS=2', ['2027-04-12', '2027-05-10', '2027-06-14']],
    ['FREQ=MONTHLY;INTERVAL=2;BYDAY=MO;BYSETPOS=1,-1', ['2027-03-29', '2027-05-03', '2027-05-31']],
    ['FREQ=WEEKLY;BYDAY=MO,WE,FR;BYSETPOS=2', ['2027-03-24', '2027-03-31', '2027-04-07']],
    ['FREQ=WEEKLY;WKST=SU;BYDAY=SU,SA;BYSETPOS=1', ['2027-03-28', '2027-04-04', '2027-04-11']],
    ['FREQ=YEARLY;BYMONTH=6,9;BYSETPOS=-1', ['2027-09-22', '2028-09-22', '2029-09-22']],
    ['FREQ=YEARLY;BYWEEKNO=20,30;BYSETPOS=1', ['2027-05-17', '2028-05-15', '2029-05-14']],
    ['FREQ=MONTHLY;COUNT=2;BYDAY=FR;BYSETPOS=1', ['2027-04-02', '2027-05-07']],
    ['FREQ=DAILY;BYDAY=MO;BYSETPOS=-1', ['2027-03-22', '2027-03-29', '2027-04-05']],
  ])('%s', (rule, dates) => expect(firstDates(rule, 3)).toEqual(dates));

  it('that are never reached are found out within a second', () => {
    const begun = performance.now();
    for (const rule of [
      'FREQ=DAILY;BYMONTHDAY=1;BYSETPOS=2',
      'FREQ=WEEKLY;BYDAY=MO;BYSETPOS=2',
      'FREQ=MONTHLY;BYDAY=MO;BYSETPOS=366',
      'FREQ=YEARLY;BYMONTHDAY=1;BYMONTH=2;BYSETPOS=5',
    ])
      expect(firstDates(rule, 1)).toEqual([]);
    // Half a minute for the first of them alone when the library looks for it.
    expect(performance.now() - begun).toBeLessThan(10_000);
  });

  it('are those that the library finds, where it finds any', () => {
    const days = fc.uniqueArray(fc.constantFrom('SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA'), {
      minLength: 2,
      maxLength: 5,
    });
    const property = fc.property(
      fc.constantFrom('WEEKLY', 'MONTHLY', 'YEARLY'),
      fc.integer({ min: 1, max: 3 }),
      days,
      fc.constantFrom('1', '2', '-1', '-2', '1,-1'),
      fc.constantFrom('MO', 'SU'),
      fc.integer({ min: 1, max: 28 }),
      fc.integer({ min: 1, max: 12 }),
      (frequency, interval, weekdays, places, weekStart, day, month) => {
        const rule = `FREQ=${frequency};INTERVAL=${interval};WKST=${weekStart};BYDAY=${weekdays.join()};BYSETPOS=${places}`;
        const dtstart = new Date(Date.UTC(2027, month - 1, day));
        const theirs = new RRule({ ...RRule.parseString(rule), dtstart }).all((_date, i) => i < 10);
        // In a first week that is not whole the library counts from its beginning, RFC 5545 from the week's.
        const later = (dates: readonly string[]) =>
          dates.filter((date) => Date.parse(date) >= dtstart.getTime() + 7 * 86_400_000).slice(0, 5);
        expect(later(firstDates(rule, 10, { year: 2027, month, day })), rule).toEqual(
          later(theirs.map((date) => date.toISOString().slice(0, 10))),
        );
      },
    );
    fc.assert(property, { numRuns: 150 });
  });
});
