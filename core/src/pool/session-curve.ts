/** Sessions over the day: what is expected where nothing was measured yet, and what a curve says of any minute. */

/** Minutes of a day. */
export const DAY_MINUTES = 1_440;

/**
 * Share of a pool's seats in use at each full local hour of an office day. Source: the shape that
 * offices have, hours of arrival and lunch in it (`docs/models.md`, "Assumptions"); what was measured takes
 * its place.
 */
const officeDay = [2, 1, 1, 1, 1, 2, 6, 20, 55, 72, 76, 74, 62, 68, 74, 72, 64, 42, 20, 12, 8, 6, 4, 3];

/** Share of the seats that are taken where every person who has one comes in. */
const FILLED = 0.7;

/** Expected sessions of a pool by local hour, 24 of them. */
export function officeSessions(hosts: number, sessionLimit: number): number[] {
  return officeDay.map((share) => Math.round((share / 100) * hosts * sessionLimit * FILLED));
}

/** What a curve by local hour says of a minute of the day: a straight line from full hour to full hour. */
export function sessionsAt(curve: readonly number[], minute: number): number {
  const hour = Math.floor(minute / 60) % 24;
  const low = curve[hour] ?? 0;
  const high = curve[(hour + 1) % 24] ?? 0;
  return low + ((high - low) * (minute % 60)) / 60;
}

/** The most that a curve says of the minutes from one on, both ends included. */
export function mostSessions(curve: readonly number[], minute: number, minutes: number): number {
  let most = Math.max(sessionsAt(curve, minute), sessionsAt(curve, minute + minutes));
  // Between full hours the line is straight, so that the most lies at one of them or at an end.
  for (let hour = Math.ceil(minute / 60); hour * 60 < minute + minutes; hour++)
    most = Math.max(most, curve[hour % 24] ?? 0);
  return most;
}

/**
 * People who come in each local hour where sessions follow a curve and last so long on average,
 * minutes: what the curve rises by, and those who take the place of others that leave. Never below 0:
 * where the curve falls faster than people leave by themselves, nobody comes.
 */
export function arrivalsOf(curve: readonly number[], meanMinutes: number): number[] {
  return Array.from({ length: 24 }, (_, hour) => {
    const [from, to] = [curve[hour] ?? 0, curve[(hour + 1) % 24] ?? 0];
    return Math.max(0, to - from + ((from + to) / 2) * (60 / meanMinutes));
  });
}
