/** Versions that will do for a dependency: `>=5.0 <6`, `5.2`, or `*` for any. */
import { compareVersionText } from './text.ts';
import { ok, refuse, type Result } from '../result.ts';

interface Bound {
  readonly sign: string;
  readonly version: string;
}

/** A function that tells whether a version is in the range. Error: a part that is no bound. */
export function versionRange(text: string): Result<(version: string) => boolean> {
  const parts = text.trim().split(/\s+/).filter(Boolean);
  if (parts.length === 0 || (parts.length === 1 && parts[0] === '*')) return ok(() => true);
  const bounds: Bound[] = [];
  for (const part of parts) {
    const bound = /^(>=|<=|>|<|=)?(\d[0-9A-Za-z.+-]*)$/.exec(part);
    if (!bound) return refuse('range', `“${part}” is no bound; write bounds such as >=5.0 <6`);
    bounds.push({ sign: bound[1] ?? '=', version: bound[2] ?? '' });
  }
  return ok((version) => bounds.every((bound) => holds(version, bound)));
}

function holds(version: string, { sign, version: limit }: Bound): boolean {
  const order = compareVersionText(version, limit);
  switch (sign) {
    case '>=':
      return order >= 0;
    case '<=':
      return order <= 0;
    case '>':
      return order > 0;
    case '<':
      return order < 0;
    default:
      return order === 0;
  }
}
