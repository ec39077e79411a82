import { z } from 'zod';
import { hostStates } from '@vatline/core/rollout/host-state';
import { bytes, chosen, endpoint, id, idParams, instant, text } from './endpoint.ts';
import { dyeSchema } from './image.ts';
import { jobSchema } from './job.ts';

export const poolKinds = ['pooled', 'dedicated'] as const;
export type PoolKind = (typeof poolKinds)[number];

/** How a host's disk comes from the image. */
export const cloneKinds = ['full', 'linked', 'network'] as const;
export type CloneKind = (typeof cloneKinds)[number];

export const blendSchema = z.object({
  id: z.string(),
  number: z.number(),
  imageVersionId: z.string(),
  line: z.string(),
  imageNumber: z.number(),
  dye: dyeSchema,
  packages: z.array(z.object({ id: z.string(), name: z.string(), version: z.string() })),
  madeAt: instant,
});
export type Blend = z.infer<typeof blendSchema>;

export const hostSchema = z.object({
  id: z.string(),
  name: z.string(),
  state: z.enum(hostStates),
  /** The dye it runs; while it is at work, the one it ran last. */
  dye: dyeSchema,
  blend: z.number(),
  /** The dye it is to run when a rollout has it in its list. */
  nextDye: dyeSchema.nullable(),
  sessions: z.number(),
  note: z.string(),
});
export type Host = z.infer<typeof hostSchema>;

export const poolSummarySchema = z.object({
  id: z.string(),
  name: z.string(),
  kind: z.enum(poolKinds),
  clone: z.enum(cloneKinds),
  lineId: z.string(),
  hosts: z.number(),
  inService: z.number(),
  sessions: z.number(),
  sessionLimit: z.number(),
  blend: blendSchema.nullable(),
  nextBlend: blendSchema.nullable(),
  activeJob: jobSchema.nullable(),
});
export type PoolSummary = z.infer<typeof poolSummarySchema>;

export const poolDetailSchema = poolSummarySchema.extend({
  pattern: z.string(),
  ou: z.string(),
  site: z.string(),
  datastore: z.string(),
  hostList: z.array(hostSchema),
  blends: z.array(blendSchema),
  jobs: z.array(jobSchema),
  /** Expected sessions by local hour. */
  expected: z.array(z.number()),
});
export type PoolDetail = z.infer<typeof poolDetailSchema>;

/** What a new pool is to be. */
export const newPoolSchema = z.strictObject({
  name: text
    .min(1, 'The name is empty')
    .max(40)
    .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'must be small letters, digits and single hyphens'),
  imageVersionId: chosen('an image version'),
  kind: z.enum(poolKinds),
  clone: z.enum(['full', 'linked']),
  pattern: text,
  start: z.number().int().min(-1_000_000).max(1_000_000_000_000_000),
  count: z.number().int().min(1, 'must be at least 1').max(10_000, 'must be at most 10,000'),
  ou: text.min(1, 'choose an organisational unit'),
  site: text.min(1, 'choose a site'),
  datastore: text.min(1, 'choose a datastore'),
  processors: z.number().int().min(1, 'must be at least 1').max(64),
  sessionLimit: z.number().int().min(1, 'must be at least 1').max(200),
});
export type NewPool = z.infer<typeof newPoolSchema>;

/** Half typed, it may be anything that a field lets in; what it should be is a fault at it. */
const draftNumber = z.number().min(-1e15).max(1e15);

/** A pool that is still being thought of: anything may be missing, and nothing is judged yet. */
export const poolDraftSchema = z
  .strictObject({
    name: text,
    imageVersionId: id,
    kind: z.enum(poolKinds),
    clone: z.enum(['full', 'linked']),
    pattern: text,
    start: draftNumber,
    count: draftNumber,
    ou: text,
    site: text,
    datastore: text,
    processors: draftNumber,
    sessionLimit: draftNumber,
  })
  .partial();

export const poolPreviewSchema = z.object({
  names: z.array(z.string()),
  clashes: z.array(z.string()),
  fit: z
    .object({
      fits: z.boolean(),
      largest: z.number(),
      coresNeeded: z.number(),
      coresFree: z.number(),
      bytesNeeded: bytes,
      bytesFree: bytes,
      binding: z.enum(['cores', 'datastore']),
    })
    .nullable(),
  minutes: z.number(),
  /** Everything that stands in the way, each at its field. */
  faults: z.array(z.object({ path: z.string(), message: z.string() })),
});
export type PoolPreview = z.infer<typeof poolPreviewSchema>;

export const poolEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/pools',
    summary: 'Host pools',
    response: z.array(poolSummarySchema),
  }),
  get: endpoint({
    method: 'get',
    path: '/pools/:id',
    summary: 'A pool with its hosts',
    params: idParams,
    response: poolDetailSchema,
  }),
  preview: endpoint({
    method: 'post',
    path: '/pools/preview',
    summary: 'The names, the fit and every fault of a pool that is not made yet',
    body: poolDraftSchema,
    response: poolPreviewSchema,
  }),
  create: endpoint({
    method: 'post',
    path: '/pools',
    summary: 'Make a pool',
    body: newPoolSchema,
    response: z.object({ poolId: z.string(), jobId: z.string() }),
  }),
};
