import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { must } from '../src/result.ts';
import { listWindows, openOrNextWindow } from '../src/time/windows.ts';
import { closedDays } from '../src/time/closed-days.ts';
import { formatInstant, parseInstant } from '../src/time/instant.ts';

const at = (text: string) => parseInstant(text) as number;
const nightly = { rule: 'FREQ=DAILY', start: '01:00', end: '05:00', zone: 'Europe/Dublin' };
const show = (w: { start: number; end: number; minutes: number }) => [
  formatInstant(w.start),
  formatInstant(w.end),
  w.minutes,
];

describe('windows', () => {
  it('lasts three hours on the night clocks go forward, over the start', () => {
    const list = must(listWindows(nightly, at('2027-03-26T08:00:00Z'), 3));
    expect(list.map(show)).toEqual([
      ['2027-03-27T01:00:00Z', '2027-03-27T05:00:00Z', 240],
      ['2027-03-28T01:00:00Z', '2027-03-28T04:00:00Z', 180],
      ['2027-03-29T00:00:00Z', '2027-03-29T04:00:00Z', 240],
    ]);
    expect(list.map((w) => w.clockChange)).toEqual([0, -60, 0]);
  });

  it('lasts an hour more on the night clocks go back', () => {
    // 31 October 2027: 02:00 summer time becomes 01:00. 01:00 exists twice; a start is the first.
    const [night] = must(listWindows(nightly, at('2027-10-30T20:00:00Z'), 1));
    expect(night && show(night)).toEqual(['2027-10-31T00:00:00Z', '2027-10-31T05:00:00Z', 300]);
  });

  it('ends at the second occurrence of a time that exists twice', () => {
    const rule = { ...nightly, start: '23:00', end: '01:30' };
    const [night] = must(listWindows(rule, at('2027-10-30T12:00:00Z'), 1));
    expect(night && show(night)).toEqual(['2027-10-30T22:00:00Z', '2027-10-31T01:30:00Z', 210]);
  });

  it('lists a window that a clock change swallows with 0 minutes and never opens it', () => {
    const rule = { ...nightly, end: '02:00' };
    const list = must(listWindows(rule, at('2027-03-27T08:00:00Z'), 2));
    expect(list.map((w) => w.minutes)).toEqual([0, 60]);
    const next = must(openOrNextWindow(rule, at('2027-03-27T08:00:00Z'), at('2027-03-28T00:30:00Z')));
    expect(formatInstant(next?.start ?? 0)).toBe('2027-03-29T00:00:00Z');
  });

  it('runs over midnight when the end is not after the start', () => {
    const rule = { rule: 'FREQ=WEEKLY;BYDAY=SA', start: '22:00', end: '04:00', zone: 'UTC' };
    const [first] = must(listWindows(rule, at('2027-03-22T08:00:00Z'), 1));
    expect(first && show(first)).toEqual(['2027-03-27T22:00:00Z', '2027-03-28T04:00:00Z', 360]);
  });

  it('skips closed days', () => {
    const ics = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'BEGIN:VEVENT',
      'UID:1@wrenfield.example',
      'DTSTART;VALUE=DATE:20270323',
      'DTEND;VALUE=DATE:20270325',
      'SUMMARY:Stocktaking',
      'END:VEVENT',
      'END:VCALENDAR',
    ].join('\r\n');
    const closed = must(closedDays(ics, 'Europe/Dublin', at('2027-03-22T08:00:00Z')));
    expect([...closed.dates]).toEqual(['2027-03-23', '2027-03-24']);
    const [first] = must(listWindows({ ...nightly, closed }, at('2027-03-22T08:00:00Z'), 1));
    expect(first && formatInstant(first.start)).toBe('2027-03-25T01:00:00Z');
  });

  it('refuses what cannot be a window, each at its field', () => {
    const faults = (rule: Partial<typeof nightly>) => {
      const result = listWindows({ ...nightly, ...rule }, 0, 1);
      return result.ok ? [] : result.error.map((f) => f.path);
    };
    expect(faults({ end: '01:00' })).toEqual(['end']);
    expect(faults({ start: '25:00' })).toEqual(['start']);
    expect(faults({ zone: 'Europe/Nowhere' })).toEqual(['zone']);
    expect(faults({ rule: 'FREQ=SOMETIMES' })).toEqual(['rule']);
    expect(faults({ rule: 'FREQ=HOURLY' })).toEqual(['rule']);
    expect(faults({ rule: '' })).toEqual(['rule']);
  });

  it('ends when the rule ends', () => {
    const list = must(listWindows({ ...nightly, rule: 'FREQ=DAILY;COUNT=2' }, at('2027-03-22T00:00:00Z'), 9));
    expect(list).toHaveLength(2);
  });

  it('never has a negative length, never overlaps and stays in order, wherever and whenever', () => {
    const zones = ['Europe/Dublin', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'UTC'];
    const time = fc
      .tuple(fc.nat(23), fc.nat(59))
      .map(([h, m]) => `${String(h).padStart(2, '0')}:${String(m).padStart(2, '0')}`);
    const property = fc.property(
      fc.constantFrom(...zones),
      time,
      time,
      fc.nat(600),
      (zone, start, end, day) => {
        fc.pre(start !== end);
        const from = at('2027-01-01T00:00:00Z') + day * 86_400_000;
        const list = must(listWindows({ rule: 'FREQ=DAILY', start, end, zone }, from, 5));
        for (const [i, w] of list.entries()) {
          expect(w.minutes).toBeGreaterThanOrEqual(0);
          expect(w.start).toBeGreaterThanOrEqual(from);
          expect(Math.abs(w.clockChange)).toBeLessThanOrEqual(120);
          const next = list[i + 1];
          if (next) expect(next.start).toBeGreaterThan(w.start);
        }
      },
    );
    fc.assert(property, { numRuns: 150 });
  });
});
