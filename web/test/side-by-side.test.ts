/** Plans side by side, weighed in a sentence. */
import { describe, expect, it } from 'vitest';
import { bestInWords, type PlanOutcome } from '../src/rollouts/plans/side-by-side-words.ts';

const plan = (name: string, p90: number | null, seats: number): PlanOutcome => ({
  name,
  answer: {
    finish: { p10: p90, p50: p90, p90 },
    minSeatsLeft: { p10: seats, p50: seats, p90: seats },
  },
});
const refused = { name: 'old', answer: undefined };

describe('plans side by side', () => {
  it.each<[PlanOutcome[], string]>([
    [[refused], 'Working out what each comes to'],
    [[plan('a', 10, 5), plan('b', 20, 50)], '“a” is done first; “b” leaves most seats.'],
    [[plan('a', 10, 50), plan('b', 20, 5)], '“a” is done first, and leaves most seats.'],
    // Where two are alike in one thing, that thing is nobody's.
    [[plan('a', 10, 5), plan('b', 20, 5)], '“a” is done first.'],
    [[plan('a', null, 5), plan('b', null, 6)], 'None of them is ever done.'],
    [[plan('a', 10, 5), refused], 'Only “a” can be begun.'],
  ])('%#', (plans, says) => expect(bestInWords(plans)).toBe(says));
});
