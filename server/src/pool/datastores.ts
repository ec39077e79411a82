/** Datastores with whose disks lie on them, and the chain of disks of a host. */
import { sql } from 'kysely';
import { datastoreEndpoints, type Datastore, type HostDisk } from '@vatline/contract/pool/datastore';
import { usualStorage } from '@vatline/core/pool/assumptions';
import { usesOf, type DiskOwner } from '@vatline/core/pool/datastore-use';
import { disksOnPlace, type DiskPlaces } from '@vatline/core/pool/demand';
import type { StackedDisk, DiskUse, MachineGroup } from '../estate/driver/disks.ts';
import { fromJson } from '../platform/database.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { settingsIn, type PoolStore } from './pools.ts';
import { versionNames } from './version-names.ts';

export function datastoreRoutes(door: Door, parts: Parts, pools: PoolStore): void {
  door.serve(datastoreEndpoints.list, async () => ({
    datastores: await allDatastores(parts, pools),
    growth: {
      medianBytesPerDay: usualStorage.growthBytesPerDay,
      p90BytesPerDay: usualStorage.growthP90BytesPerDay,
    },
  }));
  door.serve(datastoreEndpoints.ofHost, ({ params }) => disksOfHost(parts, params.name));
}

async function allDatastores(parts: Parts, pools: PoolStore): Promise<Datastore[]> {
  const { hypervisor } = parts.estate;
  const owners = await ownersOf(parts);
  const promises = await promisesOf(parts, pools);
  const taken = await hypervisor.diskUses(owners.groups);
  return (await hypervisor.sites()).flatMap((site) =>
    site.datastores.map((store) => {
      const here = taken.filter((use) => use.site === site.name && use.datastore === store.name);
      const uses = usesOf(here.map((use) => ({ ...use, owner: owners.of(use) })));
      // What belongs to no pool takes what it takes; so do parents, which pools are promised anew.
      const others = uses.reduce(
        (sum, use) => sum + (use.kind === 'pool' || use.kind === 'parent' ? 0 : use.bytes),
        0,
      );
      const { name, capacityBytes, usedBytes, overcommit, operations, price } = store;
      const promised = others + (promises.get(`${site.name}/${name}`) ?? 0);
      return {
        site: site.name,
        name,
        capacityBytes,
        usedBytes,
        promisedBytes: Math.max(usedBytes, Math.round(promised)),
        overcommit,
        operations: { ...operations },
        price,
        uses,
        growingHosts: here.reduce((sum, use) => sum + use.growing, 0),
      };
    }),
  );
}

interface Owners {
  /** Hosts by pool, and each build machine by itself. */
  readonly groups: readonly MachineGroup[];
  /** Whose disks are, by their group or by the image that parents were made from. */
  of(use: DiskUse): DiskOwner;
}

async function ownersOf(parts: Pick<Parts, 'db'>): Promise<Owners> {
  const { db } = parts;
  const pools = await db
    .selectFrom('host')
    .innerJoin('pool', 'pool.id', 'host.pool_id')
    .select(['pool.name', sql<string>`json_group_array(host.machine_id)`.as('machines')])
    .where('host.machine_id', 'is not', null)
    .groupBy('pool.id')
    .execute();
  const lines = await db.selectFrom('image_line').select(['machine_id as machine', 'name']).execute();
  const groups = [
    ...pools.map(({ name, machines }) => ({
      owner: { kind: 'pool' as const, name },
      machines: fromJson<string[]>(machines),
    })),
    ...lines.flatMap(({ name, machine }) =>
      machine === null ? [] : [{ owner: { kind: 'build machine' as const, name }, machines: [machine] }],
    ),
  ];
  const images = await versionNames(parts);
  return {
    groups: groups.map(({ machines }, i) => ({ name: String(i), machines })),
    of: ({ group, image }) =>
      image === null
        ? (groups[Number(group ?? NaN)]?.owner ?? { kind: 'other', name: '' })
        : { kind: 'parent', name: images.get(image) ?? 'an image that is gone' },
  };
}

/** What the hosts of all pools may come to take until they are rebuilt, by `site/datastore`. */
async function promisesOf(parts: Parts, pools: PoolStore): Promise<ReadonlyMap<string, number>> {
  const promised = new Map<string, number>();
  for (const pool of await pools.all()) {
    const settings = settingsIn(pool);
    const plan = {
      imageBytes: await imageBytesOf(parts, pool.blend_id),
      dataBytes: settings.dataGigabytes * 1e9,
      isCleanedAtSignOut: settings.signOut !== 'keep',
      days: settings.days,
      scratchBytes: settings.scratchGigabytes * 1e9,
    };
    const hosts = await pools.hosts.byPlace(pool.id);
    for (const [number, place] of (await pools.placesOf(pool.id)).entries())
      for (const disk of disksOnPlace(pool.clone, plan, place satisfies DiskPlaces)) {
        const key = `${place.site}/${disk.datastore}`;
        const bytes = disk.fixedBytes + (hosts.get(number) ?? 0) * disk.perHostBytes;
        promised.set(key, (promised.get(key) ?? 0) + bytes);
      }
  }
  return promised;
}

async function imageBytesOf({ db }: Parts, blendId: string | null): Promise<number> {
  const row = await db
    .selectFrom('blend')
    .innerJoin('image_version', 'image_version.id', 'blend.image_version_id')
    .select('image_version.size_bytes')
    .where('blend.id', '=', blendId ?? '')
    .executeTakeFirst();
  return row?.size_bytes ?? 0;
}

const diskWords: Record<StackedDisk['role'], string> = {
  build: 'disk of a build machine',
  parent: 'parent',
  own: 'whole disk',
  child: 'child: what this host has besides its parent',
  clean: 'clean state: what it returns to at sign-out',
  running: 'running: what was written since',
  swap: 'swap file',
  data: 'personal data',
  scratch: 'scratch disk',
  memory: 'memory of a suspended host',
};

async function disksOfHost(parts: Parts, name: string): Promise<HostDisk[]> {
  const host = await parts.db
    .selectFrom('host')
    .select('machine_id')
    .where('name', '=', name)
    .executeTakeFirst();
  if (!host) throw notFound(`host ${name}`);
  if (host.machine_id === null) return [];
  const images = await versionNames(parts);
  return (await parts.estate.hypervisor.disksOf(host.machine_id)).map(
    ({ role, site, datastore, bytes, image, above }) => ({
      role,
      site,
      datastore,
      bytes,
      name:
        role === 'parent' ? `parent: ${images.get(image ?? '') ?? 'an image that is gone'}` : diskWords[role],
      standOn: above,
    }),
  );
}
