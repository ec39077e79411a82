/** Containers of nobody: what is left when the server ends between a row and its files. */
import { readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Parts } from '../platform/parts.ts';

/** A container, its bill of materials, its signature. */
const OF_A_CONTAINER = /^([0-9a-f]{64})(?:\.cdx\.json|\.p7s)?$/;

/**
 * Removes containers that no version has; gives how many files. Not while a job is unfinished, since
 * it may have built one that it has still to tell of.
 */
export async function clearOrphans({ db, dataFolder }: Pick<Parts, 'db' | 'dataFolder'>): Promise<number> {
  const unfinished = await db
    .selectFrom('job')
    .select('id')
    .where('state', 'in', ['waiting', 'running', 'paused'])
    .limit(1)
    .executeTakeFirst();
  if (unfinished) return 0;
  const rows = await db.selectFrom('container').select('digest').execute();
  const chosen = await db.selectFrom('package_version').select('digest').execute();
  const known = new Set([...rows, ...chosen].map((row) => row.digest));
  const folder = join(dataFolder, 'containers');
  const orphans = readdirSync(folder).filter((name) => {
    const digest = OF_A_CONTAINER.exec(name)?.[1];
    return digest !== undefined && !known.has(digest);
  });
  for (const name of orphans) rmSync(join(folder, name), { recursive: true, force: true });
  return orphans.length;
}
