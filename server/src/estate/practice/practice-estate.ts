/** The practice estate: every stand-in behind the driver, its controls, and how it is filled. */
import {
  diskBytesOf as guestDiskBytes,
  emptyGuest,
  guestInventory,
  runGuestStep,
  snapshotGrowth,
  type Guest,
} from './guest.ts';
import { digest, OWN_DISK_BYTES, PracticeHypervisor } from './hypervisor.ts';
import { AttachGate } from './attach-gate.ts';
import { ImportedImages } from './imported-images.ts';
import { PracticeActivity, PracticeAgents } from './hosts.ts';
import { PracticeBroker, PracticeDirectory } from './directory.ts';
import { PracticeClock } from './clock.ts';
import type { GuestChange } from './guest-changes.ts';
import { PracticeOperations } from './operations.ts';
import { PracticeInstaller } from './install-agent.ts';
import { PracticePackaging } from './packaging.ts';
import { PracticeShare } from './share.ts';
import { PracticeTrust } from './trust.ts';
import { openEstateDatabase, readSetting, type EstateDb } from './estate-database.ts';
import type { EstateControl, HandChange, PracticeFault } from '../control.ts';
import type { EstateDriver } from '../driver/driver.ts';
import type { Sources } from '../driver/sources.ts';
import { buildSources } from '@vatline/demo/sources';
import { assessmentCsv } from '@vatline/demo/assessment';
import type { EstatePlan } from '@vatline/demo/estate';
import { diskBytesOf, type Hardware } from '@vatline/core/image/hardware';
import type { Step } from '@vatline/core/image/recipe';
import type { Entry } from '@vatline/core/inventory/entry';
import type { Instant } from '@vatline/core/time/instant';
import { randomBytes } from 'node:crypto';
import { dirname, join } from 'node:path';

export class PracticeEstate implements EstateDriver, EstateControl {
  private constructor(
    private readonly db: EstateDb,
    readonly clock: PracticeClock,
    readonly operations: PracticeOperations,
    readonly hypervisor: PracticeHypervisor,
    readonly directory: PracticeDirectory,
    readonly broker: PracticeBroker,
    readonly share: PracticeShare,
    readonly agents: PracticeAgents,
    readonly installer: PracticeInstaller,
    readonly activity: PracticeActivity,
    readonly packaging: PracticePackaging,
    readonly trust: PracticeTrust,
    readonly sources: Sources,
  ) {}

  /** Opens the estate's file. `plan` fills it when it is new. */
  static async open(path: string, plan: EstatePlan, monotonic: () => number): Promise<PracticeEstate> {
    const db = await openEstateDatabase(path);
    if ((await readSetting(db, 'now')) === undefined) await fill(db, plan);
    const seed = (await readSetting(db, 'seed')) ?? '';
    const operations = new PracticeOperations(db, seed);
    const clock = await PracticeClock.open(db, operations, monotonic);
    operations.now = () => clock.now();
    const share = new PracticeShare(db, join(dirname(path), 'shares'));
    const trust = new PracticeTrust(db);
    const imported = new ImportedImages(join(dirname(path), 'imported-images'));
    const hypervisor = new PracticeHypervisor(db, operations, imported);
    return new PracticeEstate(
      db,
      clock,
      operations,
      hypervisor,
      await PracticeDirectory.open(db, operations),
      new PracticeBroker(db, operations),
      share,
      new PracticeAgents(db, operations, share, new AttachGate(db, share, trust)),
      new PracticeInstaller(db, operations, imported, () => hypervisor.traits()),
      new PracticeActivity(db, operations, clock.zone, seed),
      new PracticePackaging(db, operations),
      trust,
      { current: () => Promise.resolve(buildSources(clock.now())) },
    );
  }

  get rate(): number {
    return this.clock.rate;
  }

  get jumpingTo(): Instant | null {
    return this.clock.jumpingTo;
  }

  setRate(rate: number): Promise<void> {
    return this.clock.setRate(rate);
  }

  jumpTo(target: Instant): void {
    this.clock.jumpTo(target);
  }

  nextEvent(): Promise<Instant | null> {
    return this.clock.nextEvent();
  }

  faults(): Promise<PracticeFault[]> {
    return this.db.selectFrom('fault').selectAll().orderBy('id').execute() as Promise<PracticeFault[]>;
  }

  async addFault(fault: Omit<PracticeFault, 'id'>): Promise<PracticeFault> {
    const row = { id: `fault-${randomBytes(4).toString('hex')}`, ...fault };
    await this.db.insertInto('fault').values(row).execute();
    return row;
  }

  async removeFault(id: string): Promise<boolean> {
    const result = await this.db.deleteFrom('fault').where('id', '=', id).executeTakeFirst();
    return result.numDeletedRows > 0n;
  }

  assessment(): string {
    return assessmentCsv();
  }

  byHand(machineId: string, change: HandChange): Promise<void> {
    return this.hypervisor.byHand(machineId, change);
  }

  async close(): Promise<void> {
    await this.clock.stop();
    await this.db.destroy();
  }

  /** Puts an image there as if it had been captured before the demo begins. */
  async seedImage(
    steps: readonly Step[],
    name: string,
  ): Promise<{ id: string; sizeBytes: number; entries: Entry[] }> {
    const traits = await this.hypervisor.traits();
    const guest = steps.reduce<Guest>((state, step) => runGuestStep(state, step, traits).guest, emptyGuest);
    const captured = { ...guest, joined: null };
    const entries = guestInventory(captured, traits);
    const id = `img-${digest(name)}`;
    const sizeBytes = guestDiskBytes(captured, entries);
    await this.db
      .insertInto('image')
      .values({ id, guest_json: JSON.stringify(captured), size_bytes: sizeBytes })
      .execute();
    return { id, sizeBytes, entries };
  }

  /** Puts a build machine there with a snapshot after each of its steps, powered off. */
  async seedBuildMachine(
    name: string,
    site: string,
    hardware: Hardware,
    steps: readonly Step[],
  ): Promise<{ id: string; snapshots: string[] }> {
    const traits = await this.hypervisor.traits();
    const id = `vm-${digest(name)}`;
    let guest = emptyGuest;
    const snapshots: string[] = [];
    for (const [i, step] of steps.entries()) {
      const before = guest;
      guest = runGuestStep(guest, step, traits).guest;
      const snapshot = `snap-${digest(`${name}/${i}`)}`;
      await this.db
        .insertInto('snapshot')
        .values({
          id: snapshot,
          machine_id: id,
          guest_json: JSON.stringify(guest),
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
        datastore: 'standard',
        cores: hardware.processors,
        disk_bytes: diskBytesOf(hardware),
        power: 'off',
        guest_json: JSON.stringify(guest),
        pool: null,
      })
      .execute();
    return { id, snapshots };
  }

  /** A host that somebody has changed since it was made. */
  async seedDrift(hostName: string, changes: readonly GuestChange[]): Promise<void> {
    const host = await this.db
      .selectFrom('machine')
      .select(['id', 'guest_json'])
      .where('name', '=', hostName)
      .executeTakeFirstOrThrow();
    const guest = JSON.parse(host.guest_json) as Guest;
    const drifted: Guest = { ...guest, changes: [...(guest.changes ?? []), ...changes] };
    await this.db
      .updateTable('machine')
      .set({ guest_json: JSON.stringify(drifted) })
      .where('id', '=', host.id)
      .execute();
  }

  /** Puts hosts there as if they had been made before the demo begins. */
  async seedHosts(
    hosts: readonly { name: string; imageId: string }[],
    pool: {
      name: string;
      site: string;
      datastore: string;
      processors: number;
      clone: 'full' | 'linked' | 'network';
      ou: string;
    },
  ): Promise<string[]> {
    const images = await this.db.selectFrom('image').selectAll().execute();
    const byId = new Map(images.map((image) => [image.id, image]));
    const own = OWN_DISK_BYTES[pool.clone];
    const machines = hosts.map((host) => {
      const image = byId.get(host.imageId);
      return {
        id: `vm-${digest(host.name)}`,
        name: host.name,
        site: pool.site,
        datastore: pool.datastore,
        cores: pool.processors,
        disk_bytes: pool.clone === 'full' ? own + (image?.size_bytes ?? 0) : own,
        power: 'on',
        guest_json: image?.guest_json ?? '{}',
        pool: pool.name,
      };
    });
    for (let i = 0; i < machines.length; i += 100)
      await this.db
        .insertInto('machine')
        .values(machines.slice(i, i + 100))
        .execute();
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
}

async function fill(db: EstateDb, plan: EstatePlan): Promise<void> {
  await db.transaction().execute(async (tx) => {
    const insert = async (table: Parameters<typeof tx.insertInto>[0], rows: readonly object[]) => {
      for (let i = 0; i < rows.length; i += 200)
        await tx
          .insertInto(table)
          .values(rows.slice(i, i + 200) as never)
          .execute();
    };
    await insert(
      'site',
      plan.sites.map(({ name, cores }) => ({ name, cores })),
    );
    await insert(
      'datastore',
      plan.sites.flatMap((site) =>
        site.datastores.map((d) => ({
          site: site.name,
          name: d.name,
          capacity_bytes: d.capacityBytes,
          operations: d.operations,
        })),
      ),
    );
    await insert(
      'share',
      plan.shares.map((share) => ({
        name: share.name,
        capacity_bytes: share.capacityBytes,
        operations: share.operations,
        price: share.price,
        latency_ms: share.latencyMs,
        rights_json: JSON.stringify(share.rights),
      })),
    );
    await insert('unit', plan.units);
    await insert('person', plan.people);
    await insert(
      'people_group',
      plan.groups.map((g) => ({ name: g.name, rule_branch: g.ruleBranch ?? null })),
    );
    await insert(
      'member',
      plan.groups.flatMap((g) => [
        ...g.people.map((person) => ({ group_name: g.name, person, child: null })),
        ...g.groups.map((child) => ({ group_name: g.name, person: null, child })),
      ]),
    );
    await insert(
      'curve',
      plan.curves.map((c) => ({ pool: c.pool, expected_json: JSON.stringify(c.expected) })),
    );
    await insert(
      'installer',
      plan.installers.map((i) => ({ id: i.id, json: JSON.stringify(i) })),
    );
    await insert(
      'trait',
      Object.entries(plan.traits).map(([application, traits]) => ({
        application,
        json: JSON.stringify(traits),
      })),
    );
    const settings = {
      seed: plan.seed,
      zone: plan.zone,
      root: plan.root,
      rate: String(plan.rate),
      now: String(plan.start),
    };
    await insert(
      'setting',
      Object.entries(settings).map(([name, value]) => ({ name, value })),
    );
  });
}
