/** Blends over all pools: who runs what, what is another between two of them, and whether one can be used. */
import { z } from 'zod';
import { attachTimings } from '@vatline/core/container/manifest';
import { conditionVerdicts } from '@vatline/core/pool/fit-conditions';
import { packageChanges } from '@vatline/core/rollout/blends/compare';
import { hostNeeds } from '@vatline/core/rollout/blends/need';
import { chosen, endpoint, id, idParams, instant } from './endpoint.ts';
import { pageOf, pageQuery } from './page.ts';
import { blendSchema } from './pool/blend.ts';

/** The blends on the hosts of one pool. */
export const blendUseSchema = z.object({
  poolId: z.string(),
  pool: z.string(),
  lineId: z.string(),
  hosts: z.number(),
  /** What the pool as a whole is to run; null before its first hosts. */
  current: blendSchema.nullable(),
  /** Where a rollout under way takes hosts of it. */
  next: blendSchema.nullable(),
  /** What its hosts run, most hosts first. */
  running: z.array(z.object({ blend: blendSchema, hosts: z.number() })),
});
export type BlendUse = z.infer<typeof blendUseSchema>;

/** How many hosts of a pool need what to hold a blend. */
const needsSchema = z.object({ rebuild: z.number(), attachOnly: z.number(), settingsOnly: z.number() });

export const poolBlendSchema = z.object({
  blend: blendSchema,
  /** That run it now. */
  hosts: z.number(),
  isCurrent: z.boolean(),
  isNext: z.boolean(),
  /** Against the blend before it; null for the first. */
  change: z.string().nullable(),
  needs: needsSchema,
  /** Why hosts cannot be taken to it now; null where they can. */
  refusal: z.string().nullable(),
});
export type PoolBlend = z.infer<typeof poolBlendSchema>;

const imageSchema = z.object({ id: z.string(), line: z.string(), number: z.number() });
const packageSchema = z.object({
  id: z.string(),
  packageId: z.string(),
  name: z.string(),
  version: z.string(),
  timing: z.enum(attachTimings),
});

const workSchema = z.object({ medianMinutes: z.number(), p90Minutes: z.number(), learnedFrom: z.number() });

export const blendComparisonSchema = z.object({
  from: blendSchema,
  to: blendSchema,
  headline: z.string(),
  /** Null where both have the same image. */
  image: z.object({ lineId: z.string(), from: imageSchema, to: imageSchema }).nullable(),
  packages: z.array(
    z.object({
      change: z.enum(packageChanges),
      name: z.string(),
      from: packageSchema.nullable(),
      to: packageSchema.nullable(),
    }),
  ),
  need: z.enum(hostNeeds),
  /** Minutes of work on a host of the later blend's pool; null where nothing is to be done. */
  work: workSchema.nullable(),
});
export type BlendComparison = z.infer<typeof blendComparisonSchema>;

export const blendCheckSchema = z.object({
  verdict: z.enum(conditionVerdicts),
  says: z.string(),
  advice: z.string(),
  path: z.string(),
});
export type BlendCheck = z.infer<typeof blendCheckSchema>;

export const blendEndpoints = {
  inUse: endpoint({
    method: 'get',
    path: '/blends',
    summary: 'What the hosts of each pool run',
    dependsOn: ['pool', 'rollout'],
    response: z.array(blendUseSchema),
  }),
  ofPool: endpoint({
    method: 'get',
    path: '/pools/:id/blends',
    summary: 'The blends of a pool, newest first, with what its hosts need to hold each',
    dependsOn: ['pool:{id}', 'rollout', 'line', 'package'],
    params: idParams,
    query: z.strictObject(pageQuery),
    response: pageOf(poolBlendSchema),
  }),
  comparison: endpoint({
    method: 'get',
    path: '/blends/:id/comparison',
    summary: 'What is another in a blend than in an earlier one, and what hosts need to get there',
    dependsOn: ['pool', 'package', 'line'],
    params: idParams,
    query: z.strictObject({ with: id }),
    response: blendComparisonSchema,
  }),
  checks: endpoint({
    method: 'post',
    path: '/blends/checks',
    summary:
      'Whether hosts of a pool can be taken to an image version with packages, and what to know before',
    dependsOn: ['pool', 'package', 'line', 'estate'],
    body: z.strictObject({
      poolId: chosen('a pool'),
      imageVersionId: chosen('an image version'),
      packageVersionIds: z.array(id).max(1_000, 'are more than 1,000'),
      /** When hosts would attach the packages; now where nothing is said. */
      at: instant.nullable().default(null),
    }),
    response: z.object({ at: instant, checks: z.array(blendCheckSchema) }),
  }),
};
