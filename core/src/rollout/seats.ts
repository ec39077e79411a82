/** Seats against the people who will want one, hour by hour. */
import { DAY_MINUTES, mostSessions, sessionsAt } from '../pool/session-curve.ts';
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

/** The most sessions expected at any moment of a stretch of time, shorter than a day. */
export function peakSessions({ expected, zone }: SeatPlan, from: Instant, to: Instant): number {
  const [first, last] = [localMinutes(zone, from), localMinutes(zone, to)];
  const minutes = (to - from) / MINUTE;
  const peak = mostSessions(expected, first, minutes);
  // Where the clocks change on the way, the hours that they show then count as well.
  const isSteady = Math.abs((first + minutes - last) % DAY_MINUTES) < 0.001;
  return isSteady ? peak : Math.max(peak, mostSessions(expected, last, 0));
}

/**
 * Seats that may still be taken away from `from` to `to` while (1 + reserve) × expected sessions
 * stay covered; negative when there are too few already.
 */
export function seatsToSpare(plan: SeatPlan, outOfService: number, from: Instant, to: Instant): number {
  return (plan.hosts - outOfService) * plan.perHost - (1 + plan.reserve) * peakSessions(plan, from, to);
}
