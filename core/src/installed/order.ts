/** In which order applications are installed: what is needed comes first, and never goes round in a circle. */
import { versionRange } from '../version/range.ts';
import { ok, refuse, type Result } from '../result.ts';
import type { Installation } from './installation.ts';

export type Linked = Pick<Installation, 'name' | 'version' | 'dependencies' | 'replaces'>;

/**
 * What has to be installed for one application, in order, itself last. `known` are all that hosts can
 * be given. Errors at `dependencies.<i>`: one that is not there, one in no version that will do, a
 * circle with the way round; at `replaces`: one that it needs, itself or through others.
 */
export function installationOrder<T extends Linked>(wanted: T, known: readonly T[]): Result<T[]> {
  const order: T[] = [];
  const walk = (one: T, way: readonly string[], at: string): Result<null> => {
    if (way.includes(one.name))
      return refuse(at, `needs itself: ${[...way.slice(way.indexOf(one.name)), one.name].join(' needs ')}`);
    if (order.some((other) => other.name === one.name)) return ok(null);
    for (const [i, need] of one.dependencies.entries()) {
      const here = way.length === 0 ? `dependencies.${i}` : at;
      const found = candidate(need, [wanted, ...known.filter((other) => other !== wanted)]);
      if (!found.ok) return refuse(here, found.error);
      const inside = walk(found.value, [...way, one.name], here);
      if (!inside.ok) return inside;
    }
    order.push(one);
    return ok(null);
  };
  const walked = walk(wanted, [], '');
  if (!walked.ok) return walked;
  const both = order.find((one) => one.name !== wanted.name && wanted.replaces.includes(one.name));
  return both ? refuse('replaces', `takes the place of ${both.name}, which it needs`) : ok(order);
}

/** The newest version that will do. */
function candidate<T extends Linked>(
  need: { readonly name: string; readonly range: string },
  known: readonly T[],
): Result<T, string> {
  const named = known.filter((one) => one.name === need.name);
  if (named.length === 0) return { ok: false, error: `needs ${need.name}, which hosts cannot be given yet` };
  const range = versionRange(need.range);
  const fitting = range.ok ? named.filter((one) => range.value(one.version)) : [];
  const newest = fitting.sort((a, b) => byNumbers.compare(b.version, a.version))[0];
  const has = named.map((one) => one.version).join(', ');
  return newest
    ? ok(newest)
    : { ok: false, error: `needs ${need.name} ${need.range}; hosts can be given ${has}` };
}

const byNumbers = new Intl.Collator('en', { numeric: true });
