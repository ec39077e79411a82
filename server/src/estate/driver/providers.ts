/** Those who rent out room for machines: their regions, what each gives, and taking one. */
import type { HostSize } from '@vatline/core/pool/fit';
import type { Operation } from './operations.ts';
import type { PricedSize } from './sites.ts';

export interface OfferedDatastore {
  readonly name: string;
  readonly capacityBytes: number;
  /** A second. */
  readonly operations: number;
  /** Money for a gigabyte and month. */
  readonly price: number;
  /** Bytes that may be promised for each that is there. */
  readonly overcommit: number;
}

export interface RegionReport {
  readonly name: string;
  /** From there to the directory and back. */
  readonly milliseconds: number;
  /** What a site there has at first; more of it is asked for as for any other. */
  readonly quota: HostSize;
  readonly sizes: readonly PricedSize[];
  readonly datastores: readonly OfferedDatastore[];
  /** The site that was made there; null for a region that is free. */
  readonly site: string | null;
}

export interface ProviderReport {
  readonly name: string;
  readonly regions: readonly RegionReport[];
}

export interface NewSite {
  readonly name: string;
  readonly provider: string;
  readonly region: string;
  readonly networks: readonly { readonly name: string; readonly range: string }[];
}

export interface Providers {
  all(): Promise<readonly ProviderReport[]>;
  /** Makes a site in a region that has none yet. Throws `not found`, or `conflict` for a name or range that is taken. */
  addSite(key: string, site: NewSite): Promise<Operation>;
}
