/** Disks in datastores, and which stands on which. */

import type { DiskRole } from '@vatline/core/pool/disk-roles';

export interface DiskReport {
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
}

/** A disk of a machine, or one that such a disk stands on. */
export interface StackedDisk extends DiskReport {
  /** Disks that stand on it. */
  readonly above: number;
}
