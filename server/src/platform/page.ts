/**
 * Pages of a list. A page begins behind the row that the one before ended with, by what the list is
 * ordered by, so that rows which come and go meanwhile neither repeat others nor hide them.
 */
import type { Page } from '@vatline/contract/page';
import { invalid } from './problem.ts';

/** By what a row stands where it stands; the last of it is no other row's. */
export type Place = readonly (string | number)[];

/** The page of rows of which one more than `limit` was asked for, if there is one. */
export function pageFrom<Row, T>(
  rows: readonly Row[],
  { limit, total, placeOf }: { limit: number; total: number; placeOf: (row: Row) => Place },
  present: (rows: readonly Row[]) => T[],
): Page<T> & { rows: T[] } {
  const shown = rows.slice(0, limit);
  const last = rows.length > limit ? shown.at(-1) : undefined;
  return { rows: present(shown), total, next: last === undefined ? null : written(placeOf(last)) };
}

function written(place: Place): string {
  return Buffer.from(JSON.stringify(place)).toString('base64url');
}

/** The place that `after` names; undefined for the first page. Throws a refusal when it names none. */
export function placeIn(
  after: string | undefined,
  kinds: readonly ('string' | 'number')[],
): Place | undefined {
  if (after === undefined) return undefined;
  const place = parsed(after);
  const fits =
    Array.isArray(place) &&
    place.length === kinds.length &&
    place.every((part, i) => typeof part === kinds[i]);
  if (!fits)
    throw invalid([{ path: 'after', message: 'is no place in this list; begin with its first page' }]);
  return place as Place;
}

function parsed(after: string): unknown {
  try {
    return JSON.parse(Buffer.from(after, 'base64url').toString());
  } catch {
    return undefined;
  }
}

/** What a text must be like to hold another one. */
export function holding(part: string): string {
  return `%${part.replace(/[%_]/g, '')}%`;
}
