/** Puts things into the practice estate as if they had been made before the demo begins. */
import { diskBytesOf, type Hardware } from '@vatline/core/image/hardware';
import type { Step } from '@vatline/core/image/recipe';
import type { Entry } from '@vatline/core/inventory/entry';
import type { Instant } from '@vatline/core/time/instant';
import type { EstateDb } from './estate-database.ts';
import { linkMachines } from './fill-chassis.ts';
import type { CloneDisks } from '../driver/hypervisor.ts';
import type { HostSize } from '@vatline/core/pool/fit';
import { disksOfClone, type Disks } from './hypervisor/disks.ts';
import { buildDisk } from './hypervisor/machines.ts';
import type { GuestChange } from './hypervisor/guest-changes.ts';
import {
  diskBytesOf as guestDiskBytes,
  emptyGuest,
  guestInventory,
  runGuestStep,
  snapshotGrowth,
  type Guest,
} from './hypervisor/guest.ts';
import type { Guests } from './hypervisor/guests.ts';
import { idOfImage, idOfMachine, idOfSnapshot } from './hypervisor/made-id.ts';

export class PracticeSeed {
  constructor(
    private readonly db: EstateDb,
    private readonly guests: Guests,
    private readonly disks: Disks,
    private readonly seed: string,
  ) {}

  /** Puts an image there as if it had been captured before the demo begins. */
  async image(
    steps: readonly Step[],
    name: string,
  ): Promise<{ id: string; sizeBytes: number; entries: Entry[] }> {
    const traits = await this.guests.traits();
    const guest = steps.reduce<Guest>((state, step) => runGuestStep(state, step, traits).guest, emptyGuest);
    const captured = { ...guest, joined: null };
    const entries = guestInventory(captured, traits);
    const id = idOfImage(name);
    const sizeBytes = guestDiskBytes(captured, entries);
    await this.db
      .insertInto('image')
      .values({ id, guest: await this.guests.keep(captured), size_bytes: sizeBytes })
      .execute();
    return { id, sizeBytes, entries };
  }

  /** Puts a build machine there with a snapshot after each of its steps, powered off. */
  async buildMachine(
    name: string,
    site: string,
    hardware: Hardware,
    steps: readonly Step[],
  ): Promise<{ id: string; snapshots: string[] }> {
    const traits = await this.guests.traits();
    const id = idOfMachine(name);
    let guest = emptyGuest;
    const snapshots: string[] = [];
    for (const [i, step] of steps.entries()) {
      const before = guest;
      guest = runGuestStep(guest, step, traits).guest;
      const snapshot = idOfSnapshot(`${name}/${i}`);
      await this.db
        .insertInto('snapshot')
        .values({
          id: snapshot,
          machine_id: id,
          guest: await this.guests.keep(guest),
          size_bytes: snapshotGrowth(before, guest, traits),
        })
        .execute();
      snapshots.push(snapshot);
    }
    await this.db
      .insertInto('machine')
      .values({
        id,
        name,
        site,
        network: '',
        cores: hardware.processors,
        memory_bytes: hardware.memoryBytes,
        graphics: 0,
        power: 'off',
        guest: await this.guests.keep(guest),
        pool: null,
      })
      .execute();
    await this.disks.add({ id, site }, [buildDisk('standard', diskBytesOf(hardware))]);
    return { id, snapshots };
  }

  /** Gives a site so many times its room; for measurements with more hosts than the demo has room for. */
  async enlarge(site: string, times: number): Promise<void> {
    await this.db
      .updateTable('site')
      .set((eb) => ({
        cores: eb('cores', '*', times),
        memory_bytes: eb('memory_bytes', '*', times),
        makes_at_once: eb('makes_at_once', '*', times),
      }))
      .where('name', '=', site)
      .execute();
    await this.db
      .updateTable('datastore')
      .set((eb) => ({
        capacity_bytes: eb('capacity_bytes', '*', times),
        operations: eb('operations', '*', times),
      }))
      .where('site', '=', site)
      .execute();
    await this.db.updateTable('network').set({ range: '10.64.0.0/10' }).where('site', '=', site).execute();
  }

  /** Lets machines of a pool have been off in some nights, the last of which is over. */
  async nightsOff(
    pool: string,
    machines: readonly string[],
    nights: readonly { readonly off: Instant; readonly on: Instant }[],
  ): Promise<void> {
    const changes = nights.flatMap(({ off, on }) =>
      machines.flatMap((machine_id) => [
        { machine_id, at_ms: off, power: 'off' as const },
        { machine_id, at_ms: on, power: 'on' as const },
      ]),
    );
    await this.db.insertInto('power_change').values(changes).execute();
    const taking = nights.flatMap(({ off, on }) => [
      { pool, at_ms: off, hosts: 0 },
      { pool, at_ms: on, hosts: machines.length },
    ]);
    await this.db.insertInto('taking_change').values(taking).execute();
    await this.db
      .updateTable('machine')
      .set({ power_since_ms: nights.at(-1)?.on ?? 0 })
      .where('id', 'in', machines)
      .execute();
  }

  /** A host that somebody has changed since it was made. */
  async drift(hostName: string, changes: readonly GuestChange[]): Promise<void> {
    const host = await this.db
      .selectFrom('machine')
      .select(['id', 'guest'])
      .where('name', '=', hostName)
      .executeTakeFirstOrThrow();
    const guest = await this.guests.of(host);
    const drifted: Guest = { ...guest, changes: [...(guest.changes ?? []), ...changes] };
    await this.db
      .updateTable('machine')
      .set({ guest: await this.guests.keep(drifted) })
      .where('id', '=', host.id)
      .execute();
  }

  /** Puts hosts there as if they had been made before the demo begins. */
  async hosts(
    hosts: readonly SeededHost[],
    pool: {
      readonly name: string;
      readonly site: string;
      readonly network: string;
      readonly size: HostSize;
      readonly disks: CloneDisks;
      readonly ou: string;
    },
  ): Promise<string[]> {
    const images = await this.db.selectFrom('image').selectAll().execute();
    const byId = new Map(images.map((image) => [image.id, image]));
    const machines = hosts.map((host) => ({
      id: idOfMachine(host.name),
      name: host.name,
      site: pool.site,
      network: pool.network,
      cores: pool.size.processors,
      memory_bytes: pool.size.memoryBytes,
      graphics: pool.size.graphics,
      power: 'on' as const,
      power_since_ms: host.rebuiltAt,
      guest: byId.get(host.imageId)?.guest ?? '',
      pool: pool.name,
      image_id: host.imageId,
    }));
    for (let i = 0; i < machines.length; i += 100)
      await this.db
        .insertInto('machine')
        .values(machines.slice(i, i + 100))
        .execute();
    for (let i = 0; i < machines.length; i += 300)
      await this.db
        .insertInto('power_change')
        .values(
          machines
            .slice(i, i + 300)
            .flatMap(({ id, power, power_since_ms }, k) =>
              [hosts[i + k]?.thereSince ?? [], power_since_ms]
                .flat()
                .map((at_ms) => ({ machine_id: id, at_ms, power })),
            ),
        )
        .execute();
    for (const host of hosts) await this.seedDisks(host, pool.site, pool.disks, byId);
    if (pool.disks.kind === 'network') await linkMachines(this.db, pool.site, this.seed);
    for (let i = 0; i < hosts.length; i += 300) {
      const part = hosts.slice(i, i + 300);
      await this.db
        .insertInto('computer')
        .values(part.map((host) => ({ name: host.name, ou: pool.ou })))
        .execute();
      await this.db
        .insertInto('registration')
        .values(part.map((host) => ({ host: host.name, pool: pool.name })))
        .execute();
    }
    return machines.map((machine) => machine.id);
  }

  private async seedDisks(
    { name, imageId, rebuiltAt }: SeededHost,
    site: string,
    disks: CloneDisks,
    images: ReadonlyMap<string, { readonly size_bytes: number }>,
  ): Promise<void> {
    const bytes = images.get(imageId)?.size_bytes ?? 0;
    const parent = disks.kind === 'linked' ? { imageId, datastore: disks.parentDatastore, bytes } : undefined;
    const own = disksOfClone(disks, bytes, this.disks.growthOf(name));
    await this.disks.add({ id: idOfMachine(name), site }, own, parent, rebuiltAt);
  }
}

/** A host that was there before the demo begins. */
export interface SeededHost {
  readonly name: string;
  readonly imageId: string;
  /** When its disks were made last. */
  readonly rebuiltAt: Instant;
  /** Since when it is there, where it was made anew since. */
  readonly thereSince?: Instant;
}
