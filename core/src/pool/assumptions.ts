/**
 * What is assumed of hosts that are not made yet. Every answer that stands on one of these carries
 * it, so that screens say the number that was reckoned with and no other.
 */
/** How a host's disk grows, and how long it lives. */
export interface StorageAssumptions {
  /** Median growth of a host's own disk in a day, g: logs, updates of tools and what people leave behind. */
  readonly growthBytesPerDay: number;
  /** One host of ten grows by more. */
  readonly growthP90BytesPerDay: number;
  /** Days between rebuilds, d: a month, as images are cut. */
  readonly days: number;
  /** The longest session in days: what a host that returns to clean at sign-out can gather. */
  readonly longestSessionDays: number;
  /** Page or swap file, w. */
  readonly swapBytes: number;
  /** Scratch disk of a host that streams its image, c. */
  readonly scratchBytes: number;
}

/**
 * Source of the growth: the practice estate's own disks, of which half grow by 0.2 GB a day and one
 * of ten by over 0.4; of the swap file: what a system makes for itself on 8 GB of memory. See
 * `docs/models.md`, "Assumptions".
 */
export const usualStorage: StorageAssumptions = {
  growthBytesPerDay: 0.2e9,
  growthP90BytesPerDay: 0.4e9,
  days: 30,
  longestSessionDays: 0.5,
  swapBytes: 2e9,
  scratchBytes: 6e9,
};

/** What hosts ask of their disks. */
export interface OperationAssumptions {
  /** Operations a second of a host that people work on. */
  readonly atWork: number;
  /** Operations a second of a host that starts. */
  readonly starting: number;
  /** How long a start takes, seconds. */
  readonly startSeconds: number;
  /** Share of a start's operations that read the parent, where hosts have one. */
  readonly parentShare: number;
}

/** Source: the practice hypervisor, whose hosts start in a minute; a start reads most of the system once. */
export const usualOperations: OperationAssumptions = {
  atWork: 12,
  starting: 300,
  startSeconds: 60,
  parentShare: 0.8,
};

/** Hours of a mean month. */
export const HOURS_A_MONTH = 730;

/** Bytes of an image that is not built yet. Source: images of the practice library. */
export const usualImageBytes = 18e9;
