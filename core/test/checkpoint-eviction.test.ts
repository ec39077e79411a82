import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { planEviction, type KeptCheckpoint } from '../src/image/checkpoint-eviction.ts';

const kept = (key: string, usedAt: number, sizeBytes = 10, step = 0): KeptCheckpoint => ({
  key,
  usedAt,
  sizeBytes,
  step,
});
const keys = (list: readonly KeptCheckpoint[]) => list.map((checkpoint) => checkpoint.key);

describe('eviction of checkpoints', () => {
  it('lets the least recently used go until the rest fits', () => {
    const plan = planEviction([kept('a', 3), kept('b', 1), kept('c', 2)], 20, new Set());
    expect([keys(plan.evicted), plan.keptBytes, plan.overBudget]).toEqual([['b'], 20, false]);
    expect(keys(planEviction([kept('a', 3), kept('b', 1), kept('c', 2)], 19, new Set()).evicted)).toEqual([
      'b',
      'c',
    ]);
    expect(planEviction([kept('a', 3)], 10, new Set()).evicted).toEqual([]);
  });

  it('of those used at one instant the deepest goes first', () => {
    const plan = planEviction([kept('top', 1, 10, 0), kept('deep', 1, 10, 5)], 10, new Set());
    expect(keys(plan.evicted)).toEqual(['deep']);
  });

  it('never touches what a build stands on, even when that is over the budget by itself', () => {
    const plan = planEviction([kept('a', 1), kept('b', 2)], 5, new Set(['a']));
    expect([keys(plan.evicted), plan.keptBytes, plan.overBudget]).toEqual([['b'], 10, true]);
  });

  it('frees no more than it must, and what stays is what was used last', () => {
    const any = fc.uniqueArray(
      fc.record({ key: fc.string(), usedAt: fc.nat(50), sizeBytes: fc.nat(100), step: fc.nat(20) }),
      { selector: (row) => row.key },
    );
    fc.assert(
      fc.property(any, fc.nat(500), (checkpoints, budget) => {
        const { evicted, keptBytes, overBudget } = planEviction(checkpoints, budget, new Set());
        expect(overBudget).toBe(false);
        const last = evicted.at(-1);
        if (last) expect(keptBytes + last.sizeBytes).toBeGreaterThan(budget);
        const stays = checkpoints.filter((row) => !evicted.includes(row));
        for (const row of stays)
          for (const gone of evicted) expect(gone.usedAt).toBeLessThanOrEqual(row.usedAt);
      }),
    );
  });
});
