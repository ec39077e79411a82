/** What a pool would be that is not made yet: names, fit, conditions, storage, time and money. */
import { z } from 'zod';
import { cloneKinds } from '@vatline/core/pool/clone-storage';
import { fitWhats } from '@vatline/core/pool/fit';
import { conditionWhats } from '@vatline/core/pool/fit-conditions';
import { bytes } from '../endpoint.ts';

const fitRowSchema = z.object({
  what: z.enum(fitWhats),
  /** Which network or datastore; empty where there is only one. */
  of: z.string(),
  needed: z.number(),
  there: z.number(),
  after: z.number(),
  /** Hosts for which it is enough; null for any number. */
  largest: z.number().nullable(),
});
export type FitRowShown = z.infer<typeof fitRowSchema>;

const placingSchema = z.object({
  site: z.string(),
  size: z.string(),
  network: z.string(),
  datastore: z.string(),
});

const changeSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.enum(['size', 'datastore', 'network', 'site']),
    placing: placingSchema,
    largest: z.number(),
  }),
  z.object({
    kind: z.literal('two sites'),
    here: placingSchema,
    hosts: z.number(),
    there: placingSchema,
    rest: z.number(),
  }),
  z.object({
    kind: z.literal('quota'),
    site: z.string(),
    asks: z.array(z.object({ what: z.enum(['cores', 'memory', 'graphics']), more: z.number() })),
    /** What to write to those who run the site. */
    text: z.string(),
  }),
]);
export type FitChangeShown = z.infer<typeof changeSchema>;

const fitSchema = z.object({
  fits: z.boolean(),
  largest: z.number(),
  binding: z.enum(fitWhats).nullable(),
  /** For each place the hosts it takes and its rows. */
  places: z.array(
    z.object({
      site: z.string(),
      hosts: z.number(),
      fits: z.boolean(),
      largest: z.number(),
      rows: z.array(fitRowSchema),
    }),
  ),
  /** What all places share: names, licences. */
  shared: z.array(fitRowSchema),
  /** What would make it fit; empty when it does. */
  changes: z.array(changeSchema),
});
export type FitShown = z.infer<typeof fitSchema>;

const storedSchema = z.object({
  kind: z.enum(cloneKinds),
  fixedBytes: bytes,
  perHostBytes: bytes,
  totalBytes: bytes,
  /** Money a month for these bytes where they are to lie. */
  pricePerMonth: z.number(),
  /** Until all are made. */
  minutes: z.number(),
  storm: z.object({
    allAtOnce: z.number(),
    atOnce: z.number(),
    binds: z.enum(['parent', 'children']),
    /** Null where not even one may start. */
    staggerSeconds: z.number().nullable(),
    allStartedSeconds: z.number().nullable(),
  }),
});
export type StoredShown = z.infer<typeof storedSchema>;

const storageSchema = z.object({
  /** The three kinds side by side, on the first place. */
  kinds: z.array(storedSchema),
  /** What the growth is drawn from. */
  input: z.object({
    hosts: z.number(),
    imageBytes: bytes,
    swapBytes: bytes,
    dataBytes: bytes,
    throwawayBytes: bytes,
    growthBytesPerDay: bytes,
    days: z.number(),
    scratchBytes: bytes,
    streamingStores: z.number(),
    datastores: z.array(
      z.object({ name: z.string(), capacityBytes: bytes, usedBytes: bytes, overcommit: z.number() }),
    ),
  }),
  growth: z.object({ medianBytesPerDay: bytes, p90BytesPerDay: bytes }),
  /** Money a month for the machines if all are always on. */
  machinesPerMonth: z.number(),
});
export type StorageShown = z.infer<typeof storageSchema>;

export const poolPreviewSchema = z.object({
  names: z.array(z.string()),
  clashes: z.array(z.string()),
  fit: fitSchema.nullable(),
  conditions: z.array(
    z.object({
      what: z.enum(conditionWhats),
      verdict: z.enum(['holds', 'warns', 'fails']),
      says: z.string(),
    }),
  ),
  storage: storageSchema.nullable(),
  /** Until all are made: as likely as not, and nine times of ten. */
  minutes: z.number(),
  minutesAtMost: z.number(),
  /** The unit in the one notation that is kept; empty where none can be read. */
  ou: z.string(),
  /** What the storage and the minutes were reckoned with. */
  assumed: z.object({
    growthBytesPerDay: bytes,
    growthP90BytesPerDay: bytes,
    days: z.number(),
    longestSessionDays: z.number(),
    swapBytes: bytes,
    scratchBytes: bytes,
    atWork: z.number(),
    starting: z.number(),
    startSeconds: z.number(),
    parentShare: z.number(),
  }),
  /** Everything that stands in the way, each at its field. */
  faults: z.array(
    z.object({
      path: z.string(),
      message: z.string(),
      /** Whether nothing was given there yet, which is no mistake. */
      isMissing: z.boolean(),
    }),
  ),
});
export type PoolPreview = z.infer<typeof poolPreviewSchema>;
