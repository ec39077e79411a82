import { describe, expect, it } from 'vitest';
import { movedWindow } from '../src/rollout/calendar/moved-window.ts';
import { clockChanges } from '../src/time/clock-changes.ts';
import { listWindows } from '../src/time/windows.ts';
import { must } from '../src/result.ts';
import { DAY, HOUR } from '../src/time/instant.ts';

const sunday = { rule: 'FREQ=WEEKLY;BYDAY=SU', start: '01:00', end: '05:00' };
const moved = (window: typeof sunday, days: number, minutes = 0) => movedWindow(window, { days, minutes });
const refusal = (window: typeof sunday, days: number, minutes = 0) => {
  const result = moved(window, days, minutes);
  return result.ok ? 'moved' : result.error[0]?.message;
};

describe('a window that is moved', () => {
  it('comes on another day of the week, around its end as well', () => {
    expect(must(moved(sunday, 2))).toEqual({ ...sunday, rule: 'FREQ=WEEKLY;BYDAY=TU' });
    expect(must(moved(sunday, -1)).rule).toBe('FREQ=WEEKLY;BYDAY=SA');
    expect(must(moved({ ...sunday, rule: 'FREQ=WEEKLY;BYDAY=FR,SA' }, 2)).rule).toBe(
      'FREQ=WEEKLY;BYDAY=SU,MO',
    );
  });

  it('comes at another time of day, past midnight on another day', () => {
    expect(must(moved(sunday, 0, 90))).toEqual({ ...sunday, start: '02:30', end: '06:30' });
    expect(must(moved(sunday, 0, -120))).toEqual({
      rule: 'FREQ=WEEKLY;BYDAY=SA',
      start: '23:00',
      end: '03:00',
    });
  });

  it('leaves a rule as it was written where only the time moves, whatever rule that is', () => {
    const third = { ...sunday, rule: 'FREQ=MONTHLY;BYDAY=3SU' };
    expect(must(moved(third, 0, 60)).rule).toBe(third.rule);
  });

  it('has no other day where every day is meant, nor where the rule is of another kind', () => {
    expect(refusal({ ...sunday, rule: 'FREQ=DAILY' }, 1)).toBe(
      'it is on every day; only its time of day can be moved',
    );
    for (const rule of [
      'FREQ=MONTHLY;BYDAY=3SU',
      'FREQ=WEEKLY;INTERVAL=2;BYDAY=SU',
      'FREQ=WEEKLY;BYDAY=SU;UNTIL=20271231',
      'FREQ=DAILY;BYDAY=MO,TU',
      'FREQ=WEEKLY',
    ])
      expect(refusal({ ...sunday, rule }, 1), rule).toMatch(/^no other day means the same/);
    expect(refusal(sunday, 7)).toMatch(/less than seven days/);
    expect(refusal({ ...sunday, rule: 'FREQ=HOURLY' }, 1)).toMatch(/must be DAILY/);
  });

  it('finds each of its windows so much later, clocks unchanged', () => {
    const from = Date.UTC(2027, 4, 3);
    const zone = 'Europe/Dublin';
    const before = must(listWindows({ ...sunday, zone }, from, 5));
    const after = must(listWindows({ ...must(moved(sunday, -2, 75)), zone }, from, 5));
    const by = 75 * 60_000 - 2 * DAY;
    expect(after.map(({ start, end }) => [start, end])).toEqual(
      before.map(({ start, end }) => [start + by, end + by]),
    );
  });
});

describe('changes of clocks', () => {
  it('are found to the minute, with which way they go', () => {
    const found = clockChanges('Europe/Dublin', Date.UTC(2027, 0, 1), Date.UTC(2028, 0, 1));
    expect(found).toEqual([
      { at: Date.UTC(2027, 2, 28, 1), minutes: 60 },
      { at: Date.UTC(2027, 9, 31, 1), minutes: -60 },
    ]);
  });

  it('are found whatever minute the stretch begins at, and of half an hour as well', () => {
    const change = Date.UTC(2027, 3, 3, 15);
    const found = clockChanges('Australia/Lord_Howe', change - 100 * HOUR + 7 * 60_000, change + DAY);
    expect(found).toEqual([{ at: change, minutes: -30 }]);
  });

  it('are none where there are none, and none before or after the stretch', () => {
    expect(clockChanges('UTC', 0, 400 * DAY)).toEqual([]);
    const at = Date.UTC(2027, 2, 28, 1);
    expect(clockChanges('Europe/Dublin', at, at + DAY)).toEqual([]);
    expect(clockChanges('Europe/Dublin', at - DAY, at - HOUR)).toEqual([]);
  });
});
