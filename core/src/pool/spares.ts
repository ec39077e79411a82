/**
 * Spares: hosts, or seats on them, that are ready although nobody has come yet, so that whoever comes
 * while the next one is got ready need not wait. Arrivals in the lead time L of one host are Poisson
 * with the hour's rate λ; the spares are the smallest s with P(X > s) ≤ 1 % (`docs/models.md`, "Spares").
 */

/** Of those who come in a lead time more than the spares come this often. */
export const WAITING_SHARE = 0.01;

/**
 * The smallest s with P(X > s) ≤ `share` for X Poisson with this mean. Terms are kept as logarithms,
 * so that a mean of thousands does not vanish.
 */
export function poissonQuantile(mean: number, share = WAITING_SHARE): number {
  if (mean <= 0) return 0;
  let term = -mean;
  let within = Math.exp(term);
  let s = 0;
  // The terms left of the mean may all be 0 as numbers; they are 0 for every purpose then.
  while (1 - within > share && s < mean + 12 * Math.sqrt(mean) + 12) {
    s++;
    term += Math.log(mean) - Math.log(s);
    within += Math.exp(term);
  }
  return s;
}

/** Seats that are to be free when so many people an hour come and the next host takes so long, minutes. */
export function spareSeats(arrivalsPerHour: number, leadMinutes: number): number {
  return poissonQuantile((arrivalsPerHour * leadMinutes) / 60);
}

/** Hosts that carry so many seats. */
export function spareHosts(arrivalsPerHour: number, leadMinutes: number, sessionLimit: number): number {
  return Math.ceil(spareSeats(arrivalsPerHour, leadMinutes) / Math.max(1, sessionLimit));
}
