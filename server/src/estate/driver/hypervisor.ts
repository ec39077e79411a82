/** Machines, their disks and images. */
import type { Step } from '@vatline/core/image/recipe';
import type { Hardware } from '@vatline/core/image/hardware';
import type { Entry } from '@vatline/core/inventory/entry';
import type { HostSize } from '@vatline/core/pool/fit';
import type { Power } from '@vatline/core/power';
import type { DiskUse, MachineGroup, StackedDisk } from './disks.ts';
import type { Instant } from '@vatline/core/time/instant';
import type { Operation } from './operations.ts';
import type { SiteReport } from './sites.ts';

export type PowerChange = 'on' | 'off' | 'suspend' | 'restart';

/** Milliseconds, over all machines together. */
export interface OnTime {
  readonly onMs: number;
  readonly suspendedMs: number;
  /** In whatever state they were. */
  readonly thereMs: number;
}

export interface MachineReport {
  readonly id: string;
  readonly name: string;
  readonly power: Power;
  readonly restartPending: boolean;
  readonly agent: boolean;
  readonly joined: boolean;
}

/** What is on the system disk of a host's machine. */
export interface HostDisk {
  /** What it was made from; null where that is not known. */
  readonly imageId: string | null;
  /** Digest of what is on it: the same for all that hold the same. */
  readonly contents: string;
}

/** A host's machine, as lists of thousands need it. */
export interface HostMachine {
  readonly power: Power;
  /** Since when it is so. */
  readonly since: Instant;
  /** Bytes of its own disks now. */
  readonly ownBytes: number;
  readonly growsBytesPerDay: number;
}

export interface MachineSpec {
  readonly name: string;
  readonly site: string;
  readonly datastore: string;
  readonly hardware: Hardware;
}

/** Where the disks of a host go, by what they are; all on the host's site. */
export type CloneDisks = (
  | { readonly kind: 'full'; readonly datastore: string }
  /** The parent is made with the first clone that needs it there, and goes with the last. */
  | { readonly kind: 'linked'; readonly datastore: string; readonly parentDatastore: string }
  /** A scratch disk has its size from the beginning. */
  | {
      readonly kind: 'network';
      readonly datastore: string;
      readonly scratchBytes: number;
      readonly store: string;
    }
) & {
  /** A disk that stays one person's over rebuilds. */
  readonly data: { readonly datastore: string; readonly bytes: number } | null;
  /** Whether what was written is thrown away when somebody signs out. */
  readonly returnsToClean: boolean;
};

/** A host; its disks come from the image. */
export interface CloneSpec extends HostSize {
  readonly name: string;
  readonly site: string;
  readonly network: string;
  readonly imageId: string;
  readonly disks: CloneDisks;
}

/** An image that was made elsewhere. */
export interface ImportedImage {
  /** Path of what is on it, as JSON Lines; copied, since it may be gone afterwards. */
  readonly inventoryFile: string;
  readonly sizeBytes: number;
}

/** A captured image: what hosts are made from. */
export interface CapturedImage {
  readonly id: string;
  readonly sizeBytes: number;
  readonly entries: readonly Entry[];
}

export interface Hypervisor {
  sites(): Promise<readonly SiteReport[]>;
  /** Machines that each site makes, or makes anew, at the same time, by site; asked for whenever a host may begin. */
  makesAtOnce(): Promise<ReadonlyMap<string, number>>;
  /** Asks those who run a site for more of what it gives; the operation ends when they have answered. */
  requestQuota(key: string, site: string, more: HostSize, reason: string): Promise<Operation>;
  /** The disks of a machine and those that they stand on, the lowest first. */
  disksOf(machineId: string): Promise<readonly StackedDisk[]>;
  /** What is taken on each datastore, added up there: of ten thousand hosts nobody wants each disk. */
  diskUses(groups: readonly MachineGroup[]): Promise<readonly DiskUse[]>;
  machineNames(): Promise<readonly string[]>;
  machine(id: string): Promise<MachineReport | undefined>;
  /** Some machines by id; one that is not there is left out. */
  hostMachines(ids: readonly string[]): Promise<ReadonlyMap<string, HostMachine>>;
  /** Some machines by id; one that is not there is left out. */
  hostDisks(ids: readonly string[]): Promise<ReadonlyMap<string, HostDisk>>;
  /** Digests of what is on a machine that was made from an image just now, as of `hostDisks`. */
  imageContents(ids: readonly string[]): Promise<ReadonlyMap<string, string>>;
  /** What is on a machine now. */
  inventory(machineId: string): Promise<readonly Entry[]>;
  createMachine(key: string, spec: MachineSpec): Promise<string>;
  /** Runs a step of a recipe; the result is the exit code of its command, 0 when it has none. */
  runStep(key: string, machineId: string, step: Step): Promise<Operation>;
  /** On resumes a machine that is suspended. */
  power(key: string, machineId: string, to: PowerChange): Promise<Operation>;
  /** For how long some machines were on, and suspended, between two instants; gone ones count while they were there. */
  onTime(ids: readonly string[], from: Instant, to: Instant): Promise<OnTime>;
  /** Keeps the machine as it is; the result names the snapshot. */
  snapshot(key: string, machineId: string): Promise<string>;
  /** What was on the machine when the snapshot was taken. */
  snapshotInventory(snapshotId: string): Promise<readonly Entry[]>;
  /** Bytes that a snapshot takes besides those before it. */
  snapshotBytes(snapshotId: string): Promise<number>;
  deleteSnapshot(key: string, snapshotId: string): Promise<void>;
  revert(key: string, machineId: string, snapshotId: string): Promise<Operation>;
  copy(key: string, machineId: string, name: string): Promise<Operation>;
  generalise(key: string, machineId: string): Promise<Operation>;
  capture(key: string, machineId: string): Promise<Operation>;
  image(id: string): Promise<CapturedImage | undefined>;
  /** Takes an image that was made elsewhere, so that hosts can be made from it; gives its id. */
  importImage(key: string, image: ImportedImage): Promise<string>;
  /** The bytes of a file of an image, in pieces. */
  readFile(imageId: string, path: string): Promise<AsyncIterable<Uint8Array> | Iterable<Uint8Array>>;
  deleteImage(key: string, id: string): Promise<void>;
  clone(key: string, spec: CloneSpec): Promise<Operation>;
  rebuild(key: string, machineId: string, imageId: string): Promise<Operation>;
  deleteMachine(key: string, machineId: string): Promise<void>;
}
