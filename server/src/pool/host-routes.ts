/** One host over HTTP: what it has mounted against what its blend says, and asking its agent to look now. */
import { hostEndpoints } from '@vatline/contract/pool/host';
import type { EntryPoint } from '@vatline/core/container/manifest';
import { fromJson } from '../platform/database.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import { holding } from '../platform/page.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';

export function hostRoutes(door: Door, parts: Parts): void {
  const { agents } = parts.estate;

  door.serve(hostEndpoints.search, ({ query: { q, limit } }) =>
    parts.db
      .selectFrom('host')
      .innerJoin('pool', 'pool.id', 'host.pool_id')
      .select(['host.name', 'pool.name as pool'])
      .where('host.name', 'like', holding(q))
      .orderBy('host.name')
      .limit(limit)
      .execute(),
  );

  door.serve(hostEndpoints.mounts, async ({ params: { name } }) => {
    const host = await hostNamed(parts, name);
    const wanted = new Set(fromJson<string[]>(host.packages_json));
    const versions = await knownVersions(parts);
    const mounts = await agents.mounts(name);
    const mounted = new Set(mounts.map((mount) => mount.digest));
    return {
      name,
      pool: host.pool,
      mounts: mounts.map((mount) => {
        const row = versions.find((one) => one.digest === mount.digest);
        return {
          ...mount,
          version: row
            ? { id: row.id, packageId: row.packageId, name: row.name, version: row.version }
            : null,
          entryPoints: row ? fromJson<EntryPoint[]>(row.entry_points_json).map((entry) => entry.name) : [],
          isWanted: row !== undefined && wanted.has(row.id),
        };
      }),
      missing: versions
        .filter((row) => wanted.has(row.id) && !mounted.has(row.digest))
        .map((row) => ({ name: row.name, version: row.version })),
      nextCheck: await agents.nextCheckOf(name),
      isSilent: (await agents.silent()).includes(name),
    };
  });

  door.serve(hostEndpoints.check, async ({ params: { name } }) => {
    await hostNamed(parts, name);
    const { error } = await agents.checkNow(newId('check'), name);
    return { error: error?.message ?? null };
  });
}

async function hostNamed({ db }: Parts, name: string) {
  const row = await db
    .selectFrom('host')
    .innerJoin('pool', 'pool.id', 'host.pool_id')
    .innerJoin('blend', 'blend.id', 'host.blend_id')
    .select(['host.id', 'pool.name as pool', 'blend.packages_json'])
    .where('host.name', '=', name)
    .executeTakeFirst();
  if (!row) throw notFound(`host ${name}`);
  return row;
}

function knownVersions({ db }: Parts) {
  return db
    .selectFrom('package_version')
    .innerJoin('package', 'package.id', 'package_version.package_id')
    .select([
      'package_version.id',
      'package.id as packageId',
      'package.name',
      'package_version.version',
      'package_version.digest',
      'package_version.entry_points_json',
    ])
    .execute();
}
