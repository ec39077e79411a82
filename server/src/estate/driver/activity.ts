/** What people do: sessions now, expected, and how they end. */
import type { Instant } from '@vatline/core/time/instant';
import type { Operation } from './operations.ts';

/** A pool as those who deal out its sessions see it. */
export interface PoolLoad {
  readonly pool: string;
  readonly hosts: number;
  /** Hosts that take sessions. */
  readonly taking: number;
  /** Sessions a host can carry. */
  readonly limit: number;
}

/** A session of somebody. */
export interface Session {
  readonly account: string;
  readonly name: string;
  readonly since: Instant;
}

/** Who came to a pool in an hour, and who found no seat. */
export interface SignInHour {
  /** The full hour it begins at. */
  readonly from: Instant;
  readonly signIns: number;
  readonly waited: number;
  /** Minutes, of all that waited together. */
  readonly waitedMinutes: number;
  readonly mostSessions: number;
}

/** A stretch of time on a host. */
export interface HostSpan {
  readonly host: string;
  readonly from: Instant;
  readonly to: Instant;
}

export interface UserActivity {
  /** Who has the sessions on a host that takes some. */
  people(load: PoolLoad, host: string): Promise<readonly Session[]>;
  /** Sessions now on some hosts of a pool, all of which take sessions. */
  sessions(load: PoolLoad, hosts: readonly string[]): Promise<ReadonlyMap<string, number>>;
  /** Sessions expected in a pool by local hour. */
  expected(pool: string, hosts: number, limit: number): Promise<readonly number[]>;
  /** People who have a session in a pool now, or wait for one. */
  present(pool: string): Promise<number>;
  /** People who come to a pool in an hour, by local hour, as the last weeks have been. */
  arrivals(pool: string): Promise<readonly number[]>;
  /** Who came to a pool in the hours that began between two instants, the oldest first; at most a week of them is kept. */
  signIns(pool: string, from: Instant, to: Instant): Promise<readonly SignInHour[]>;
  /** Seconds of each sign-in on some hosts of a pool, by their order; at most a week of them is kept. */
  signInSeconds(pool: string, spans: readonly HostSpan[]): Promise<readonly (readonly number[])[]>;
  /** Minutes that are left of a session in this pool: median and 90th percentile. */
  sessionLength(pool: string): Promise<{ readonly medianMinutes: number; readonly p90Minutes: number }>;
  /** Waits until nobody is left on the host, at most the limit, then signs them out. */
  drain(key: string, pool: string, host: string, sessions: number, limitMinutes: number): Promise<Operation>;
}
