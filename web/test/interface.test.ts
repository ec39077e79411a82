import { describe, expect, it } from 'vitest';
import type { ForecastAnswer } from '@vatline/contract/rollout';
import { minutes, nearDay, plural, relative, size, time } from '../src/parts/format.ts';
import { cellAt, cellsInView, gridGeometry, moveFocus } from '../src/parts/host-grid-geometry.ts';
import {
  hostsDone,
  hostsThrough,
  seatsOverTime,
  sessionsOverTime,
  tideSpan,
} from '../src/rollouts/tide-series.ts';

const HOUR = 3_600_000;

describe('host grid', () => {
  const grid = gridGeometry(10_000, 700, 12);
  it('lays cells out in rows that fit', () =>
    expect([grid.columns, grid.rows, grid.height]).toEqual([50, 200, 2_799]));
  it('finds the cell under a point, and none in a gap or beyond the last', () => {
    expect(cellAt(grid, 0, 0, 10_000)).toBe(0);
    expect(cellAt(grid, 15, 29, 10_000)).toBe(101);
    expect(cellAt(grid, 13, 0, 10_000)).toBeUndefined();
    expect(cellAt(gridGeometry(3, 700, 12), 50, 0, 3)).toBeUndefined();
  });
  it('draws only what is in view', () =>
    expect(cellsInView(grid, 1_400, 280, 10_000)).toEqual([5_000, 6_000]));
  it('moves by arrows and stays inside', () => {
    expect(moveFocus(grid, 0, 'ArrowDown', 10_000)).toBe(50);
    expect(moveFocus(grid, 0, 'ArrowLeft', 10_000)).toBe(0);
    expect(moveFocus(grid, undefined, 'ArrowRight', 10_000)).toBe(0);
    expect(moveFocus(grid, 5, 'End', 10_000)).toBe(9_999);
    expect(moveFocus(grid, 5, 'x', 10_000)).toBeUndefined();
  });
});

describe('tide chart', () => {
  const spans = [
    { index: 0, start: HOUR, finish: 2 * HOUR, inService: false },
    { index: 1, start: HOUR, finish: 3 * HOUR, inService: false },
  ];
  const answer = {
    spans,
    windows: [{ start: HOUR, end: 4 * HOUR, minutes: 180, clockChange: 0 }],
    hosts: 2,
    progress: [
      { p10: 2 * HOUR, p50: 2 * HOUR, p90: 2.5 * HOUR },
      { p10: 2.5 * HOUR, p50: 3 * HOUR, p90: 6 * HOUR },
    ],
    seats: { perHost: 10, poolHosts: 3, expected: [] },
  } as unknown as ForecastAnswer;
  it('counts hosts up as they are done and takes their seats away meanwhile', () => {
    expect(hostsDone(answer, 1, 0, 5 * HOUR).map((p) => p.y)).toEqual([1, 2, 3, 3]);
    expect(seatsOverTime(answer, 0, 5 * HOUR).map((p) => p.y)).toEqual([30, 20, 10, 20, 30, 30]);
    // To the last host in 9 of 10 runs, though the median run is done before the window closes.
    expect(tideSpan(answer)).toEqual([-0.5 * HOUR, 7.5 * HOUR]);
  });
  it('takes no seats of hosts that stay in service', () => {
    const serving = {
      ...answer,
      spans: spans.map((span) => ({ ...span, inService: true })),
    } as ForecastAnswer;
    expect(seatsOverTime(serving, 0, 5 * HOUR).map((p) => p.y)).toEqual([30, 30]);
  });
  it('shows what is done in a few minutes of a long window as long as it matters', () => {
    const short = {
      ...answer,
      spans: [{ ...spans[0], finish: 1.2 * HOUR }],
      windows: [{ ...answer.windows[0], end: 13 * HOUR }],
      progress: [{ p10: 1.2 * HOUR, p50: 1.2 * HOUR, p90: 1.25 * HOUR }],
    } as unknown as ForecastAnswer;
    // A quarter of an hour of work: an hour of the window, and half an hour on each side.
    expect(tideSpan(short)).toEqual([0.5 * HOUR, 2.5 * HOUR]);
  });
  it('has an early and a late edge; runs that never come so far have none there', () => {
    const edge = (which: 'p10' | 'p90', one = answer) =>
      hostsThrough(one, which, 1, 0).map(({ x, y }) => [x / HOUR, y]);
    expect(edge('p10')).toEqual([
      [0, 1],
      [2, 2],
      [2.5, 3],
    ]);
    const never = { ...answer, progress: answer.progress.with(1, { p10: 3, p50: null, p90: null }) };
    expect(edge('p90', never)).toEqual([
      [0, 1],
      [2.5, 2],
    ]);
  });
  it('draws straight lines between the hours', () => {
    const expected = Array.from({ length: 24 }, (_, hour) => hour * 10);
    expect(sessionsOverTime(expected, HOUR, 2 * HOUR, (at) => at / 60_000).map((p) => p.y)).toEqual([
      10, 12.5, 15, 17.5, 20,
    ]);
  });
});

describe('wording', () => {
  const zone = 'Europe/Dublin';
  const now = Date.parse('2027-03-22T08:00:00Z');
  it('sizes by 1,000', () =>
    expect([size(999), size(71_400_000), size(-3_800_000_000), size(1_234)]).toEqual([
      '999 B',
      '71 MB',
      '−3.8 GB',
      '1.2 kB',
    ]));
  it('minutes, counts', () => {
    expect([minutes(12.4), minutes(60), minutes(130)]).toEqual(['12 min', '1 h', '2 h 10 min']);
    expect([plural(1, 'host'), plural(1_200, 'host')]).toEqual(['1 host', '1,200 hosts']);
  });
  it('days as they are called', () => {
    expect(nearDay(Date.parse('2027-03-22T20:00:00Z'), now, zone)).toBe('today');
    expect(nearDay(Date.parse('2027-03-23T01:00:00Z'), now, zone)).toBe('tonight');
    expect(nearDay(Date.parse('2027-03-23T12:00:00Z'), now, zone)).toBe('tomorrow');
    // C15: on the night before the clocks change, in both directions; that Sunday has 23 and 25 hours.
    const saturday = Date.parse('2027-03-27T23:30:00Z');
    expect(nearDay(Date.parse('2027-03-28T11:00:00Z'), saturday, zone)).toBe('tomorrow');
    expect(nearDay(Date.parse('2027-03-28T03:00:00Z'), saturday, zone)).toBe('tonight');
    expect(nearDay(Date.parse('2027-03-28T23:30:00Z'), saturday, zone)).toBe('Mon 29 Mar');
    const october = Date.parse('2027-10-30T22:30:00Z');
    expect(nearDay(Date.parse('2027-10-31T23:30:00Z'), october, zone)).toBe('tomorrow');
    expect(nearDay(Date.parse('2027-11-01T00:30:00Z'), october, zone)).toBe('Mon 1 Nov');
    expect(nearDay(Date.parse('2027-03-28T02:00:00Z'), now, zone)).toBe('Sun 28 Mar');
    expect(time(Date.parse('2027-03-28T02:00:00Z'), zone)).toBe('03:00');
    expect(relative(now - 3 * 24 * HOUR, now)).toBe('3 days ago');
  });
});
