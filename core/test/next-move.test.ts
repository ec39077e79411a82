/** What a rollout does next: situations by hand. */
import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { nextMove, standingAfter, type RolloutSituation } from '../src/rollout/next-move.ts';
import { MINUTE } from '../src/time/instant.ts';

const night = { start: 100 * MINUTE, end: 340 * MINUTE, minutes: 240, clockChange: 0 };
const open: RolloutSituation = {
  isStopped: false,
  isPaused: false,
  now: 120 * MINUTE,
  window: night,
  batch: 10,
  waiting: 30,
  atWork: 4,
  failed: 0,
};
const before = { ...open, now: 60 * MINUTE };

describe('the next move', () => {
  it.each<[string, Partial<RolloutSituation>, ReturnType<typeof nextMove>]>([
    ['in its window starts what the batch has room for', {}, { do: 'start', atMost: 6 }],
    ['with a full batch waits', { atWork: 10 }, { do: 'wait', held: 'batch' }],
    ['with a batch that was made smaller waits', { atWork: 12 }, { do: 'wait', held: 'batch' }],
    ['before its window waits', { now: before.now }, { do: 'wait', held: undefined }],
    ['on the first instant of its window starts', { now: night.start }, { do: 'start', atMost: 6 }],
    ['with no window to come waits', { window: undefined }, { do: 'wait', held: undefined }],
    ['with the last hosts at work waits for them', { waiting: 0 }, { do: 'wait', held: undefined }],
    ['with nothing left ends', { waiting: 0, atWork: 0 }, { do: 'end' }],
    [
      'with a failed host left does not end',
      { waiting: 0, atWork: 0, failed: 1 },
      { do: 'wait', held: undefined },
    ],
    ['stopped finishes the hosts at work', { isStopped: true }, { do: 'finish hosts' }],
    [
      'stopped with none at work ends, whatever waits',
      { isStopped: true, atWork: 0, failed: 3 },
      { do: 'end' },
    ],
  ])('%s', (_what, change, move) => expect(nextMove({ ...open, ...change })).toEqual(move));
});

describe('how it stands then', () => {
  it('at work until the window ends, when the batch holds the rest back', () =>
    expect(standingAfter(open, 6, 'batch')).toEqual({ state: 'at work', wakeAt: night.end }));

  it('looks at seats again after a quarter of an hour, at the latest at the end of the window', () => {
    expect(standingAfter(open, 0, 'seats').wakeAt).toBe(135 * MINUTE);
    expect(standingAfter({ ...open, now: 330 * MINUTE }, 0, 'max unavailable').wakeAt).toBe(night.end);
  });

  it('asleep before its window, and wakes when that opens', () =>
    expect(standingAfter({ ...before, atWork: 0 }, 0, undefined)).toEqual({
      state: 'asleep',
      wakeAt: night.start,
    }));

  it('asleep in a window that is too short for any host by now, until the next', () =>
    expect(standingAfter({ ...open, atWork: 0 }, 0, 'window')).toEqual({
      state: 'asleep',
      wakeAt: night.end,
    }));

  it('at work while hosts are, also beyond the window', () =>
    expect(standingAfter({ ...before, atWork: 1 }, 0, undefined).state).toBe('at work'));

  it('needs no alarm once the last host was started', () =>
    expect(standingAfter({ ...open, waiting: 6 }, 6, undefined)).toEqual({
      state: 'at work',
      wakeAt: undefined,
    }));

  it('needs none where only a person can go on', () =>
    expect(standingAfter({ ...open, waiting: 0, atWork: 0, failed: 2 }, 0, undefined)).toEqual({
      state: 'asleep',
      wakeAt: undefined,
    }));

  it('never wakes in the past, and always while hosts wait and a window comes', () => {
    const any = fc.record({
      isStopped: fc.constant(false),
      now: fc.integer({ min: 0, max: 340 * MINUTE - 1 }),
      isPaused: fc.constant(false),
      window: fc.constant(night),
      batch: fc.integer({ min: 1, max: 20 }),
      waiting: fc.nat(40),
      atWork: fc.nat(20),
      failed: fc.nat(5),
    });
    const held = fc.constantFrom('window', 'batch', 'max unavailable', 'seats', undefined);
    const property = fc.property(any, held, (situation, why) => {
      const move = nextMove(situation);
      if (move.do === 'end' || move.do === 'finish hosts') return;
      const started = move.do === 'start' ? Math.min(move.atMost, situation.waiting) : 0;
      const { wakeAt } = standingAfter(situation, started, why);
      expect(wakeAt === undefined).toBe(situation.waiting === started);
      if (wakeAt !== undefined) expect(wakeAt).toBeGreaterThan(situation.now);
    });
    fc.assert(property);
  });
});
