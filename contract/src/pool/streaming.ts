/** Stores that stream images to hosts, what hosts run and will run, and switching a pool to another image. */
import { z } from 'zod';
import { bytes, chosen, endpoint, idParams, instant } from '../endpoint.ts';
import { dyeSchema } from '../image.ts';

const streamedImageSchema = z.object({
  imageId: z.string(),
  /** What people call it; empty for one that no image line knows. */
  name: z.string(),
  bytes,
  /** Hosts that run it, and hosts that will from their next start on. */
  now: z.number(),
  next: z.number(),
});

export const streamingStoreSchema = z.object({
  name: z.string(),
  site: z.string(),
  /** Hosts that can stream at a time, and those that do. */
  streams: z.object({ total: z.number(), used: z.number() }),
  /** Hosts that stream from it when they are on. */
  hosts: z.number(),
  capacityBytes: bytes,
  usedBytes: bytes,
  /** Money for a gigabyte and month. */
  price: z.number(),
  images: z.array(streamedImageSchema),
});
export type StreamingStore = z.infer<typeof streamingStoreSchema>;

const streamedPoolSchema = z.object({
  id: z.string(),
  name: z.string(),
  store: z.string(),
  hosts: z.number(),
  /** Image versions of its line, the newest first, each with why it cannot be switched to; empty where it can. */
  versions: z.array(
    z.object({ id: z.string(), number: z.number(), dye: dyeSchema, hosts: z.number(), refusal: z.string() }),
  ),
  /** The switch that is under way. */
  switch: z
    .object({
      versionId: z.string(),
      number: z.number(),
      dye: dyeSchema,
      begunAt: instant,
      /** Hosts that have started with it, that wait for their next start, and of these those that are off. */
      switched: z.number(),
      waiting: z.number(),
      off: z.number(),
      /** Hosts that wait, are on, and that nobody is on. */
      idle: z.number(),
    })
    .nullable(),
});
export type StreamedPool = z.infer<typeof streamedPoolSchema>;

const scratchDiskSchema = z.object({
  host: z.string(),
  poolId: z.string(),
  pool: z.string(),
  bytes,
  usedBytes: bytes,
  fillsBytesPerDay: bytes,
  /** If the host is not started anew before; null where nothing is written to it. */
  fullAt: instant.nullable(),
  isSoon: z.boolean(),
});
export type ScratchDiskShown = z.infer<typeof scratchDiskSchema>;

export const streamingSchema = z.object({
  stores: z.array(streamingStoreSchema),
  pools: z.array(streamedPoolSchema),
  /** Of hosts that are on, the one that is full first at the beginning; at most a hundred. */
  scratch: z.array(scratchDiskSchema),
  /** Of all, those that are full soon. */
  fullSoon: z.number(),
});
export type Streaming = z.infer<typeof streamingSchema>;

export const streamingEndpoints = {
  get: endpoint({
    method: 'get',
    path: '/streaming',
    summary: 'Streaming stores, the pools that stream from them, and the scratch disks that fill first',
    dependsOn: ['pool', 'line', 'estate'],
    response: streamingSchema,
  }),
  switchPool: endpoint({
    method: 'post',
    path: '/pools/:id/switch',
    summary: 'Let all hosts of a pool stream another image from their next start on',
    changes: ['pool:{id}', 'pool', 'line', 'estate'],
    params: idParams,
    body: z.strictObject({ imageVersionId: chosen('an image version') }),
    /** Hosts that run something else. */
    response: z.object({ waiting: z.number() }),
  }),
  restartIdle: endpoint({
    method: 'post',
    path: '/pools/:id/switch/restart',
    summary: 'Restart the hosts that wait for another image and that nobody is on',
    changes: ['pool:{id}', 'pool', 'job'],
    params: idParams,
    response: z.object({ jobId: z.string(), hosts: z.number() }),
  }),
};
