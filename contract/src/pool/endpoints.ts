/** Pools as the API gives them, and what can be asked and done. */
import { z } from 'zod';
import { done, endpoint, idParams, rawEndpoint, text } from '../endpoint.ts';
import { jobSchema } from '../job.ts';
import { hostStates } from '@vatline/core/pool/service-state';
import { pageOf, pageQuery } from '../page.ts';
import { blendSchema } from './blend.ts';
import { cellSchema, hostSchema } from './host.ts';
import { cloneKinds, newPoolSchema, poolDraftSchema, poolKinds, poolSettingsSchema } from './kinds.ts';
import { poolPreviewSchema } from './preview.ts';

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
  settings: poolSettingsSchema.extend({ size: z.string() }),
  settingsRevision: z.number(),
  places: z.array(
    z.object({
      site: z.string(),
      network: z.string(),
      atMost: z.number().nullable(),
      datastore: z.string(),
      parentDatastore: z.string().nullable(),
      dataDatastore: z.string().nullable(),
    }),
  ),
  /** Why no other image may come onto its hosts; empty where it may. */
  sourceHold: z.string(),
  blends: z.array(blendSchema),
  jobs: z.array(jobSchema),
  /** Expected sessions by local hour. */
  expected: z.array(z.number()),
});
export type PoolDetail = z.infer<typeof poolDetailSchema>;

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
    dependsOn: ['pool:{id}', 'estate'],
    params: idParams,
    query: z.strictObject({
      ...pageQuery,
      /** Part of a name. */
      q: text.default(''),
      sort: z.enum(['name', 'state']).default('name'),
      /** `silent`: in whatever state, and its agent is silent. */
      state: z.enum([...hostStates, 'silent']).optional(),
      /** Number of a blend. */
      blend: z.coerce.number().int().min(1).max(1e9).optional(),
      /** Name of a site. */
      site: text.optional(),
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
  holdSource: endpoint({
    method: 'put',
    path: '/pools/:id/source-hold',
    summary: 'Hold what a pool is made from, so that no other image comes onto its hosts; or let it change',
    changes: ['pool:{id}', 'pool', 'rollout'],
    params: idParams,
    /** Empty lets it change. */
    body: z.strictObject({ reason: text.max(200, 'has over 200 characters') }),
    response: done,
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

export const poolFileEndpoints = {
  hosts: rawEndpoint({
    method: 'get',
    path: '/pools/:id/hosts.csv',
    summary: 'The hosts of a pool as CSV',
    gives: 'text/csv',
    params: idParams,
  }),
};
