/** File shares over HTTP: what is asked of them, and who may do what. */
import { shareEndpoints, type AttachedPackage } from '@vatline/contract/share';
import type { PackageVersion } from '@vatline/contract/package';
import { attachCost } from '@vatline/core/package/attach-cost';
import { rightsFaults } from '@vatline/core/package/share-rights';
import { DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import type { PackageStore } from './store.ts';

export function shareRoutes(door: Door, parts: Parts, store: PackageStore): void {
  const { estate, journal } = parts;

  door.serve(shareEndpoints.demand, async () => {
    const versions = await store.versions.all();
    const shares = await estate.share.shares();
    const scales = new Map(shares.map((share) => [share.name, share.scale]));
    const scaleOf = (version: PackageVersion) => scales.get(version.share ?? '') ?? 1;
    return {
      shares: await Promise.all(
        shares.map(async (share) => {
          const rights = await estate.share.rights(share.name);
          return {
            name: share.name,
            capacityBytes: share.capacityBytes,
            usedBytes: share.usedBytes,
            scale: share.scale,
            operationsLimit: share.operationsPerSecond,
            price: share.price,
            rights,
            faults: rightsFaults(rights),
            containers: versions.filter((version) => version.share === share.name).length,
          };
        }),
      ),
      versionBytes: versions.flatMap((version) =>
        version.share === null ? [] : [version.containerBytes * scaleOf(version)],
      ),
      pools: await poolsWith(parts, versions, scaleOf),
    };
  });

  door.serve(shareEndpoints.setRights, async ({ params, body }) => {
    const known = (await estate.share.shares()).some((share) => share.name === params.name);
    if (!known) throw notFound(`share ${params.name}`);
    await estate.share.setRights(newId('share'), params.name, body);
    await journal.note({
      at: estate.clock.now(),
      kind: 'packages',
      subject: `share:${params.name}`,
      text: `Rights on ${params.name}: hosts ${body.hosts}, packagers ${body.packagers}, users ${body.users}`,
      link: '/packages/shares',
    });
    return DONE;
  });
}

async function poolsWith(
  { db, estate }: Parts,
  versions: readonly PackageVersion[],
  scaleOf: (version: PackageVersion) => number,
) {
  const pools = await db
    .selectFrom('pool')
    .select((eb) => [
      'pool.name',
      'pool.session_limit',
      'pool.blend_id',
      eb
        .selectFrom('host')
        .select(({ fn }) => fn.countAll<number>().as('n'))
        .whereRef('host.pool_id', '=', 'pool.id')
        .as('hosts'),
    ])
    .orderBy('pool.name')
    .execute();
  const attached = await db
    .selectFrom('blend_package')
    .innerJoin('pool', 'pool.blend_id', 'blend_package.blend_id')
    .select(['pool.blend_id', 'package_version_id'])
    .execute();
  return Promise.all(
    pools.map(async (pool) => {
      const own = attached.filter(({ blend_id }) => blend_id === pool.blend_id);
      const ids = new Set(own.map(({ package_version_id }) => package_version_id));
      const hosts = pool.hosts ?? 0;
      return {
        name: pool.name,
        hosts,
        expected: [...(await estate.activity.expected(pool.name, hosts, pool.session_limit))],
        packages: versions
          .filter((version) => ids.has(version.id))
          .map((version) => attachedPackage(version, scaleOf(version))),
      };
    }),
  );
}

function attachedPackage(version: PackageVersion, scale: number): AttachedPackage {
  const { id, name, entryPoints, details, signIn } = version;
  const containerBytes = version.containerBytes * scale;
  return {
    versionId: id,
    name,
    version: version.version,
    containerBytes,
    entryPoints: entryPoints.length,
    attachedAhead: details.attach?.timing === 'ahead',
    ...attachCost(containerBytes, entryPoints.length, signIn),
    measuredOn: signIn?.host ?? null,
  };
}
