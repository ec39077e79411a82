/** What hosts really have against their blends. */
import { z } from 'zod';
import { driftKinds } from '@vatline/core/rollout/drift';
import { done, endpoint, id, instant, text } from './endpoint.ts';
import { pageOf, pageQuery } from './page.ts';
import { hostStates } from '@vatline/core/pool/service-state';
import { dyeSchema } from './image.ts';

export const mendings = ['attach only', 'rebuild', 'by hand'] as const;

export const driftedHostSchema = z.object({
  id: z.string(),
  name: z.string(),
  poolId: z.string(),
  pool: z.string(),
  /** What it should have. */
  blend: z.object({
    id: z.string(),
    number: z.number(),
    dye: dyeSchema,
    imageVersionId: z.string(),
    imageNumber: z.number(),
    lineId: z.string(),
  }),
  /** The worst first. */
  drift: z.array(z.object({ kind: z.enum(driftKinds), what: z.string() })),
  mending: z.enum(mendings),
  state: z.enum(hostStates),
  isHeld: z.boolean(),
  foundAt: instant,
});
export type DriftedHost = z.infer<typeof driftedHostSchema>;

export const driftEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/drift',
    summary: 'Hosts that are not what their blends say, the worst first, page by page',
    dependsOn: ['pool', 'rollout'],
    query: z.strictObject({
      ...pageQuery,
      /** Of one pool only. */
      pool: text.optional(),
    }),
    response: pageOf(driftedHostSchema),
  }),
  pools: endpoint({
    method: 'get',
    path: '/drift/pools',
    summary: 'How many hosts of each pool drifted, and when it was looked at last',
    dependsOn: ['pool', 'rollout'],
    response: z.array(
      z.object({
        poolId: z.string(),
        pool: z.string(),
        hosts: z.number(),
        drifted: z.number(),
        /** Null where it was never looked at. */
        lookedAt: instant.nullable(),
      }),
    ),
  }),
  look: endpoint({
    method: 'post',
    path: '/drift/look',
    summary: 'Look now what the hosts of a pool have',
    changes: ['pool'],
    body: z.strictObject({ poolId: id }),
    response: done,
  }),
};
