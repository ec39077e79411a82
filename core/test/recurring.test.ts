import { describe, expect, it } from 'vitest';
import { wavesEnd } from '../src/rollout/usual-work.ts';
import { recurringMove, type RecurringSituation } from '../src/rollout/recurring.ts';

const version = (number: number) => ({ id: `v${number}`, number, dye: 'indigo' }) as const;
const situation: RecurringSituation = {
  takes: 'newest approved',
  current: version(14),
  newest: version(15),
  isBusy: false,
};

describe('a rollout that comes again', () => {
  it('brings the newest approved version, or makes hosts anew with what they run', () => {
    expect(recurringMove(situation)).toEqual({ do: 'begin', version: version(15), isRemake: false });
    expect(recurringMove({ ...situation, takes: 'made anew' })).toEqual({
      do: 'begin',
      version: version(14),
      isRemake: true,
    });
    // Made anew whatever is approved.
    expect(recurringMove({ ...situation, takes: 'made anew', newest: null }).do).toBe('begin');
  });

  it.each<[Partial<RecurringSituation>, string]>([
    [{ current: null }, 'the pool has no hosts yet'],
    [{ isBusy: true }, 'a rollout of the pool is under way'],
    [{ isBusy: true, takes: 'made anew' }, 'a rollout of the pool is under way'],
    [{ newest: null }, 'no version of its line is approved'],
    [{ newest: version(14) }, 'version 14 is the newest that is approved, and the pool runs 14'],
    [{ newest: version(13) }, 'version 13 is the newest that is approved, and the pool runs 14'],
  ])('begins nothing: %o', (change, why) =>
    expect(recurringMove({ ...situation, ...change })).toEqual({ do: 'leave', why }),
  );
});

describe('the waves of a rollout', () => {
  it.each([
    [24, 8, 40, 120],
    [25, 8, 40, 160],
    [1, 8, 40, 40],
    [0, 8, 40, 0],
  ])('of %i hosts, %i at a time of %i min each, end after %i min', (hosts, batch, hostMinutes, minutes) =>
    expect(wavesEnd(1_000, { hosts, batch, hostMinutes })).toBe(1_000 + minutes * 60_000),
  );
});
