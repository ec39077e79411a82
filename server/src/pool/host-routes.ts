/** One host over HTTP: what it has mounted against what its blend says, and asking its agent to look now. */
import { hostEndpoints } from '@vatline/contract/pool/host';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import { holding } from '../platform/page.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import type { PoolStore } from './pools.ts';

export function hostRoutes(door: Door, parts: Parts, pools: PoolStore): void {
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
    const wanted = new Set(await pools.blends.packageIdsOf(host.blend_id));
    const versions = await knownVersions(parts);
    const entries = await entryPointNames(parts);
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
          entryPoints: entries.filter(({ version }) => version === row?.id).map((entry) => entry.name),
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
    .select(['host.id', 'host.blend_id', 'pool.name as pool'])
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
    ])
    .execute();
}

function entryPointNames({ db }: Parts) {
  return db
    .selectFrom('version_entry_point')
    .innerJoin('entry_point', 'entry_point.id', 'entry_point_id')
    .select(['version_id as version', 'entry_point.name'])
    .orderBy('version_id')
    .orderBy('place')
    .execute();
}
