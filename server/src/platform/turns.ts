/** Turns for others in loops that wait for nothing but our own databases, which answer at once. */
import { setImmediate as nextTurn } from 'node:timers/promises';

/** So long may a loop go on while others wait. */
const LONGEST_MS = 20;

/** Awaited between the rounds of a loop: gives requests and timers their turn when it has gone on for a while. */
export function turnsForOthers(now: () => number = () => performance.now()): () => Promise<void> {
  let since = now();
  return async () => {
    if (now() - since < LONGEST_MS) return;
    await nextTurn();
    since = now();
  };
}
