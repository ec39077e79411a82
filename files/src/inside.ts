/** Reading by a path that was given from outside: what is read lies in the folder for real. */
import { realpathSync } from 'node:fs';
import { join, sep } from 'node:path';
import { safePath } from '@vatline/core/container/safe-path';

/**
 * Where a path in a folder really is, its links followed; undefined when it is not there, is
 * empty or climbs, or when a link on its way leads out of the folder.
 */
export function realPathIn(folder: string, path: string): string | undefined {
  const safe = safePath(path);
  if (!safe.ok) return undefined;
  try {
    const real = realpathSync(join(folder, safe.value));
    return real.startsWith(realpathSync(folder) + sep) ? real : undefined;
  } catch {
    return undefined; // not there, or a circle of links
  }
}
