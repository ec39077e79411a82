/** A short night with kills at random changes; `npm run chaos` does a long one. */
import { expect, it } from 'vitest';
import { chaos } from './chaos.ts';

it('killed after random changes, everything begun comes to its end: nothing lost, double, stuck or left behind', async () => {
  const { wrong, kills, begun } = await chaos(8, 'a short night');
  expect(wrong).toEqual([]);
  expect(kills).toBe(8);
  expect(Object.keys(begun).length).toBeGreaterThanOrEqual(2);
}, 180_000);
