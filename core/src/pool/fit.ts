/** Whether a batch of hosts fits the quota and the datastore, and the largest that does. */
import { cloneStorage, type CloneKind, type CloneStorageInput } from './clone-storage.ts';

export interface FitRequest {
  readonly count: number;
  readonly processorsPerHost: number;
  readonly clone: CloneKind;
  readonly storage: Omit<CloneStorageInput, 'hosts'>;
}

export interface Room {
  readonly coresFree: number;
  readonly datastoreFreeBytes: number;
}

export interface Fit {
  readonly fits: boolean;
  /** Hosts that fit; may be more than asked for. */
  readonly largest: number;
  readonly coresNeeded: number;
  readonly bytesNeeded: number;
  /** What gives out first. */
  readonly binding: 'cores' | 'datastore';
}

/** Hosts that fit a capacity C: the largest N with fixed + N × per host ≤ C. */
export function fitHosts(request: FitRequest, room: Room): Fit {
  const one = cloneStorage(request.clone, { ...request.storage, hosts: 1 });
  const byCores = Math.floor(room.coresFree / request.processorsPerHost);
  const byStorage = Math.max(0, Math.floor((room.datastoreFreeBytes - one.fixed) / one.perHost));
  const largest = Math.min(byCores, byStorage);
  return {
    fits: request.count <= largest,
    largest,
    coresNeeded: request.count * request.processorsPerHost,
    bytesNeeded: one.fixed + request.count * one.perHost,
    binding: byCores <= byStorage ? 'cores' : 'datastore',
  };
}
