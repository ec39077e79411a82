/** Rollouts that come again by themselves: one of a pool, in every window of its plan. */
import { z } from 'zod';
import { recurringTakes } from '@vatline/core/rollout/recurring';
import { roleSchema } from './caller.ts';
import { basedOn, done, endpoint, idParams, instant, keptAs } from './endpoint.ts';
import { dyeSchema } from './image.ts';
import { planSchema } from './rollout.ts';

export const recurringSchema = z.object({
  poolId: z.string(),
  pool: z.string(),
  takes: z.enum(recurringTakes),
  plan: planSchema,
  revision: z.number(),
  keptAt: instant,
  by: roleSchema.nullable(),
  /** The next of its windows. */
  next: z.array(z.object({ start: instant, end: instant })),
  /** What it would bring as things are; null where it would begin nothing. */
  brings: z.object({ number: z.number(), dye: dyeSchema, isRemake: z.boolean() }).nullable(),
  /** Why it would begin nothing; empty where it would. */
  why: z.string(),
  /** What came of the last window that it has seen. */
  last: z
    .object({ at: instant, outcome: z.string(), isRefused: z.boolean(), rolloutId: z.string().nullable() })
    .nullable(),
});
export type Recurring = z.infer<typeof recurringSchema>;

export const recurringEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/recurring-rollouts',
    summary: 'Rollouts that come again, by pool, with what each would do next',
    dependsOn: ['rollout', 'pool', 'line', 'calendar'],
    response: z.array(recurringSchema),
  }),
  keep: endpoint({
    method: 'put',
    path: '/pools/:id/recurring-rollout',
    summary: 'Have a rollout of a pool come again in every window of a plan',
    changes: ['rollout'],
    params: idParams,
    body: z.strictObject({ takes: z.enum(recurringTakes), plan: planSchema, basedOn }),
    response: keptAs,
  }),
  drop: endpoint({
    method: 'delete',
    path: '/pools/:id/recurring-rollout',
    summary: 'Let it come no more; one that has begun goes on',
    changes: ['rollout'],
    params: idParams,
    response: done,
  }),
};
