/** The practice estate: every stand-in behind the driver, and its controls. */
import { assessmentCsv } from '@vatline/demo/assessment';
import type { DirectoryEntries } from '@vatline/core/directory/entries';
import type { EstatePlan } from '@vatline/demo/estate';
import { buildSources } from '@vatline/demo/sources';
import type { Instant } from '@vatline/core/time/instant';
import type { EstateControl, HandChange, PracticeFault, SecretChange } from '../control.ts';
import type { EstateDriver } from '../driver/driver.ts';
import type { StreamingStores } from '../driver/streaming.ts';
import type { Sources } from '../driver/sources.ts';
import { PracticeActivity } from './activity.ts';
import { PracticeBroker } from './broker.ts';
import { PracticeClock } from './clock.ts';
import { PracticeDirectory } from './directory.ts';
import { openEstateDatabase, readSetting, type EstateDb } from './estate-database.ts';
import { completeSites, fillEstate } from './fill-estate.ts';
import { completeChassis } from './fill-chassis.ts';
import { completeProviders, PracticeProviders } from './providers.ts';
import { PracticeChassis } from './chassis.ts';
import { PracticeAgents } from './hosts/agents.ts';
import { AttachGate } from './hosts/attach-gate.ts';
import { PracticeInstaller } from './hosts/install-agent.ts';
import { takeEntries } from './take-entries.ts';
import { PracticeTrust } from './hosts/trust.ts';
import { ImportedImages } from './hypervisor/imported-images.ts';
import { PracticeHypervisor } from './hypervisor/practice-hypervisor.ts';
import { PracticeLicences } from './licences.ts';
import { PracticeOperations } from './operations.ts';
import { PracticePackaging } from './packaging.ts';
import { Presence } from './presence.ts';
import { SeatTimes } from './seat-times.ts';
import { changeInSecret } from './secret-changes.ts';
import { PracticeSeed } from './seed.ts';
import { PracticeShare } from './share.ts';
import { randomBytes } from 'node:crypto';
import { dirname, join } from 'node:path';

export class PracticeEstate implements EstateDriver, EstateControl {
  private constructor(
    private readonly db: EstateDb,
    readonly clock: PracticeClock,
    readonly operations: PracticeOperations,
    readonly hypervisor: PracticeHypervisor,
    readonly directory: PracticeDirectory,
    readonly licences: PracticeLicences,
    readonly streaming: StreamingStores,
    readonly chassis: PracticeChassis,
    readonly providers: PracticeProviders,
    readonly broker: PracticeBroker,
    readonly share: PracticeShare,
    readonly agents: PracticeAgents,
    readonly installer: PracticeInstaller,
    readonly activity: PracticeActivity,
    readonly packaging: PracticePackaging,
    readonly trust: PracticeTrust,
    readonly sources: Sources,
    /** For the demo, and for tests. */
    readonly seed: PracticeSeed,
  ) {}

  /** Opens the estate's file. `plan` fills it when it is new. */
  static async open(path: string, plan: EstatePlan, monotonic: () => number): Promise<PracticeEstate> {
    const db = await openEstateDatabase(path);
    if ((await readSetting(db, 'now')) === undefined) await fillEstate(db, plan);
    await completeSites(db, plan);
    await completeChassis(db, plan);
    await completeProviders(db, plan);
    const seed = (await readSetting(db, 'seed')) ?? '';
    const operations = new PracticeOperations(db, seed);
    const clock = await PracticeClock.open(db, operations, monotonic);
    operations.now = () => clock.now();
    const share = new PracticeShare(db, join(dirname(path), 'shares'));
    const trust = new PracticeTrust(db);
    const imported = new ImportedImages(join(dirname(path), 'imported-images'));
    const seats = new SeatTimes(db, () => clock.now());
    const presence = new Presence(db, seats, { now: () => clock.now(), zone: clock.zone, seed });
    const hypervisor = new PracticeHypervisor(db, operations, imported, seed);
    return new PracticeEstate(
      db,
      clock,
      operations,
      hypervisor,
      await PracticeDirectory.open(db, operations),
      new PracticeLicences(db, operations),
      streamingOf(hypervisor, operations),
      new PracticeChassis({ db, operations, ...partsOf(hypervisor) }),
      new PracticeProviders(db, operations, hypervisor.room),
      new PracticeBroker(db, operations, seats),
      share,
      new PracticeAgents(db, operations, share, new AttachGate(db, share, trust), hypervisor.streams),
      new PracticeInstaller(db, operations, imported, hypervisor.guests, () => hypervisor.guests.traits()),
      new PracticeActivity(db, operations, clock.zone, seed, presence),
      new PracticePackaging(db, operations),
      trust,
      { current: () => Promise.resolve(buildSources(clock.now())) },
      new PracticeSeed(db, hypervisor.guests, hypervisor.disks, seed),
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

  stopJump(): void {
    this.clock.stopJump();
  }

  nextEvent(): Promise<Instant | null> {
    return this.clock.nextEvent();
  }

  faults(): Promise<PracticeFault[]> {
    return this.db.selectFrom('fault').select(['id', 'kind', 'target']).orderBy('id').execute();
  }

  async addFault(fault: Omit<PracticeFault, 'id'>): Promise<PracticeFault> {
    const row = { id: `fault-${randomBytes(4).toString('hex')}`, ...fault };
    await this.db
      .insertInto('fault')
      .values({ ...row, since_ms: this.clock.now() })
      .execute();
    return row;
  }

  async removeFault(id: string): Promise<boolean> {
    const result = await this.db.deleteFrom('fault').where('id', '=', id).executeTakeFirst();
    return result.numDeletedRows > 0n;
  }

  assessment(): string {
    return assessmentCsv();
  }

  takeEntries(entries: DirectoryEntries) {
    return takeEntries(this.db, entries);
  }

  behindOurBack(host: string, change: SecretChange): Promise<void> {
    return changeInSecret(this.db, this.hypervisor, host, change);
  }

  byHand(machineId: string, change: HandChange): Promise<void> {
    return this.hypervisor.byHand(machineId, change);
  }

  async close(): Promise<void> {
    await this.clock.stop();
    await this.db.destroy();
  }
}

function streamingOf({ streams }: PracticeHypervisor, operations: PracticeOperations): StreamingStores {
  return {
    stores: () => streams.stores(),
    of: (hosts) => streams.of(hosts),
    assign: async (_key, hosts, imageId) => {
      await operations.refuseIfFaulty('assign stream');
      await streams.assign(hosts, imageId);
    },
  };
}

function partsOf({ room, machines, images, guests, disks, streams }: PracticeHypervisor) {
  return { room, machines, images, guests, disks, streams };
}
