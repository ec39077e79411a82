import { describe, expect, it } from 'vitest';
import type { Planned } from '@vatline/contract/planned';
import { planInWords, monthName } from '../src/rollouts/calendar/calendar-in-words.ts';
import { collisionInWords } from '../src/rollouts/calendar/collisions-in-words.ts';
import { dayNotes } from '../src/rollouts/calendar/day-notes.tsx';
import { plannedMoved, scheduleMoved } from '../src/rollouts/calendar/moved-planned.ts';

const zone = 'Europe/Dublin';
const sunday = Date.UTC(2027, 2, 28, 1);

function planned(change: Partial<Planned> = {}): Planned {
  return {
    id: 'one',
    kind: 'rollout',
    of: 'rollout-1',
    partOf: null,
    label: 'desk-staff',
    poolId: 'desk',
    lineId: 'staff',
    start: sunday,
    end: sunday + 10_800_000,
    worksUntil: sunday + 7_200_000,
    isEnough: true,
    loads: [],
    hosts: 24,
    batch: 8,
    version: { dye: 'indigo', number: 15 },
    isOver: false,
    to: '/rollouts/rollout-1',
    moves: 'rollout',
    fixed: '',
    place: null,
    ...change,
  };
}
const cut = planned({ kind: 'cut', of: 'cut-1', label: 'cut Staff', hosts: null, version: null });
const after = planned({ kind: 'after a cut', of: 'after-1', version: null, place: 1 });

describe('what a calendar comes to', () => {
  const say = (list: Planned[], collisions = 0, view: 'month' | 'week' | 'list' = 'list') =>
    planInWords(list, collisions, view, { year: 2027, month: 3, day: 22 });

  it('counts rollouts and cuts once, however many windows they have', () => {
    expect(say([planned(), planned({ id: 'two' }), cut, after])).toBe(
      '2 rollouts and 1 cut to come, nothing collides.',
    );
    expect(say([planned()], 1, 'week')).toBe('1 rollout to come, 1 collision.');
    expect(say([cut], 2, 'month')).toBe('1 cut to come, 2 collisions.');
  });

  it('says so where nothing is planned, or all is over', () => {
    expect(say([])).toBe('Nothing is planned for March.');
    expect(say([], 0, 'week')).toBe('Nothing is planned for the week from 22 March.');
    expect(say([planned({ isOver: true })])).toBe('Nothing is left to come in March.');
    expect(monthName({ year: 2027, month: 12, day: 1 })).toBe('December 2027');
  });
});

describe('a collision', () => {
  const all = [planned(), cut, after];

  it('on one pool says which two, and that the second waits', () => {
    const words = collisionInWords(
      { kind: 'one pool', of: ['rollout-1', 'after-1'], at: sunday, until: sunday },
      all,
      zone,
    );
    expect(words.title).toBe(
      'desk-staff to version 15 and desk-staff after its cut are planned for the same time',
    );
    expect(words.detail).toMatch(/^From Sun 28 Mar 02:00\..*the second waits/);
  });

  it('on a datastore says how much is asked of it, and how much it has', () => {
    const of = ['rollout-1', 'after-1', 'cut-1', 'other'];
    const words = collisionInWords(
      {
        kind: 'datastore',
        of,
        at: sunday,
        until: sunday + 3_600_000,
        store: 'hall, fast',
        operations: 12_000,
        free: 9_500,
      },
      all,
      zone,
    );
    expect(words.title).toMatch(/the cut of Staff and 1 more start hosts on hall, fast together$/);
    expect(words.detail).toContain(
      'until 03:00 up to 12,000 operations a second are asked of it, and it has 9,500 left',
    );
  });

  it('with a cut says what is behind, and what never gets done', () => {
    const behind = { kind: 'behind a cut', of: ['cut-1', 'rollout-1'], at: sunday } as const;
    expect(collisionInWords(behind, all, zone).title).toBe(
      'desk-staff to version 15 comes after the cut of Staff',
    );
    const late = { kind: 'next cut', of: ['after-1'], at: sunday } as const;
    expect(collisionInWords(late, all, zone).title).toBe(
      'desk-staff after its cut is not done before the next cut',
    );
  });
});

it('days are noted by the local date: closed ones with whose they are, and clocks', () => {
  const notes = dayNotes(
    {
      closed: [{ date: '2027-03-28', calendars: ['Libraries', 'Exams'] }],
      clockChanges: [{ at: sunday, minutes: 60 }],
    },
    zone,
  );
  expect(notes.get('2027-03-28')?.map(({ text }) => text)).toEqual([
    'closed: Libraries, Exams',
    'clocks go forward',
  ]);
});

describe('what is moved', () => {
  it('takes all windows of the same rule along, and nothing else', () => {
    const second = planned({ id: 'two', start: sunday + 604_800_000 });
    const past = planned({ id: 'past', isOver: true });
    const other = planned({ id: 'other', of: 'rollout-2' });
    const moved = plannedMoved([planned(), second, past, other], planned(), { days: -1, minutes: 30 });
    const by = -86_400_000 + 1_800_000;
    expect(moved.map((one) => one.start)).toEqual([sunday + by, second.start + by, sunday, sunday]);
    expect(moved[0]?.worksUntil).toBe(sunday + 7_200_000 + by);
  });

  const schedule = {
    rule: 'FREQ=WEEKLY;BYDAY=SA',
    at: '02:00',
    zone,
    takeUpdates: true,
    onlyIfChanged: true,
    leaveRunning: false,
    waitHours: 12,
    rollouts: ['pilot', 'desk'].map((poolId) => ({
      poolId,
      window: { rule: 'FREQ=WEEKLY;BYDAY=SU', start: '02:00', end: '05:00' },
      batch: 4,
      maxUnavailable: 4,
      drainLimitMinutes: 15,
      reserve: null,
    })),
  };

  it('of a schedule is its cut, or the one rollout', () => {
    const byCut = scheduleMoved(schedule, { place: null }, { days: -1, minutes: -60 });
    expect(byCut.ok && [byCut.value.rule, byCut.value.at]).toEqual(['FREQ=WEEKLY;BYDAY=FR', '01:00']);
    const byRollout = scheduleMoved(schedule, { place: 1 }, { days: 1, minutes: 0 });
    expect(byRollout.ok && byRollout.value.rollouts.map(({ window }) => window.rule)).toEqual([
      'FREQ=WEEKLY;BYDAY=SU',
      'FREQ=WEEKLY;BYDAY=MO',
    ]);
    expect(scheduleMoved(schedule, { place: 7 }, { days: 1, minutes: 0 }).ok).toBe(false);
  });
});
