/** Versions as publishers write them. */

/** Orders versions by their numbers, part by part: 7.10 comes after 7.9. */
export function compareVersionText(a: string, b: string): number {
  return byNumbers.compare(a, b);
}

const byNumbers = new Intl.Collator('en', { numeric: true });
