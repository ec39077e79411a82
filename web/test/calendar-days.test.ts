import { describe, expect, it } from 'vitest';
import { HOUR } from '@vatline/core/time/instant';
import { formatDate } from '@vatline/core/time/zone';
import { byDay, dateIn, daysBetween, daysOf, stepped } from '../src/rollouts/calendar/calendar-days.ts';

const zone = 'Europe/Dublin';
const march = { year: 2027, month: 3, day: 22 };

describe('the days of a calendar', () => {
  it('are whole weeks around a month, from Monday on', () => {
    const days = daysOf('month', march, zone);
    expect([days[0]?.key, days.at(-1)?.key, days.length]).toEqual(['2027-03-01', '2027-04-04', 35]);
    const august = daysOf('month', { year: 2027, month: 8, day: 5 }, zone);
    expect([august[0]?.key, august.at(-1)?.key, august.length]).toEqual(['2027-07-26', '2027-09-05', 42]);
    expect(august.filter((day) => !day.isInMonth)).toHaveLength(11);
  });

  it('are four weeks where a month is just that', () => {
    expect(daysOf('month', { year: 2027, month: 2, day: 1 }, zone)).toHaveLength(28);
  });

  it('have 23 hours where clocks go forward, and hang together', () => {
    const days = daysOf('week', march, zone);
    expect(days.map((day) => (day.end - day.start) / HOUR)).toEqual([24, 24, 24, 24, 24, 24, 23]);
    expect(days.slice(1).every((day, i) => day.start === days[i]?.end)).toBe(true);
  });

  it('of a list are those of the month alone', () => {
    const days = daysOf('list', march, zone);
    expect([days[0]?.key, days.at(-1)?.key]).toEqual(['2027-03-01', '2027-03-31']);
  });

  it('go on and back by a week or a month, whatever day of the month it was', () => {
    expect(formatDate(stepped('week', march, 1))).toBe('2027-03-29');
    expect(formatDate(stepped('month', { year: 2027, month: 1, day: 31 }, 1))).toBe('2027-02-01');
    expect(formatDate(stepped('list', { year: 2027, month: 1, day: 31 }, -1))).toBe('2026-12-01');
  });

  it('are read from an address only where they are real', () => {
    expect(dateIn('2027-03-22')).toEqual(march);
    for (const text of ['', '2027-02-29', '2027-13-01', '1999-01-01', '2000-01-01', '2027-3-1', 'today'])
      expect(dateIn(text), text).toBeUndefined();
    expect(dateIn('2028-02-29')).toEqual({ year: 2028, month: 2, day: 29 });
  });

  it('lie so many apart, across a clock change as well', () => {
    expect(daysBetween(march, { year: 2027, month: 4, day: 1 })).toBe(10);
    expect(daysBetween(march, { year: 2027, month: 3, day: 20 })).toBe(-2);
  });

  it('hold what begins on them by the local date; what runs into the first stands on that', () => {
    const days = daysOf('week', march, zone);
    const before = { id: 'before', start: Date.UTC(2027, 2, 21, 22), end: Date.UTC(2027, 2, 22, 3) };
    const earlier = { id: 'earlier', start: Date.UTC(2027, 2, 20, 22), end: Date.UTC(2027, 2, 21, 3) };
    // 00:30 on Monday the 29th in Dublin.
    const summer = { id: 'summer', start: Date.UTC(2027, 2, 28, 22, 30), end: Date.UTC(2027, 2, 28, 23) };
    const found = byDay([before, earlier, summer], days, zone);
    expect(found.get('2027-03-22')?.map((one) => one.id)).toEqual(['before']);
    expect(found.get('2027-03-28')?.map((one) => one.id)).toEqual(['summer']);
    expect([...found.values()].flat()).toHaveLength(2);
  });
});
