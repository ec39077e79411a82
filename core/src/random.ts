/**
 * Seeded randomness. Nothing in the core draws from an ambient generator: a `Random` is made
 * from a seed and passed in, so that the same seed gives the same answer.
 */

/** A stream of uniform numbers in [0, 1). */
export type Random = () => number;

/** A 32-bit digest of a text, to seed a generator from a name. FNV-1a, public domain. */
export function hash32(text: string): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) {
    hash ^= text.charCodeAt(i);
    hash = Math.imul(hash, 0x01000193);
  }
  return hash >>> 0;
}

/** A generator for a seed: SplitMix32, 32 bits of state, good enough for simulations of this size. */
export function seededRandom(seed: number | string): Random {
  let state = (typeof seed === 'string' ? hash32(seed) : seed) >>> 0;
  return () => {
    state = (state + STEP) >>> 0;
    return scramble(state);
  };
}

/** A uniform number in [0, 1) that belongs to three whole numbers: the same ones draw the same. */
export function drawFor(a: number, b: number, c: number): number {
  return scramble(a + Math.imul(b, STEP) + Math.imul(c, 0x85ebca6b));
}

const STEP = 0x9e3779b9;

function scramble(state: number): number {
  let z = state >>> 0;
  z = Math.imul(z ^ (z >>> 16), 0x21f0aaad);
  z = Math.imul(z ^ (z >>> 15), 0x735a2d97);
  return ((z ^ (z >>> 15)) >>> 0) / 4294967296;
}

/** A draw from the standard normal distribution, by Box and Muller (1958). */
export function normal(random: Random): number {
  const radius = Math.sqrt(-2 * Math.log(1 - random()));
  return radius * Math.cos(2 * Math.PI * random());
}

/** The 90th percentile of the standard normal distribution. */
const Z90 = 1.2816;

/**
 * A draw from the log-normal distribution with the given median and 90th percentile, in the
 * unit of both: μ = ln m, σ = ln(q/m) / 1.2816. With q = m it is always m.
 */
export function logNormal(random: Random, median: number, p90: number): number {
  if (p90 <= median || median <= 0) return median;
  return median * Math.exp((Math.log(p90 / median) / Z90) * normal(random));
}

/** A draw from the Poisson distribution: exact below a mean of 30, rounded from the normal above. */
export function poisson(random: Random, mean: number): number {
  if (mean <= 0) return 0;
  if (mean > 30) return Math.max(0, Math.round(mean + Math.sqrt(mean) * normal(random)));
  let [product, n] = [random(), 0];
  const limit = Math.exp(-mean);
  while (product > limit) {
    n++;
    product *= random();
  }
  return n;
}

/** One element of a non-empty list, each equally likely. */
export function pick<T>(random: Random, list: readonly T[]): T {
  const chosen = list[Math.floor(random() * list.length)];
  if (chosen === undefined) throw new Error('cannot pick from an empty list');
  return chosen;
}

/** A whole number from `low` to `high`, both included. */
export function between(random: Random, low: number, high: number): number {
  return low + Math.floor(random() * (high - low + 1));
}
