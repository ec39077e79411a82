/** Pools as the API gives them, and what can be asked and done. */
import { z } from 'zod';
import { bytes, endpoint, idParams, text } from '../endpoint.ts';
import { jobSchema } from '../job.ts';
import { pageOf, pageQuery } from '../page.ts';
import { blendSchema } from './blend.ts';
import { cellSchema, hostSchema } from './host.ts';
import { cloneKinds, newPoolSchema, placementRoles, poolDraftSchema, poolKinds } from './kinds.ts';

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
  placements: z.array(z.object({ role: z.enum(placementRoles), site: z.string(), datastore: z.string() })),
  blends: z.array(blendSchema),
  jobs: z.array(jobSchema),
  /** Expected sessions by local hour. */
  expected: z.array(z.number()),
});
export type PoolDetail = z.infer<typeof poolDetailSchema>;

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
  /** What the storage and the minutes were reckoned with. */
  assumed: z.object({
    growthBytesPerDay: bytes,
    days: z.number(),
    swapBytes: bytes,
    atOnce: z.number(),
    minutesAHost: z.number(),
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

export const poolEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/pools',
    summary: 'Host pools',
    dependsOn: ['pool'],
    response: z.array(poolSummarySchema),
  }),
  get: endpoint({
    method: 'get',
    path: '/pools/:id',
    summary: 'A pool; its hosts are lists of their own',
    dependsOn: ['pool:{id}'],
    params: idParams,
    response: poolDetailSchema,
  }),
  hosts: endpoint({
    method: 'get',
    path: '/pools/:id/hosts',
    summary: 'The hosts of a pool, page by page',
    dependsOn: ['pool:{id}'],
    params: idParams,
    query: z.strictObject({
      ...pageQuery,
      /** Part of a name. */
      q: text.default(''),
      sort: z.enum(['name', 'state']).default('name'),
    }),
    response: pageOf(hostSchema),
  }),
  cells: endpoint({
    method: 'get',
    path: '/pools/:id/cells',
    summary: 'The hosts of a pool as cells of a grid',
    dependsOn: ['pool:{id}'],
    params: idParams,
    response: z.array(cellSchema),
  }),
  preview: endpoint({
    method: 'post',
    path: '/pools/preview',
    summary: 'The names, the fit and every fault of a pool that is not made yet',
    dependsOn: ['estate'],
    body: poolDraftSchema,
    response: poolPreviewSchema,
  }),
  create: endpoint({
    method: 'post',
    path: '/pools',
    summary: 'Make a pool',
    changes: ['pool', 'job', 'line'],
    body: newPoolSchema,
    response: z.object({ poolId: z.string(), jobId: z.string() }),
  }),
};
