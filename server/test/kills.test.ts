/** A short night with kills at random changes, and some rows of the table; `npm run chaos` does all of both. */
import { expect, it } from 'vitest';
import { chaos } from './chaos.ts';
import { killTable } from './kill-table.ts';
import { month } from './month.ts';

it('killed after random changes, everything begun comes to its end: nothing lost, double, stuck or left behind', async () => {
  const { wrong, kills, begun } = await chaos(4, 'a short night');
  expect(wrong).toEqual([]);
  expect(kills).toBe(4);
  expect(Object.keys(begun).length).toBeGreaterThanOrEqual(2);
});

/** A row of the table each, from the midst of the work. */
const rows = { pool: 23, cut: 77, rollout: 150, attach: 20, rings: 12, switch: 6 } as const;

it.each(['pool', 'cut', 'rollout', 'attach', 'rings', 'switch'] as const)(
  'killed after a change of a %s, all is as if nothing had been',
  async (work) => {
    const { points, wrong } = await killTable(work, { first: rows[work], most: 1 });
    expect([points, wrong]).toEqual([[rows[work]], {}]);
  },
  180_000,
);

it('over the week in which the clocks go forward, with a gate that holds and a way back, kills lose nothing either', async () => {
  const { wrong, kills, cuts, journal, held, wentBack } = await month(8, 3, 'a week');
  expect(wrong).toEqual([]);
  expect([kills, held]).toEqual([3, 'half: 1 host failed; it stops at 1']);
  // Until all has come to its end another Saturday may go by.
  expect([1, 2]).toContain(cuts);
  expect(wentBack).toBeGreaterThan(0);
  expect(journal.done).toBeGreaterThan(60);
}, 240_000);
