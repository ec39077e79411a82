/** Hosts from inside: their agents, what they attach, install and trust. */
import type { HostFacts } from '@vatline/core/installed/evaluate';
import type { Installation } from '@vatline/core/installed/installation';
import type { Instant } from '@vatline/core/time/instant';
import type { Operation } from './operations.ts';

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
  /** Sessions from before that hold it, where it is not given to new ones any more; null where it is. */
  readonly heldBy: number | null;
}

/** Sessions on a host that hold containers which are not given to new ones any more. */
export interface HeldMounts {
  readonly host: string;
  readonly digest: string;
  readonly sessions: number;
}

/** How agents keep time. */
export interface AgentPace {
  /** Between two checks of an agent. */
  readonly checkMs: number;
  /** That mounting one container takes. */
  readonly mountMs: number;
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
  /** An agent that has not answered for so long is given up. */
  readonly patienceMs: number;
  readonly pace: AgentPace;
  /** Hosts whose agent has not reported for over two checks. */
  silent(): Promise<readonly string[]>;
  /** When the agents of some hosts reported last; null for one that never did. */
  lastReports(hosts: readonly string[]): Promise<ReadonlyMap<string, Instant | null>>;
  reporting(): Promise<number>;
  /** Makes these the containers that a host has, at its next check; whoever was on it has left. */
  attach(key: string, host: string, mounts: readonly WantedMount[]): Promise<Operation>;
  /**
   * Gives these, from its next check on, to whoever signs in on a host. The sessions that are there
   * then keep what they have, which goes when the last of them ends. All of it is done or nothing.
   */
  attachInService(
    key: string,
    host: string,
    mounts: readonly WantedMount[],
    sessions: number,
  ): Promise<Operation>;
  /** What is held on some hosts, or on any. */
  held(hosts?: readonly string[]): Promise<readonly HeldMounts[]>;
  /** Runs a script on a host at its next check; the result is its exit code, and any but 0 is a failure. */
  runScript(key: string, host: string, script: string): Promise<Operation>;
  /** Waits for the host's next report and reads whether it is well. */
  verify(key: string, host: string): Promise<Operation>;
  nextCheck(): Promise<Instant | null>;
  /** What some hosts have mounted, as their agents reported last; one that has nothing is left out. */
  mountsOn(hosts: readonly string[]): Promise<ReadonlyMap<string, readonly Mount[]>>;
  /** When the agents of some hosts look next for what they are to do. */
  nextChecks(hosts: readonly string[]): Promise<ReadonlyMap<string, Instant>>;
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
