/** Rollouts that come again, as people read them. */
import { describe, expect, it } from 'vitest';
import type { Recurring } from '@vatline/contract/recurring';
import { nextInWords, recurringInWords } from '../src/rollouts/recurring/recurring-in-words.ts';
import { usualPlan } from './components/usual-plan.ts';

const kept: Recurring = {
  poolId: 'p1',
  pool: 'desks',
  takes: 'newest approved',
  plan: usualPlan,
  revision: 1,
  keptAt: 0,
  by: 'engineer',
  next: [{ start: Date.UTC(2027, 2, 28, 1), end: Date.UTC(2027, 2, 28, 4) }],
  brings: null,
  why: 'no version of its line is approved',
  last: null,
};

describe('a rollout that comes again', () => {
  it('says when, how fast and what', () => {
    expect(recurringInWords('newest approved', usualPlan)).toBe(
      'Every day, 01:00 to 05:00, 4 at a time: the newest approved version.',
    );
    expect(recurringInWords('made anew', { ...usualPlan, batch: 8 })).toBe(
      'Every day, 01:00 to 05:00, 8 at a time: hosts made anew.',
    );
  });

  it.each<[Partial<Recurring>, string]>([
    [{}, 'Next Sun 28 Mar 02:00; as things are it begins nothing: no version of its line is approved.'],
    [
      { brings: { number: 15, dye: 'indigo', isRemake: false }, why: '' },
      'Next Sun 28 Mar 02:00; as things are it brings version 15.',
    ],
    [{ brings: { number: 14, dye: 'indigo', isRemake: true }, why: '' }, 'Next Sun 28 Mar 02:00.'],
    [{ next: [] }, 'No window comes any more.'],
  ])('%#', (change, says) => expect(nextInWords({ ...kept, ...change }, 'Europe/Dublin')).toBe(says));
});
