/**
 * What a rollout does next: the situation in, the move out. Which hosts may start is decided by
 * `admission.ts`; here it is whether any may, what state the rollout is in then, and when it has to be
 * looked at again although nothing has ended. The engine carries it out.
 */
import type { Instant } from '../time/instant.ts';
import type { WindowSpan } from '../time/windows.ts';
import type { Binding } from './admission.ts';
import { SEAT_CHECK } from './seats.ts';

export interface RolloutSituation {
  readonly isStopped: boolean;
  /** No host begins until somebody lets it go on. */
  readonly isPaused: boolean;
  readonly now: Instant;
  /** The window that is open, or else the next one; undefined when none comes any more. */
  readonly window: WindowSpan | undefined;
  /** Hosts at a time. */
  readonly batch: number;
  readonly waiting: number;
  readonly atWork: number;
  /** Waiting for a person. */
  readonly failed: number;
}

export type Move =
  /** Nothing is left to do: it has ended. */
  | { readonly do: 'end' }
  /** It was stopped; the hosts at work are finished first. */
  | { readonly do: 'finish hosts' }
  /** At most so many hosts may start now, if they are admitted. */
  | { readonly do: 'start'; readonly atMost: number }
  /** No host may start. */
  | { readonly do: 'wait'; readonly held: Binding | undefined };

export function nextMove(situation: RolloutSituation): Move {
  const { isStopped, isPaused, batch, waiting, atWork, failed } = situation;
  if (atWork === 0 && (isStopped || waiting + failed === 0)) return { do: 'end' };
  if (isStopped) return { do: 'finish hosts' };
  if (isPaused || !isOpen(situation) || waiting === 0) return { do: 'wait', held: undefined };
  const atMost = batch - atWork;
  return atMost > 0 ? { do: 'start', atMost } : { do: 'wait', held: 'batch' };
}

/** How a rollout stands once its move is made. */
export interface Standing {
  readonly state: 'at work' | 'asleep';
  /** When it has to be looked at again; undefined when only the end of a host, or a person, changes anything. */
  readonly wakeAt: Instant | undefined;
}

/** `started` hosts were started just now; `held` is what kept the next one back, if anything did. */
export function standingAfter(
  situation: RolloutSituation,
  started: number,
  held: Binding | undefined,
): Standing {
  const { isPaused, now, window, waiting, atWork } = situation;
  if (isPaused) return { state: atWork > 0 ? 'at work' : 'asleep', wakeAt: undefined };
  const left = waiting - started;
  const open = isOpen(situation);
  // A window that is too short for any host by now is over, also before its end.
  const goesOn = open && held !== 'window' && left > 0;
  return {
    state: atWork + started > 0 || goesOn ? 'at work' : 'asleep',
    wakeAt: window === undefined || left === 0 ? undefined : alarm(window, open, held, now),
  };
}

function alarm(window: WindowSpan, open: boolean, held: Binding | undefined, now: Instant): Instant {
  if (!open) return window.start;
  // Seats come back as people leave, hypervisors are free again as others are done, and nothing tells of that for sure.
  const changesByItself = held === 'seats' || held === 'max unavailable' || held === 'shared limit';
  return changesByItself ? Math.min(window.end, now + SEAT_CHECK) : window.end;
}

function isOpen({ window, now }: Pick<RolloutSituation, 'window' | 'now'>): boolean {
  return window !== undefined && window.start <= now;
}
