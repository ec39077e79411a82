/** Machines that stand in a chassis: finding them, and making hosts of them. Then the hypervisor's calls take them by their ids. */
import type { SlotState } from '@vatline/core/pool/chassis';
import type { HostSize } from '@vatline/core/pool/fit';
import type { Instant } from '@vatline/core/time/instant';
import type { Operation } from './operations.ts';

export interface ChassisReport {
  readonly name: string;
  readonly site: string;
  readonly slots: number;
  /** The last time that it was looked through, or is; null where it never was. */
  readonly look: { readonly startedAt: Instant; readonly operation: Operation } | null;
  /** Slots that this has asked so far. */
  readonly asked: number;
}

export interface SlotReport extends HostSize {
  readonly slot: number;
  /** Empty for one that never answered. */
  readonly serial: string;
  readonly state: SlotState;
  /** The host that was made of it; null for one that is free. */
  readonly host: string | null;
}

/** What a machine of a chassis is to be. */
export interface PhysicalHost {
  readonly chassis: string;
  readonly slot: number;
  readonly name: string;
  readonly network: string;
  readonly imageId: string;
  /** The streaming store it is to stream from. */
  readonly store: string;
  readonly scratchBytes: number;
}

export interface Chassis {
  all(): Promise<readonly ChassisReport[]>;
  /** In the order of the slots, as they have answered so far. */
  slots(chassis: string): Promise<readonly SlotReport[]>;
  /** Asks every slot, one after the other; called off, what has answered stays known. Fails with a conflict while it is looked through. */
  look(key: string, chassis: string): Promise<Operation>;
  /** Makes a host of a machine and starts it; the result is the machine's id. Deleting the machine frees its slot. */
  associate(key: string, host: PhysicalHost): Promise<Operation>;
}
