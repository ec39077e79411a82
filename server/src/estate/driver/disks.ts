/** Disks in datastores, and which stands on which. */

import type { DiskRole } from '@vatline/core/pool/disk-roles';

/** A disk of a machine, or one that such a disk stands on. */
export interface StackedDisk {
  readonly id: string;
  readonly site: string;
  readonly datastore: string;
  readonly role: DiskRole;
  /** The machine that has it; null for a parent, which is nobody's. */
  readonly machine: string | null;
  /** The disk that it stands on. */
  readonly base: string | null;
  /** The image that a parent was made from. */
  readonly image: string | null;
  /** Bytes it takes now. */
  readonly bytes: number;
  /** Disks that stand on it. */
  readonly above: number;
}

/** Machines that belong together, such as the hosts of a pool. */
export interface MachineGroup {
  readonly name: string;
  readonly machines: readonly string[];
}

/** What the disks of one group of machines, or the parents made from one image, take on one datastore. */
export interface DiskUse {
  readonly site: string;
  readonly datastore: string;
  /** Null for disks of machines in no group, and for parents. */
  readonly group: string | null;
  /** The image, of parents; otherwise null. */
  readonly image: string | null;
  /** Bytes they take now. */
  readonly bytes: number;
  readonly disks: number;
  /** Disks among them that grow from day to day; those that begin anew each night do not. */
  readonly growing: number;
}
