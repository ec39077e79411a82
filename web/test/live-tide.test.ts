import { describe, expect, it } from 'vitest';
import type { RolloutProgress } from '@vatline/contract/rollout-progress';
import { LiveAxis } from '../src/rollouts/live-axis.ts';
import { liveSeries, paceInWords } from '../src/rollouts/live-series.ts';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
/** Two nights from 01:00 to 05:00. */
const nights = [1, 2].map((day) => ({ start: day * DAY + HOUR, end: day * DAY + 5 * HOUR }));

describe('the axis of a rollout', () => {
  const axis = new LiveAxis(nights, []);

  it('has its windows one behind the other, and the day between cut out', () => {
    expect(axis.length).toBe(8 * HOUR);
    expect(axis.at(DAY + 2 * HOUR)).toBe(HOUR);
    expect(axis.at(2 * DAY + 2 * HOUR)).toBe(5 * HOUR);
    expect(axis.joints.map(({ value }) => value)).toEqual([0, 4 * HOUR]);
  });

  it('puts what lies between at the joint, and what lies outside at its ends', () => {
    expect(axis.at(DAY + 12 * HOUR)).toBe(4 * HOUR);
    expect(axis.at(0)).toBe(0);
    expect(axis.at(9 * DAY)).toBe(8 * HOUR);
  });

  it('tells the instant of every place, at a joint that of the later window', () => {
    for (const at of [DAY + HOUR, DAY + 3 * HOUR, 2 * DAY + HOUR, 2 * DAY + 4 * HOUR])
      expect(axis.instantAt(axis.at(at))).toBe(at);
  });

  it('shows a moment outside all windows with a quarter of an hour around it', () => {
    const wider = new LiveAxis(nights, [DAY + 12 * HOUR, DAY + 12 * HOUR + 10 * MINUTE]);
    expect(wider.length).toBe(8 * HOUR + 40 * MINUTE);
    expect(wider.at(DAY + 12 * HOUR)).toBe(4 * HOUR + 15 * MINUTE);
  });
});

const progress: RolloutProgress = {
  hosts: 4,
  done: 1,
  steps: [{ at: DAY + 2 * HOUR, done: 1 }],
  promised: [2, 4].map((hour) => ({
    p10: DAY + (hour - 0.5) * HOUR,
    p50: DAY + hour * HOUR,
    p90: DAY + (hour + 0.5) * HOUR,
  })),
  rest: { hosts: 3, marks: [{ p10: DAY + 4 * HOUR, p50: DAY + 4.5 * HOUR, p90: 2 * DAY + 2 * HOUR }] },
  windows: nights,
};

describe('what the live chart draws', () => {
  it('is what is done up to now, what was promised from nothing, and what is left from here', () => {
    const series = liveSeries(progress, DAY + 3 * HOUR);
    expect(series?.done).toEqual([
      { x: 0, y: 0 },
      { x: HOUR, y: 1 },
      { x: 2 * HOUR, y: 1 },
    ]);
    expect(series?.promised.p90).toEqual([
      { x: 0, y: 0 },
      { x: 1.5 * HOUR, y: 2 },
      { x: 3.5 * HOUR, y: 4 },
    ]);
    expect(series?.rest.p90).toEqual([
      { x: 2 * HOUR, y: 1 },
      { x: 5 * HOUR, y: 4 },
    ]);
  });

  it('is nothing where nothing is known', () => {
    expect(liveSeries({ ...progress, steps: [], promised: null, rest: null }, DAY)).toBeUndefined();
  });

  it('says whether it is ahead or behind, with what was forecast for now', () => {
    expect(paceInWords(progress, DAY + 3 * HOUR)).toBe(
      '1 done; forecast at its start for now: 2 to 3, so it is behind',
    );
    expect(paceInWords({ ...progress, done: 3 }, DAY + 3 * HOUR)).toBe(
      '3 done; forecast at its start for now: 2 to 3',
    );
    expect(paceInWords({ ...progress, done: 4 }, DAY + 3 * HOUR)).toMatch(/so it is ahead$/);
    expect(paceInWords({ ...progress, promised: null }, DAY)).toBeUndefined();
  });
});
