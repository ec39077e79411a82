/** Names of the machines that lines are prepared on. */

const PREFIX = 'BUILD-';
/** What is left of the 15 characters of a computer name, one kept for what is made from it. */
const ROOM = 8;

/**
 * The name of a line's build machine: letters and digits of the line's name, with a number at the
 * end where another line has the same. A line whose name has none of A to Z is called after its
 * number alone.
 */
export function machineName(lineName: string, taken: ReadonlySet<string>): string {
  const letters = lineName.toUpperCase().replace(/[^A-Z0-9]+/g, '');
  const plain = PREFIX + (letters === '' ? 'LINE' : letters.slice(0, ROOM));
  if (!taken.has(plain)) return plain;
  for (let number = 2; ; number++) {
    const suffix = String(number);
    const name = PREFIX + (letters === '' ? 'LINE' : letters).slice(0, ROOM - suffix.length) + suffix;
    if (!taken.has(name)) return name;
  }
}
