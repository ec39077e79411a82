/** One host over HTTP: what it has mounted against what its blend says, and asking its agent to look now. */
import { hostEndpoints } from '@vatline/contract/pool/host';
import { takesSessions } from '@vatline/core/pool/service-state';
import { DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import { holding } from '../platform/page.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid, notFound } from '../platform/problem.ts';
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
    const mounts = (await agents.mountsOn([name])).get(name) ?? [];
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
      nextCheck: (await agents.nextChecks([name])).get(name) ?? parts.estate.clock.now(),
      isSilent: (await agents.silent()).includes(name),
    };
  });

  door.serve(hostEndpoints.people, async ({ params: { name } }) => {
    const row = await hostNamed(parts, name);
    const host = await pools.hosts.get(row.id);
    if (!takesSessions(host)) return [];
    const pool = await pools.pool(host.pool_id);
    const { hosts, taking } = await pools.hosts.counts(pool.id);
    const load = { pool: pool.name, hosts, taking, limit: pool.session_limit };
    return (await parts.estate.activity.people(load, name)).map((session) => ({ ...session }));
  });

  door.serve(hostEndpoints.handOver, async ({ params: { name }, body: { account } }) => {
    const row = await hostNamed(parts, name);
    const { pool_id } = await pools.hosts.get(row.id);
    const { kind } = await pools.pool(pool_id);
    if (kind !== 'dedicated')
      throw invalid([{ path: 'account', message: `the hosts of ${row.pool} are for anybody` }]);
    if (account !== null && !(await parts.estate.directory.person(account)))
      throw invalid([{ path: 'account', message: `the directory has nobody called ${account}` }]);
    await parts.estate.broker.setOwner(newId('owner'), name, account);
    await parts.journal.note({
      at: parts.estate.clock.now(),
      kind: 'pool',
      subject: `pool:${pool_id}`,
      text: account === null ? `${name} is nobody’s any more` : `${name} was handed to ${account}`,
      link: `/pools/${pool_id}?host=${name}`,
    });
    return DONE;
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
