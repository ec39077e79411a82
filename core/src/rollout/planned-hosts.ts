/** The hosts of a plan by name: a list, so that a plan can say which ones and in what order. */

/** Ten times the largest estate; more would take minutes. */
export const MOST_HOSTS = 100_000;

/** Names for hosts of which only the number is known, in order, behind so many that have theirs. */
export function numberedHosts(count: number, behind = 0): string[] {
  return Array.from({ length: count }, (_, i) => `host ${behind + i + 1}`);
}
