/** A short night with kills at random changes, and some rows of the table; `npm run chaos` does all of both. */
import { expect, it } from 'vitest';
import { chaos } from './chaos.ts';
import { killedWorks, killTable } from './kill-table.ts';

it('killed after random changes, everything begun comes to its end: nothing lost, double, stuck or left behind', async () => {
  const { wrong, kills, begun } = await chaos(8, 'a short night');
  expect(wrong).toEqual([]);
  expect(kills).toBe(8);
  expect(Object.keys(begun).length).toBeGreaterThanOrEqual(2);
}, 180_000);

/** A different row of the table each, so that the first and the last changes are among them. */
const rows = { pool: [2, 30], job: [3, 10], rollout: [4, 170] } as const;

it.each(killedWorks)(
  'killed after a change of a %s, all is as if nothing had been',
  async (work) => {
    const [first, every] = rows[work];
    const { points, wrong } = await killTable(work, { first, every });
    expect(wrong).toEqual({});
    expect(points.length).toBeGreaterThanOrEqual(2);
  },
  180_000,
);
