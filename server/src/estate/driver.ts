/**
 * The interface to the outside world. The application reaches hypervisor, directory, broker, file
 * share, packaging machine, host agents and people only through it; `docs/drivers.md` tells how to
 * write another driver than the practice estate that ships.
 *
 * Every call is asynchronous, may fail with an `EstateError`, and is idempotent by the key the
 * caller gives: the same key again gives the same object or operation and does nothing twice.
 */
import type { Step } from '@vatline/core/image/recipe';
import type { Hardware } from '@vatline/core/image/hardware';
import type { BuildSources } from '@vatline/core/image/sources';
import type { Group } from '@vatline/core/access/see-as';
import type { Entry } from '@vatline/core/inventory/entry';
import type { HostFacts } from '@vatline/core/installed/evaluate';
import type { Installation } from '@vatline/core/installed/installation';
import type { EntryPoint } from '@vatline/core/container/manifest';
import type { Instant } from '@vatline/core/time/instant';

export type EstateErrorKind = 'quota' | 'permission' | 'timeout' | 'not found' | 'conflict' | 'failed';

/** Why an outside system refused or failed. */
export class EstateError extends Error {
  override readonly name = 'EstateError';

  constructor(
    readonly kind: EstateErrorKind,
    message: string,
  ) {
    super(message);
  }
}

/** Something that takes time in an outside system. */
export interface Operation {
  readonly key: string;
  readonly state: 'running' | 'done' | 'failed';
  readonly startedAt: Instant;
  readonly endedAt: Instant | null;
  readonly error: { readonly kind: EstateErrorKind; readonly message: string } | null;
  /** What it made: an identifier, or empty. */
  readonly result: string;
}

export interface EstateClock {
  now(): Instant;
  readonly zone: string;
  /** Calls back once when the clock has reached the instant; the clock waits for the callback. */
  wakeAt(at: Instant, name: string, wake: () => Promise<void>): void;
  /** The clock does not move on until the hold is released; a real clock cannot wait and does not. */
  hold(): () => void;
  onTick(listener: () => void): void;
}

export interface Operations {
  get(key: string): Promise<Operation | undefined>;
  /** Calls off an operation that is running: it ends failed, without effect. Any other is left as it is. */
  callOff(key: string): Promise<void>;
  /** Calls back when an operation has ended; the clock waits for the callback. */
  onEnd(listener: (operation: Operation) => Promise<void>): void;
}

export interface SiteReport {
  readonly name: string;
  readonly coresTotal: number;
  readonly coresUsed: number;
  readonly machines: number;
  readonly datastores: readonly {
    readonly name: string;
    readonly capacityBytes: number;
    readonly usedBytes: number;
  }[];
}

export interface MachineReport {
  readonly id: string;
  readonly name: string;
  readonly power: 'on' | 'off';
  readonly restartPending: boolean;
  readonly agent: boolean;
  readonly joined: boolean;
}

export interface MachineSpec {
  readonly name: string;
  readonly site: string;
  readonly datastore: string;
  readonly hardware: Hardware;
}

/** A host; its disks come from the image. */
export interface CloneSpec extends Omit<MachineSpec, 'hardware'> {
  readonly processors: number;
  readonly memoryBytes: number;
  readonly imageId: string;
  readonly kind: 'full' | 'linked' | 'network';
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
  machineNames(): Promise<readonly string[]>;
  machine(id: string): Promise<MachineReport | undefined>;
  /** What is on a machine now. */
  inventory(machineId: string): Promise<readonly Entry[]>;
  createMachine(key: string, spec: MachineSpec): Promise<string>;
  /** Runs a step of a recipe; the result is the exit code of its command, 0 when it has none. */
  runStep(key: string, machineId: string, step: Step): Promise<Operation>;
  power(key: string, machineId: string, to: 'on' | 'off' | 'restart'): Promise<Operation>;
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

export interface Person {
  readonly account: string;
  readonly name: string;
  readonly branch: string;
  readonly role: string;
}

export interface Directory {
  readonly root: string;
  units(): Promise<readonly { readonly dn: string; readonly name: string; readonly computers: number }[]>;
  groups(): Promise<readonly Group[]>;
  people(query: string, limit: number): Promise<readonly Person[]>;
  person(account: string): Promise<Person | undefined>;
  counts(): Promise<{
    readonly users: number;
    readonly groups: number;
    readonly units: number;
    readonly computers: number;
  }>;
  computerNames(): Promise<readonly string[]>;
  createComputer(key: string, name: string, ou: string): Promise<void>;
  deleteComputer(key: string, name: string): Promise<void>;
  /** Sets the computer account anew for a rebuilt host. */
  join(key: string, name: string): Promise<Operation>;
}

/** Gives people sessions on hosts. */
export interface Broker {
  register(key: string, pool: string, host: string): Promise<Operation>;
  deregister(key: string, host: string): Promise<void>;
}

export interface ShareReport {
  readonly name: string;
  readonly capacityBytes: number;
  readonly usedBytes: number;
  readonly operationsPerSecond: number;
  readonly files: number;
  /** Money for a gigabyte and month. */
  readonly price: number;
}

export const shareRoles = ['hosts', 'packagers', 'users'] as const;
export type ShareRole = (typeof shareRoles)[number];
export type ShareRight = 'write' | 'read' | 'nothing';
export type ShareRights = Readonly<Record<ShareRole, ShareRight>>;

/** File shares that hosts read containers from. A container is one path, or of an image layout several below it. */
export interface FileShare {
  shares(): Promise<readonly ShareReport[]>;
  /** Bytes of a file that are there; nothing where there is none. */
  held(share: string, path: string): Promise<number | undefined>;
  /**
   * Writes bytes behind the first `offset` of a file, which are there; what came behind them before
   * is written over. Throws `quota` when the share is full.
   */
  write(share: string, path: string, offset: number, bytes: Uint8Array): Promise<void>;
  /** SHA-256 in hex of a file, worked out where it lies. */
  digest(share: string, path: string): Promise<string>;
  /** Takes away a container: the path and all below it. */
  remove(key: string, share: string, path: string): Promise<void>;
  rights(share: string): Promise<ShareRights>;
  setRights(key: string, share: string, rights: ShareRights): Promise<void>;
}

/** Certificates that hosts take as the end of a chain. */
export interface TrustStores {
  /** Those of a pool's hosts, as PEM. */
  of(pool: string): Promise<readonly string[]>;
}

/** A container as a host has it. */
export interface Mount {
  readonly digest: string;
  /** The share and path it is read from. */
  readonly share: string;
  readonly since: Instant;
}

/** A container that a host is to have. */
export interface WantedMount {
  readonly digest: string;
  readonly share: string;
}

/** What attaching one container took. */
export interface AttachMeasure {
  /** Reads on the share. */
  readonly operations: number;
  readonly mountMs: number;
  readonly registerMs: number;
}

export interface HostAgents {
  /** Hosts whose agent has not reported for over two checks. */
  silent(): Promise<readonly string[]>;
  reporting(): Promise<number>;
  /** Makes these the containers that a host has, at its next check. */
  attach(key: string, host: string, mounts: readonly WantedMount[]): Promise<Operation>;
  /** Waits for the host's next report and reads whether it is well. */
  verify(key: string, host: string): Promise<Operation>;
  nextCheck(): Promise<Instant | null>;
  /** What a host has mounted, as its agent reported last. */
  mounts(host: string): Promise<readonly Mount[]>;
  /** When the agent of a host looks next for what it is to do. */
  nextCheckOf(host: string): Promise<Instant>;
  /** Lets the agent look now. */
  checkNow(key: string, host: string): Promise<Operation>;
  /**
   * Attaches one container on a host besides what it has, for nobody, measures that, and takes it
   * away again. The result is an `AttachMeasure` as JSON.
   */
  trial(key: string, host: string, wanted: WantedMount, entryPoints: number): Promise<Operation>;
}

/** What the agent of a host is to install, and from when on. */
export interface InstallOrder {
  readonly installation: Installation;
  readonly notBefore: Instant;
}

/** What the agent of a host is to take away. */
export interface RemovalOrder extends InstallOrder {
  /** Where one of these is there, it stays. */
  readonly dependants: readonly Installation[];
}

/** What an agent reports; `ran` with the exit code of the command. */
export interface AgentInstallReport {
  readonly state: 'not applicable' | 'detected already' | 'not there' | 'needed' | 'ran' | 'failed';
  readonly code: number | null;
  readonly why: string;
  /** The command that was run, its placeholders filled; empty where none was. */
  readonly command: string;
}

/** Installs applications on hosts, through their agents. */
export interface HostInstaller {
  /** What agents tell of their hosts; a host that told nothing yet is left out. */
  facts(hosts: readonly string[]): Promise<ReadonlyMap<string, HostFacts>>;
  /**
   * Lets the agent look at its first check from then on whether it applies, and run the installer if
   * it does. The result is an `AgentInstallReport` as JSON.
   */
  install(key: string, host: string, order: InstallOrder): Promise<Operation>;
  /** Lets the agent look whether it is there and needed by nothing, and run its uninstall command. Result as of `install`. */
  uninstall(key: string, host: string, order: RemovalOrder): Promise<Operation>;
}

/** A pool as those who deal out its sessions see it. */
export interface PoolLoad {
  readonly pool: string;
  readonly hosts: number;
  /** Hosts that take sessions. */
  readonly taking: number;
  /** Sessions a host can carry. */
  readonly limit: number;
}

export interface UserActivity {
  /** Sessions now on some hosts of a pool, all of which take sessions. */
  sessions(load: PoolLoad, hosts: readonly string[]): Promise<ReadonlyMap<string, number>>;
  /** Sessions expected in a pool by local hour. */
  expected(pool: string, hosts: number, limit: number): Promise<readonly number[]>;
  /** Minutes that are left of a session in this pool: median and 90th percentile. */
  sessionLength(pool: string): Promise<{ readonly medianMinutes: number; readonly p90Minutes: number }>;
  /** Waits until nobody is left on the host, at most the limit, then signs them out. */
  drain(key: string, pool: string, host: string, sessions: number, limitMinutes: number): Promise<Operation>;
}

export interface Installer {
  readonly id: string;
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  readonly files: number;
  readonly entryPoints: readonly EntryPoint[];
  /** Name of its licence, where known. */
  readonly licence?: string | undefined;
}

/** A clean machine on which installers are captured. Its disk is a folder here. */
export interface PackagingMachine {
  installers(): Promise<readonly Installer[]>;
  /** Lays out the clean machine; `quiet` switches off what writes by itself, such as the search index. */
  prepare(key: string, folder: string, options: { readonly quiet: boolean }): Promise<void>;
  /** Runs an installer; the result is its exit code, 3010 when it wants a restart to finish. */
  install(key: string, folder: string, installer: string): Promise<Operation>;
  restart(key: string, folder: string): Promise<Operation>;
  /** Puts the files that an installer brings into a folder, as its source. */
  source(folder: string, installer: string): Promise<void>;
  /** Services, tasks, registry values and shortcuts of the machine now, which are not files. */
  settings(folder: string): Promise<readonly Entry[]>;
}

/** What there is to build machines from: media, the update feed, agents. */
export interface Sources {
  current(): Promise<BuildSources>;
}

export interface EstateDriver {
  readonly sources: Sources;
  readonly clock: EstateClock;
  readonly operations: Operations;
  readonly hypervisor: Hypervisor;
  readonly directory: Directory;
  readonly broker: Broker;
  readonly share: FileShare;
  readonly agents: HostAgents;
  readonly installer: HostInstaller;
  readonly trust: TrustStores;
  readonly activity: UserActivity;
  readonly packaging: PackagingMachine;
}
