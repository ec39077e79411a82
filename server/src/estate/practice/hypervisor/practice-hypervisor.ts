/** The practice hypervisor: its parts behind the one interface of the driver. */
import type { HostSize } from '@vatline/core/pool/fit';
import type { Step } from '@vatline/core/image/recipe';
import type { Instant } from '@vatline/core/time/instant';
import type { HandChange } from '../../control.ts';
import type { MachineGroup } from '../../driver/disks.ts';
import type {
  CloneSpec,
  Hypervisor,
  ImportedImage,
  MachineSpec,
  PowerChange,
} from '../../driver/hypervisor.ts';
import type { EstateDb } from '../estate-database.ts';
import type { ImportedImages } from './imported-images.ts';
import type { PracticeOperations } from '../operations.ts';
import { Clones } from './clones.ts';
import { Disks } from './disks.ts';
import { Guests } from './guests.ts';
import { Images } from './images.ts';
import { Machines } from './machines.ts';
import { PowerTimes } from './power-times.ts';
import { Quota } from './quota.ts';
import { Room } from './room.ts';
import { Streams } from './streams.ts';
import { Snapshots } from './snapshots.ts';

export class PracticeHypervisor implements Hypervisor {
  readonly guests: Guests;
  readonly disks: Disks;
  private readonly quota: Quota;
  readonly streams: Streams;
  readonly room: Room;
  readonly machines: Machines;
  private readonly times: PowerTimes;
  private readonly snapshots: Snapshots;
  readonly images: Images;
  private readonly clones: Clones;

  constructor(db: EstateDb, operations: PracticeOperations, imported: ImportedImages, seed: string) {
    this.guests = new Guests(db, imported);
    this.disks = new Disks(db, () => operations.now(), seed);
    this.room = new Room(db, this.disks);
    this.quota = new Quota(db, operations);
    this.streams = new Streams(db, () => operations.now(), seed);
    this.times = new PowerTimes(db, () => operations.now());
    this.machines = new Machines(
      db,
      operations,
      this.guests,
      this.room,
      this.disks,
      this.times,
      this.streams,
    );
    this.snapshots = new Snapshots(db, operations, this.guests, this.machines);
    this.images = new Images(db, operations, this.guests, this.machines);
    const { room, machines, images, guests, disks, streams } = this;
    this.clones = new Clones(db, operations, { room, machines, images, guests, disks, streams });
  }

  sites = () => this.room.sites();
  makesAtOnce = () => this.room.makesAtOnce();
  requestQuota = (key: string, site: string, more: HostSize) => this.quota.request(key, site, more);
  disksOf = (machineId: string) => this.disks.of(machineId);
  diskUses = (groups: readonly MachineGroup[]) => this.disks.uses(groups);
  machineNames = () => this.machines.names();
  hostMachines = (ids: readonly string[]) => this.machines.hostMachines(ids);
  hostDisks = (ids: readonly string[]) => this.machines.hostDisks(ids);
  imageContents = (ids: readonly string[]) => this.machines.imageContents(ids);
  machine = (id: string) => this.machines.report(id);
  inventory = (machineId: string) => this.machines.inventory(machineId);
  createMachine = (key: string, spec: MachineSpec) => this.machines.create(key, spec);
  deleteMachine = (_key: string, machineId: string) => this.machines.delete(machineId);
  runStep = (key: string, machineId: string, step: Step) => this.machines.runStep(key, machineId, step);
  onTime = (ids: readonly string[], from: Instant, to: Instant) => this.times.between(ids, from, to);
  power = (key: string, machineId: string, to: PowerChange) => this.machines.power(key, machineId, to);
  copy = (key: string, machineId: string, name: string) => this.machines.copy(key, machineId, name);
  generalise = (key: string, machineId: string) => this.machines.generalise(key, machineId);
  byHand = (machineId: string, change: HandChange) => this.machines.byHand(machineId, change);

  snapshot = (key: string, machineId: string) => this.snapshots.take(key, machineId);
  snapshotInventory = (snapshotId: string) => this.snapshots.inventory(snapshotId);
  snapshotBytes = (snapshotId: string) => this.snapshots.bytes(snapshotId);
  deleteSnapshot = (_key: string, snapshotId: string) => this.snapshots.delete(snapshotId);
  revert = (key: string, machineId: string, snapshotId: string) =>
    this.snapshots.revert(key, machineId, snapshotId);

  capture = (key: string, machineId: string) => this.images.capture(key, machineId);
  image = (id: string) => this.images.captured(id);
  importImage = (key: string, image: ImportedImage) => this.images.import(key, image);
  readFile = (imageId: string, path: string) => this.images.readFile(imageId, path);
  deleteImage = (_key: string, id: string) => this.images.delete(id);

  clone = (key: string, spec: CloneSpec) => this.clones.clone(key, spec);
  rebuild = (key: string, machineId: string, imageId: string) => this.clones.rebuild(key, machineId, imageId);
}
