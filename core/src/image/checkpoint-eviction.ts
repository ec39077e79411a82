/** Which checkpoints go when they take more room than they may: those that were used longest ago. */

export interface KeptCheckpoint {
  readonly key: string;
  /** Bytes its snapshot takes besides those before it. */
  readonly sizeBytes: number;
  /** When a build made it or started from it, milliseconds. */
  readonly usedAt: number;
  /** Index of its step, from 0. */
  readonly step: number;
}

export interface Eviction {
  /** Those that go, in the order in which they go. */
  readonly evicted: readonly KeptCheckpoint[];
  readonly keptBytes: number;
  /** Whether what must stay is over the budget by itself. */
  readonly overBudget: boolean;
}

/**
 * Least recently used first until the rest fits the budget, in bytes; of those used at one instant
 * the deepest goes first, since those above it serve more recipes. Those that a build stands on stay.
 */
export function planEviction(
  checkpoints: readonly KeptCheckpoint[],
  budgetBytes: number,
  standingOn: ReadonlySet<string>,
): Eviction {
  let keptBytes = checkpoints.reduce((sum, checkpoint) => sum + checkpoint.sizeBytes, 0);
  const evicted: KeptCheckpoint[] = [];
  const oldestFirst = [...checkpoints].sort((a, b) => a.usedAt - b.usedAt || b.step - a.step);
  for (const checkpoint of oldestFirst) {
    if (keptBytes <= budgetBytes) break;
    if (standingOn.has(checkpoint.key)) continue;
    evicted.push(checkpoint);
    keptBytes -= checkpoint.sizeBytes;
  }
  return { evicted, keptBytes, overBudget: keptBytes > budgetBytes };
}
