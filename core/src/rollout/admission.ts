/**
 * Whether one more host may be taken out of service now. The forecast and the running rollout
 * both ask here, so that what was promised is what is done.
 */
import type { Instant } from '../time/instant.ts';

/** What holds the next host back. */
export type Binding = 'window' | 'batch' | 'max unavailable' | 'seats';

export interface Limits {
  /** Hosts worked on at the same time, at most. */
  readonly batch: number;
  /** Hosts out of service at the same time, at most; failed hosts count. */
  readonly maxUnavailable: number;
}

export interface Standing {
  readonly now: Instant;
  /** Hosts being drained or worked on. */
  readonly atWork: number;
  /** Hosts that failed and stay out of service. */
  readonly failed: number;
  /** Milliseconds within which a host started now is finished in 9 of 10 cases. */
  readonly p90Length: number;
  readonly windowEnd: Instant;
  /** Seats that may still be taken away without cutting into the reserve; infinite when not kept. */
  readonly seatsToSpare: number;
  readonly seatsPerHost: number;
}

/** Undefined when a host may start; else the first constraint that forbids it. */
export function heldBackBy(standing: Standing, limits: Limits): Binding | undefined {
  if (standing.now + standing.p90Length > standing.windowEnd) return 'window';
  if (standing.atWork >= limits.batch) return 'batch';
  if (standing.atWork + standing.failed >= limits.maxUnavailable) return 'max unavailable';
  if (standing.seatsToSpare < standing.seatsPerHost) return 'seats';
  return undefined;
}
