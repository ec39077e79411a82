/** Numbers and times as people read them, on both nights of the year on which clocks change, and in other zones. */
import { describe, expect, it } from 'vitest';
import * as fc from 'fast-check';
import {
  count,
  day,
  longDay,
  minutes,
  moment,
  nearDay,
  percent,
  plural,
  relative,
  size,
  time,
} from '../src/parts/format.ts';

const dublin = 'Europe/Dublin';
const at = (iso: string) => Date.parse(iso);
const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

describe('a time of day', () => {
  it('goes from 00:59 to 02:00 on the night the clocks go forward', () => {
    const before = at('2027-03-28T00:59:00Z');
    expect([time(before, dublin), time(before + MINUTE, dublin)]).toEqual(['00:59', '02:00']);
  });

  it('comes twice on the night they go back', () => {
    const first = at('2027-10-31T00:30:00Z');
    expect([time(first, dublin), time(first + HOUR, dublin)]).toEqual(['01:30', '01:30']);
    expect(time(first + 2 * HOUR, dublin)).toBe('02:30');
  });

  it('is 00:00 at midnight, never 24:00', () => {
    expect(moment(at('2027-03-23T00:00:00Z'), dublin)).toBe('Tue 23 Mar 00:00');
  });

  it('is that of the zone, on the day it is there', () => {
    const noon = at('2027-03-22T12:00:00Z');
    expect(moment(noon, 'Pacific/Auckland')).toBe('Tue 23 Mar 01:00');
    expect(moment(noon, 'America/Los_Angeles')).toBe('Mon 22 Mar 05:00');
    expect(moment(noon, 'Asia/Kolkata')).toBe('Mon 22 Mar 17:30');
  });
});

describe('a day', () => {
  it('has its name, and at length its year', () => {
    const sunday = at('2027-03-28T12:00:00Z');
    expect([day(sunday, dublin), longDay(sunday, dublin)]).toEqual(['Sun 28 Mar', 'Sun 28 March 2027']);
  });

  it('is today until midnight there, also where that is another day in UTC', () => {
    const evening = at('2027-07-01T20:00:00Z');
    // 23:30 UTC is half past midnight in Dublin's summer.
    expect(nearDay(at('2027-07-01T23:30:00Z'), evening, dublin)).toBe('tonight');
    expect(nearDay(at('2027-07-01T22:30:00Z'), evening, dublin)).toBe('today');
  });

  it('is tonight until six in the morning, and tomorrow from then on', () => {
    const now = at('2027-03-22T08:00:00Z');
    expect(nearDay(at('2027-03-23T05:59:00Z'), now, dublin)).toBe('tonight');
    expect(nearDay(at('2027-03-23T06:00:00Z'), now, dublin)).toBe('tomorrow');
  });

  it('that has passed has its name', () =>
    expect(nearDay(at('2027-03-21T08:00:00Z'), at('2027-03-22T08:00:00Z'), dublin)).toBe('Sun 21 Mar'));
});

describe('a span from now', () => {
  const now = at('2027-03-22T08:00:00Z');
  it.each([
    [30_000, 'in a minute'],
    [89_999, 'in a minute'],
    [90_000, 'in 2 min'],
    [59 * MINUTE, 'in 59 min'],
    [89 * MINUTE, 'in 89 min'],
    [90 * MINUTE, 'in 2 h'],
    [35 * HOUR, 'in 35 h'],
    [36 * HOUR, 'in 2 days'],
    [-DAY, '24 h ago'],
    [-3 * DAY, '3 days ago'],
    [-45_000, 'a minute ago'],
  ])('of %i ms is %s', (difference, said) => expect(relative(now + difference, now)).toBe(said));
});

describe('a size', () => {
  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1_000, '1.0 kB'],
    [9_949, '9.9 kB'],
    [9_960, '10 kB'],
    [10_000, '10 kB'],
    [999_400, '999 kB'],
    [999_600, '1.0 MB'],
    [71_400_000, '71 MB'],
    [1e9, '1.0 GB'],
    [17_234_567_890, '17 GB'],
    [2.5e12, '2.5 TB'],
    [12_345e12, '12345 TB'],
    [-1_200, '−1.2 kB'],
  ])('of %d bytes is %s', (bytes, said) => expect(size(bytes)).toBe(said));

  it('has one unit, and three digits at most below a thousand terabytes', () => {
    const bytes = fc.integer({ min: -999_000_000_000_000, max: 999_000_000_000_000 });
    const property = fc.property(bytes, (any) => {
      expect(size(any)).toMatch(/^−?(\d\.\d|\d{1,3}) [kMGT]?B$/);
    });
    fc.assert(property);
  });
});

describe('numbers', () => {
  it('have commas, and things their plural', () => {
    expect([count(1_234_567), plural(1, 'host'), plural(0, 'host'), plural(2_000, 'host')]).toEqual([
      '1,234,567',
      '1 host',
      '0 hosts',
      '2,000 hosts',
    ]);
    expect(plural(2, 'person', 'people')).toBe('2 people');
  });

  it('are shares in whole percent, and minutes by the hour', () => {
    expect([percent(0.005), percent(0.4), percent(1)]).toEqual(['1 %', '40 %', '100 %']);
    expect([minutes(0.4), minutes(59.6), minutes(61), minutes(1_440)]).toEqual([
      '0 min',
      '1 h',
      '1 h 1 min',
      '24 h',
    ]);
  });
});
