/** Sites that machines stand on: what each has, what of it is used, and what it costs. */
import type { DatastoreRoom, NetworkRoom, SiteRoom } from '@vatline/core/pool/fit';
import type { MachineSize } from '@vatline/core/pool/fit-changes';

export interface PricedSize extends MachineSize {
  /** Money for an hour in which a machine of this size is on. */
  readonly pricePerHour: number;
}

export interface PricedDatastore extends DatastoreRoom {
  /** Money for a gigabyte and month. */
  readonly price: number;
}

export interface NetworkReport extends NetworkRoom {
  /** Its addresses, such as `10.20.4.0/23`. */
  readonly range: string;
}

/** What used amounts count: machines that are there, in whatever state, and those that are being made. */
export interface SiteReport extends SiteRoom {
  readonly machines: number;
  /** Machines that are made, or made anew, at the same time; what is asked beyond waits there, and nobody is told how long. */
  readonly makesAtOnce: number;
  readonly networks: readonly NetworkReport[];
  readonly datastores: readonly PricedDatastore[];
  /** Sizes that machines can be made in; none where machines stand in a chassis. */
  readonly sizes: readonly PricedSize[];
}
