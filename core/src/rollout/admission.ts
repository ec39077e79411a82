/**
 * Which hosts may be taken out of service now. The forecast and the running rollout both ask here,
 * so that what was promised is what is done.
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

export interface Candidate {
  /** People on it now. */
  readonly sessions: number;
  /** Whether it failed before and is out of service already. */
  readonly isOut: boolean;
}

export interface Situation {
  readonly now: Instant;
  readonly windowEnd: Instant;
  /** Hosts being drained or worked on. */
  readonly atWork: number;
  /** Hosts out of service that nobody works on: failed, or held by a person. */
  readonly out: number;
  readonly seatsPerHost: number;
  /** Milliseconds within which a host with so many sessions is finished in 9 of 10 cases. */
  readonly p90Length: (sessions: number) => number;
  /** Seats that may still be taken away until an instant, with so many hosts out; infinite when not kept. */
  readonly seatsToSpare: (out: number, until: Instant) => number;
}

export interface Admitted<C> {
  readonly start: readonly C[];
  /** What held the next host back; undefined when the queue ended first. */
  readonly held: Binding | undefined;
}

/**
 * Hosts whose people would not be gone before the window closes are passed over for empty ones,
 * so many at one look; beyond that the rest of the queue waits for the next look.
 */
export const PASSED_OVER = 100;

/** Goes through the hosts in their turn and admits those that may be taken out of service now. */
export function admit<C extends Candidate>(
  queue: Iterable<C>,
  situation: Situation,
  limits: Limits,
): Admitted<C> {
  const start: C[] = [];
  let passed = 0;
  let { atWork, out } = situation;
  for (const candidate of queue) {
    const isOut = candidate.isOut ? 1 : 0;
    const held = heldBackBy(candidate, { ...situation, atWork, out: out - isOut }, limits);
    const emptyWouldFit = situation.now + situation.p90Length(0) <= situation.windowEnd;
    if (held === 'window' && emptyWouldFit && passed++ < PASSED_OVER) continue;
    if (held) return { start, held };
    start.push(candidate);
    atWork++;
    out -= isOut;
  }
  return { start, held: passed > 0 ? 'window' : undefined };
}

/** Undefined when the host may start; else the first constraint that forbids it. */
function heldBackBy(
  { sessions, isOut }: Candidate,
  { now, windowEnd, atWork, out, seatsPerHost, p90Length, seatsToSpare }: Situation,
  limits: Limits,
): Binding | undefined {
  const end = now + p90Length(sessions);
  if (end > windowEnd) return 'window';
  if (atWork >= limits.batch) return 'batch';
  if (atWork + out >= limits.maxUnavailable) return 'max unavailable';
  if (!isOut && seatsToSpare(atWork + out, end) < seatsPerHost) return 'seats';
  return undefined;
}
