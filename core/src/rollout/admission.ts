/**
 * Which hosts may be taken out of service now. The forecast and the running rollout both ask here,
 * so that what was promised is what is done.
 */
import type { Instant } from '../time/instant.ts';

/** What holds the next host back. */
export const bindings = ['window', 'batch', 'max unavailable', 'shared limit', 'seats'] as const;
export type Binding = (typeof bindings)[number];

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

export interface P90Length {
  readonly empty: number;
  readonly withPeople: number;
}

/** Those whose turn it is, the first first; an array is one. */
export interface Queue<C> {
  readonly length: number;
  at(place: number): C | undefined;
}

export interface Situation {
  readonly now: Instant;
  readonly windowEnd: Instant;
  /** Hosts being drained or worked on. */
  readonly atWork: number;
  /** Hosts out of service that nobody works on: failed, or held by a person. */
  readonly out: number;
  /** Hosts that may still begin under the limits shared with others; infinite when there are none. */
  readonly slots: number;
  readonly seatsPerHost: number;
  /** Milliseconds within which a host is finished in 9 of 10 cases: without people on it, and with some. */
  readonly p90Length: P90Length;
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
  queue: Queue<C>,
  situation: Situation,
  limits: Limits,
): Admitted<C> {
  const start: C[] = [];
  const { now, windowEnd, p90Length } = situation;
  const emptyWouldFit = now + p90Length.empty <= windowEnd;
  let passed = 0;
  let out = situation.out;
  for (let place = 0; place < queue.length; place++) {
    const candidate = queue.at(place) as C;
    // One that failed before is out already: it takes its own place.
    const others = candidate.isOut ? out - 1 : out;
    const held = heldBackBy(candidate, situation, limits, start.length, others);
    if (held === 'window' && emptyWouldFit && passed++ < PASSED_OVER) continue;
    if (held) return { start, held };
    start.push(candidate);
    out = others;
  }
  return { start, held: passed > 0 ? 'window' : undefined };
}

/** Undefined when the host may start besides those just started; else the first constraint that forbids it. */
function heldBackBy(
  { sessions, isOut }: Candidate,
  situation: Situation,
  limits: Limits,
  started: number,
  out: number,
): Binding | undefined {
  const atWork = situation.atWork + started;
  const { empty, withPeople } = situation.p90Length;
  const end = situation.now + (sessions > 0 ? withPeople : empty);
  if (end > situation.windowEnd) return 'window';
  if (atWork >= limits.batch) return 'batch';
  if (atWork + out >= limits.maxUnavailable) return 'max unavailable';
  if (started >= situation.slots) return 'shared limit';
  if (!isOut && situation.seatsToSpare(atWork + out, end) < situation.seatsPerHost) return 'seats';
  return undefined;
}
