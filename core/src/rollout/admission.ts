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
  /** Whether it is attached in service: it takes no seat, and nobody has to leave it. */
  readonly staysInService: boolean;
}

/** Milliseconds. */
export interface P90Length {
  readonly empty: number;
  readonly withPeople: number;
  /** Of a host that is attached in service. */
  readonly inService: number;
}

/** Those whose turn it is, the first first; an array is one. */
export interface Queue<C> {
  readonly length: number;
  at(place: number): C | undefined;
}

export interface Situation {
  readonly now: Instant;
  readonly windowEnd: Instant;
  /** Hosts being drained or worked on, those in service among them. */
  readonly atWork: number;
  /** Of those, the hosts that stay in service meanwhile. */
  readonly servingAtWork: number;
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

/**
 * Goes through the hosts in their turn and admits those that may begin now. Once one is held back that
 * would be taken out of service, only those are looked for that stay in service: they take nothing
 * that it waits for.
 */
export function admit<C extends Candidate>(
  queue: Queue<C>,
  situation: Situation,
  limits: Limits,
): Admitted<C> {
  const start: C[] = [];
  const { now, windowEnd, p90Length } = situation;
  const someWouldFit = now + Math.min(p90Length.empty, p90Length.inService) <= windowEnd;
  const someMayServe = now + p90Length.inService <= windowEnd;
  let passed = 0;
  let waits: Binding | undefined;
  let taken: Taken = { atWork: situation.atWork, serving: situation.servingAtWork, out: situation.out };
  for (let place = 0; place < queue.length; place++) {
    const candidate = queue.at(place) as C;
    // One that failed before is out already: it takes its own place.
    const others = { ...taken, out: candidate.isOut ? taken.out - 1 : taken.out };
    if (waits !== undefined && !candidate.staysInService) {
      if (passed++ < PASSED_OVER) continue;
      break;
    }
    const held = heldBackBy(candidate, situation, limits, others);
    if (held === 'window' && someWouldFit && passed++ < PASSED_OVER) continue;
    if (held === 'batch' || held === 'window' || (held && !someMayServe))
      return { start, held: waits ?? held };
    if (held) {
      waits = held;
      continue;
    }
    start.push(candidate);
    const { atWork, serving } = others;
    taken = { ...others, atWork: atWork + 1, serving: candidate.staysInService ? serving + 1 : serving };
  }
  return { start, held: waits ?? (passed > 0 ? 'window' : undefined) };
}

/** Hosts that are not as usual, those just started among them. */
interface Taken {
  readonly atWork: number;
  readonly serving: number;
  readonly out: number;
}

/** Undefined when the host may start besides those just started; else the first constraint that forbids it. */
function heldBackBy(
  candidate: Candidate,
  situation: Situation,
  limits: Limits,
  { atWork, serving, out }: Taken,
): Binding | undefined {
  const end = situation.now + lengthOf(candidate, situation.p90Length);
  if (end > situation.windowEnd) return 'window';
  if (atWork >= limits.batch) return 'batch';
  if (candidate.staysInService) return undefined;
  const unavailable = atWork - serving + out;
  if (unavailable >= limits.maxUnavailable) return 'max unavailable';
  const begun = atWork - serving - (situation.atWork - situation.servingAtWork);
  if (begun >= situation.slots) return 'shared limit';
  if (!candidate.isOut && situation.seatsToSpare(unavailable, end) < situation.seatsPerHost) return 'seats';
  return undefined;
}

function lengthOf({ sessions, staysInService }: Candidate, length: P90Length): number {
  if (staysInService) return length.inService;
  return sessions > 0 ? length.withPeople : length.empty;
}
