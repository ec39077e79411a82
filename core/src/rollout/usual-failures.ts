/** How often work on a host fails before a pool has a history worth counting, and what is done then. */
export interface Failures {
  /** Chance that one attempt fails, 0 to 1. */
  readonly rate: number;
  /** How often it is tried again by itself. */
  readonly retries: number;
}

/**
 * Source: an assumption, on the careful side of the practice estate, where hosts fail by faults that
 * are switched on only. See `docs/models.md`, "Assumptions".
 */
export const usualFailures: Failures = { rate: 0.01, retries: 1 };

/** Whether a host that has failed so many attempts is tried again by itself. */
export function isTriedAgain(attempts: number, { retries }: Failures = usualFailures): boolean {
  return attempts <= retries;
}
