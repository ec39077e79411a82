import { describe, expect, it } from 'vitest';
import { planChanges, underWayRefusal, type RunningPlan, type UnderWay } from '../src/rollout/plan-change.ts';
import { nextMove, standingAfter, type RolloutSituation } from '../src/rollout/next-move.ts';

const plan: RunningPlan = {
  window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
  calendarIds: ['a', 'b'],
  batch: 4,
  maxUnavailable: 6,
  drainLimitMinutes: 25,
  reserve: 0.1,
  stop: null,
  notice: null,
};

describe('a change of a plan under way', () => {
  it('says each thing that is another', () => {
    expect(planChanges(plan, plan)).toEqual([]);
    expect(planChanges(plan, { ...plan, calendarIds: ['b', 'a'] })).toEqual([]);
    expect(
      planChanges(plan, {
        window: { rule: 'FREQ=WEEKLY;BYDAY=SU', start: '00:00', end: '06:00' },
        calendarIds: ['a'],
        batch: 8,
        maxUnavailable: 8,
        drainLimitMinutes: 10,
        reserve: null,
        stop: { failures: 3, share: 0.1, after: 20 },
        notice: { text: 'Save your work', minutesBefore: 15 },
      }),
    ).toEqual([
      'hosts at a time 4 → 8',
      'at most out of service 6 → 8',
      'window 01:00 to 05:00 → 00:00 to 06:00',
      'nights every day → on Sunday',
      'wait for sessions 25 min → 10 min',
      'seats kept 10 % → none',
      'paused by itself never → at 3 failures, or above 10 % once 20 are through',
      'people are told nothing → as hosts drain, and 15 min before',
      'other calendars of closed days',
    ]);
  });

  it('of what people are told says so, also where only the text is another', () => {
    const told = { ...plan, notice: { text: 'Save your work', minutesBefore: 0 } };
    expect(planChanges(told, { ...told, notice: { ...told.notice, text: 'Save it' } })).toEqual([
      'another text for people',
    ]);
    expect(planChanges(told, { ...told, notice: { ...told.notice, minutesBefore: 5 } })).toEqual([
      'people are told as hosts drain → as hosts drain, and 5 min before',
    ]);
  });

  const running = { hasEnded: false, isStopped: false, isPaused: false };
  it.each<[string, typeof running, UnderWay, RegExp | undefined]>([
    ['running', running, 'change', undefined],
    ['running', running, 'pause', undefined],
    ['running', running, 'go on', /not paused/],
    ['paused', { ...running, isPaused: true }, 'change', undefined],
    ['paused', { ...running, isPaused: true }, 'pause', /paused already/],
    ['paused', { ...running, isPaused: true }, 'go on', undefined],
    ['stopped', { ...running, isStopped: true }, 'change', /was stopped/],
    ['ended', { ...running, hasEnded: true }, 'go on', /has ended/],
  ])('of a rollout that is %s %o: %s', (_what, rollout, what, reason) => {
    const refusal = underWayRefusal(rollout, what);
    if (reason) expect(refusal).toMatch(reason);
    else expect(refusal).toBeUndefined();
  });
});

describe('a rollout that is paused', () => {
  const situation: RolloutSituation = {
    isStopped: false,
    isPaused: true,
    now: 10,
    window: { start: 0, end: 100, minutes: 1, clockChange: 0 },
    batch: 4,
    waiting: 3,
    atWork: 2,
    failed: 0,
  };

  it('starts no host, in an open window or not, and is woken by nothing but a person', () => {
    expect(nextMove(situation)).toEqual({ do: 'wait', held: undefined });
    expect(standingAfter(situation, 0, undefined)).toEqual({ state: 'at work', wakeAt: undefined });
    expect(standingAfter({ ...situation, atWork: 0 }, 0, undefined)).toEqual({
      state: 'asleep',
      wakeAt: undefined,
    });
  });

  it('ends all the same when nothing is left', () => {
    expect(nextMove({ ...situation, waiting: 0, atWork: 0 })).toEqual({ do: 'end' });
  });
});
