/** Seats against the people who will want one, hour by hour. */
import { sessionsAt } from '../pool/session-curve.ts';
import { localMinutes } from '../time/zone.ts';
import { MINUTE, type Instant } from '../time/instant.ts';

export interface SeatPlan {
  /** Hosts of the whole pool, those that the rollout leaves alone included. */
  readonly hosts: number;
  /** Sessions a host can carry. */
  readonly perHost: number;
  /** Expected sessions by local hour, 24 numbers; between hours the line is straight. */
  readonly expected: readonly number[];
  /** Seats kept above the expected sessions, as a fraction of them. */
  readonly reserve: number;
  readonly zone: string;
}

/** The sessions expected at an instant, by straight lines between the full hours. */
export function expectedSessions(plan: SeatPlan, at: Instant): number {
  return sessionsAt(plan.expected, localMinutes(plan.zone, at));
}

/** How often seats are looked at again, when they hold a rollout back. */
export const SEAT_CHECK = 15 * MINUTE;

/** The most sessions expected at any moment of a stretch of time, looked at every 15 minutes. */
export function peakSessions(plan: SeatPlan, from: Instant, to: Instant): number {
  let peak = Math.max(expectedSessions(plan, from), expectedSessions(plan, to));
  for (let t = from + SEAT_CHECK; t < to; t += SEAT_CHECK) peak = Math.max(peak, expectedSessions(plan, t));
  return peak;
}

/**
 * Seats that may still be taken away from `from` to `to` while (1 + reserve) × expected sessions
 * stay covered; negative when there are too few already.
 */
export function seatsToSpare(plan: SeatPlan, outOfService: number, from: Instant, to: Instant): number {
  return (plan.hosts - outOfService) * plan.perHost - (1 + plan.reserve) * peakSessions(plan, from, to);
}
