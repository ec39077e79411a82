/** Stores that stream images to hosts that have no system disk of their own. */
import type { Amount } from '@vatline/core/pool/fit';

export interface StreamedImage {
  readonly image: string;
  readonly bytes: number;
  /** Hosts that run it now, and hosts that will from their next start on. */
  readonly now: number;
  readonly next: number;
}

export interface StreamingStoreReport {
  readonly name: string;
  readonly site: string;
  /** Hosts that can stream at a time, and those that do. */
  readonly streams: Amount;
  /** Hosts that stream from it when they are on. */
  readonly hosts: number;
  readonly capacityBytes: number;
  readonly usedBytes: number;
  /** Money for a gigabyte and month. */
  readonly price: number;
  readonly images: readonly StreamedImage[];
}

/** What a host streams, and the disk that takes what it writes. */
export interface HostStream {
  readonly store: string;
  /** The image that it runs, or ran last. */
  readonly now: string;
  /** The one it will run from its next start on. */
  readonly next: string;
  readonly scratchBytes: number;
  /** Empty again at every start. */
  readonly scratchUsedBytes: number;
  readonly fillsBytesPerDay: number;
}

export interface StreamingStores {
  stores(): Promise<readonly StreamingStoreReport[]>;
  /** Of some hosts by name; those that stream nothing are left out. */
  of(hosts: readonly string[]): Promise<ReadonlyMap<string, HostStream>>;
  /**
   * Lets hosts run an image from their next start on; a store takes an image with the first host that
   * is to have it, and drops it with the last. Fails where it has no room for it.
   */
  assign(key: string, hosts: readonly string[], imageId: string): Promise<void>;
}
