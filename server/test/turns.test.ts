/** B7: a loop over many rows keeps nobody waiting, though its database answers at once. */
import { expect, it } from 'vitest';
import { turnsForOthers } from '../src/platform/turns.ts';

it('others come to their turn after each 20 ms of a loop, and not more often', async () => {
  let clock = 0;
  const others = turnsForOthers(() => clock);
  const heard: number[] = [];
  let round = 0;
  const listen = () => {
    heard.push(round);
    if (round < 99) setImmediate(listen);
  };
  setImmediate(listen);
  for (; round < 100; round++) {
    clock += 4;
    await others();
  }
  // Every fifth of a hundred rounds of 4 ms.
  expect(heard).toEqual(Array.from({ length: 20 }, (_none, i) => 4 + 5 * i));
});
