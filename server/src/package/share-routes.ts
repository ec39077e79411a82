/** File shares over HTTP: what is asked of them, and who may do what. */
import type { Router } from 'express';
import { shareEndpoints, type AttachedPackage, type ShareRights } from '@vatline/contract/share';
import type { PackageVersion } from '@vatline/contract/package';
import { fromJson } from '../platform/database.ts';
import { serve } from '../platform/http.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import type { PackageStore } from './store.ts';

export function shareRoutes(router: Router, parts: Parts, store: PackageStore): void {
  const { estate, journal } = parts;

  serve(router, shareEndpoints.demand, async () => {
    const versions = await store.versions();
    const shares = await estate.share.shares();
    return {
      shares: await Promise.all(
        shares.map(async (share) => {
          const rights = await estate.share.rights(share.name);
          return {
            name: share.name,
            capacityBytes: share.capacityBytes,
            usedBytes: share.usedBytes,
            operationsLimit: share.operationsPerSecond,
            price: share.price,
            rights,
            faults: rightsFaults(rights),
            containers: versions.filter((version) => version.share === share.name).length,
          };
        }),
      ),
      versionBytes: versions.flatMap((version) => (version.share === null ? [] : [version.containerBytes])),
      pools: await poolsWith(parts, versions),
    };
  });

  serve(router, shareEndpoints.setRights, async ({ params, body }) => {
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
    journal.tell('packages', 'estate');
    return { done: true as const };
  });
}

/** Hosts read, users nothing, packagers write. */
function rightsFaults({ hosts, packagers, users }: ShareRights): string[] {
  return [
    ...(hosts === 'nothing' ? ['hosts may not read it, so nothing on it can be attached'] : []),
    ...(hosts === 'write'
      ? ['hosts may write to it: one that is taken over changes what all others run']
      : []),
    ...(packagers === 'write' ? [] : ['packagers may not write to it, so nothing can be uploaded']),
    ...(users === 'nothing' ? [] : [`people may ${users} it, though only hosts have to`]),
  ];
}

async function poolsWith({ db, estate }: Parts, versions: readonly PackageVersion[]) {
  const pools = await db
    .selectFrom('pool')
    .leftJoin('blend', 'blend.id', 'pool.blend_id')
    .select((eb) => [
      'pool.name',
      'pool.session_limit',
      'blend.packages_json',
      eb
        .selectFrom('host')
        .select(({ fn }) => fn.countAll<number>().as('n'))
        .whereRef('host.pool_id', '=', 'pool.id')
        .as('hosts'),
    ])
    .orderBy('pool.name')
    .execute();
  return Promise.all(
    pools.map(async (pool) => {
      const ids = new Set(fromJson<string[]>(pool.packages_json ?? '[]'));
      const hosts = pool.hosts ?? 0;
      return {
        name: pool.name,
        hosts,
        expected: [...(await estate.activity.expected(pool.name, hosts, pool.session_limit))],
        packages: versions.filter((version) => ids.has(version.id)).map(attachedPackage),
      };
    }),
  );
}

/** Where it was not tried on a host: so many reads to open it, and one for each so many bytes of its tables and programs. */
const OPENING_READS = 12;
const BYTES_A_READ = 400_000;
const MS_A_READ = 3.2;
const REGISTER_MS = 35;

function attachedPackage(version: PackageVersion): AttachedPackage {
  const { id, name, containerBytes, entryPoints, details, signIn } = version;
  const reads = OPENING_READS + Math.ceil(containerBytes / BYTES_A_READ);
  return {
    versionId: id,
    name,
    version: version.version,
    containerBytes,
    entryPoints: entryPoints.length,
    attachedAhead: details.attach?.timing === 'ahead',
    operations: signIn?.operations ?? reads,
    mountMs: signIn?.mountMs ?? Math.round(reads * MS_A_READ),
    registerMs: signIn?.registerMs ?? entryPoints.length * REGISTER_MS,
    measuredOn: signIn?.host ?? null,
  };
}
