/** Datastores with whose disks lie on them, and the chain of disks of a host. */
import { datastoreEndpoints, type Datastore, type HostDisk } from '@vatline/contract/pool/datastore';
import { usualStorage } from '@vatline/core/pool/assumptions';
import { usesOf, type DiskOwner } from '@vatline/core/pool/datastore-use';
import { disksOnPlace, type DiskPlaces } from '@vatline/core/pool/demand';
import type { DiskReport } from '../estate/driver/disks.ts';
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
  const ownerOf = await owners(parts);
  const promises = await promisesOf(parts, pools);
  const found: Datastore[] = [];
  for (const site of await hypervisor.sites())
    for (const store of site.datastores) {
      const disks = await hypervisor.disksOn(site.name, store.name);
      const owned = disks.map((disk) => ({ bytes: disk.bytes, owner: ownerOf(disk) }));
      const uses = usesOf(owned);
      // What belongs to no pool takes what it takes; so do parents, which pools are promised anew.
      const others = uses.reduce(
        (sum, use) => sum + (use.kind === 'pool' || use.kind === 'parent' ? 0 : use.bytes),
        0,
      );
      const { name, capacityBytes, usedBytes, overcommit, operations, price } = store;
      const promised = others + (promises.get(`${site.name}/${name}`) ?? 0);
      found.push({
        site: site.name,
        name,
        capacityBytes,
        usedBytes,
        promisedBytes: Math.max(usedBytes, Math.round(promised)),
        overcommit,
        operations: { ...operations },
        price,
        uses,
        growingHosts: growingHosts(disks),
      });
    }
  return found;
}

/** Hosts whose disks grow from day to day: those with a clean state begin anew each night. */
function growingHosts(disks: readonly DiskReport[]): number {
  const cleaned = new Set(disks.filter((disk) => disk.role === 'clean').map((disk) => disk.machine));
  return disks.filter(({ role, machine }) => role === 'own' || (role === 'child' && !cleaned.has(machine)))
    .length;
}

/** Whose a disk is, by its machine or by the image that a parent was made from. */
async function owners(parts: Pick<Parts, 'db'>): Promise<(disk: DiskReport) => DiskOwner> {
  const { db } = parts;
  const hosts = await db
    .selectFrom('host')
    .innerJoin('pool', 'pool.id', 'host.pool_id')
    .select(['host.machine_id as machine', 'pool.name'])
    .execute();
  const lines = await db.selectFrom('image_line').select(['machine_id as machine', 'name']).execute();
  const pools = new Map(hosts.map(({ machine, name }) => [machine, name]));
  const builds = new Map(lines.map(({ machine, name }) => [machine, name]));
  const images = await versionNames(parts);
  return ({ role, machine, image }) => {
    if (role === 'parent')
      return { kind: 'parent', name: images.get(image ?? '') ?? 'an image that is gone' };
    const pool = machine === null ? undefined : pools.get(machine);
    if (pool !== undefined) return { kind: 'pool', name: pool };
    const line = machine === null ? undefined : builds.get(machine);
    return line === undefined ? { kind: 'other', name: '' } : { kind: 'build machine', name: line };
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

const diskWords: Record<DiskReport['role'], string> = {
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
