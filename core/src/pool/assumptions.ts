/**
 * What is assumed of hosts that are not made yet. Every answer that stands on one of these carries
 * it, so that screens say the number that was reckoned with and no other.
 */
import type { CloneKind } from './clone-storage.ts';

/** How a host's disk grows, and how long it lives. */
export interface StorageAssumptions {
  /** Growth of a host's own disk in a day, g: logs, updates of tools and what people leave behind. */
  readonly growthBytesPerDay: number;
  /** Days between rebuilds, d: a month, as images are cut. */
  readonly days: number;
  /** Page or swap file, w. */
  readonly swapBytes: number;
}

/**
 * Source of the growth: the practice estate's own disks, whose hosts grow by 0.15 to 0.25 GB a day;
 * of the swap file: what a system makes for itself on 8 GB of memory. See `docs/models.md`, "Assumptions".
 */
export const usualStorage: StorageAssumptions = {
  growthBytesPerDay: 0.2e9,
  days: 30,
  swapBytes: 2e9,
};

/** How hosts are made. */
export interface MakingPace {
  /** Clones that the hypervisor makes at the same time. */
  readonly atOnce: number;
  /** Median minutes of a clone, its account and its registration. */
  readonly minutesAHost: number;
}

/** Source: medians of the practice hypervisor's clones (14 and 4 minutes) and half a minute for account and registration. */
export function usualPace(clone: CloneKind): MakingPace {
  return { atOnce: 8, minutesAHost: clone === 'full' ? 14.5 : 4.5 };
}

/** Minutes until so many hosts are made: as many batches as it takes, one after the other. */
export function makingMinutes(hosts: number, { atOnce, minutesAHost }: MakingPace): number {
  return Math.ceil(hosts / atOnce) * minutesAHost;
}
