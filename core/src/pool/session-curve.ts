/** Sessions over the day where nothing was measured yet. */

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
