/** The broker, which gives people sessions on hosts. */
import type { Operation } from './operations.ts';

/** What the broker holds people of a pool to. */
export interface BrokerPool {
  /** The name that people see. */
  readonly title: string;
  readonly sessionLimit: number;
  /** After so long without a touch a session is disconnected; null for never. */
  readonly idleMinutes: number | null;
  /** A session disconnected for so long is signed out; null for never. */
  readonly disconnectMinutes: number | null;
  readonly mayRestart: boolean;
  /** IANA name. */
  readonly zone: string;
}

/** Gives people sessions on hosts. */
export interface Broker {
  /** Makes a pool, or sets it anew. */
  setPool(key: string, pool: string, settings: BrokerPool): Promise<void>;
  /** Takes a pool away; one that is not there stays away. */
  removePool(key: string, pool: string): Promise<void>;
  /** Nothing for a pool that the broker does not know. */
  pool(pool: string): Promise<BrokerPool | undefined>;
  /** Shows a text to everybody who has a session on a host. */
  message(key: string, host: string, text: string): Promise<void>;
  /** Makes a host somebody's own, or nobody's. */
  setOwner(key: string, host: string, account: string | null): Promise<void>;
  /** Accounts by the hosts that are theirs. */
  owners(hosts: readonly string[]): Promise<ReadonlyMap<string, string>>;
  /** Whether new people are sent to some hosts; those who are on one stay. */
  setTaking(key: string, hosts: readonly string[], takes: boolean): Promise<void>;
  register(key: string, pool: string, host: string): Promise<Operation>;
  deregister(key: string, host: string): Promise<void>;
}
