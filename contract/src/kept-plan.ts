/** Plans of a pool that are thought over: named, kept, and held side by side before one of them is begun. */
import { z } from 'zod';
import { roleSchema } from './caller.ts';
import { basedOn, chosen, done, endpoint, filled, idParams, instant, keptAs } from './endpoint.ts';
import { rolloutRequestSchema } from './rollout.ts';

/** Side by side on a screen are no more. */
export const MOST_KEPT_PLANS = 4;

export const keptPlanSchema = z.object({
  id: z.string(),
  name: z.string(),
  revision: z.number(),
  keptAt: instant,
  by: roleSchema.nullable(),
  request: rolloutRequestSchema,
});
export type KeptPlan = z.infer<typeof keptPlanSchema>;

const name = filled('The name').max(60, 'has over 60 characters');

export const keptPlanEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/kept-plans',
    summary: 'The plans of a pool that are kept, the oldest first',
    dependsOn: ['kept-plan'],
    query: z.strictObject({ pool: chosen('a pool') }),
    response: z.array(keptPlanSchema),
  }),
  add: endpoint({
    method: 'post',
    path: '/kept-plans',
    summary: 'Keep a plan by a name, without beginning it',
    changes: ['kept-plan'],
    body: z.strictObject({ name, request: rolloutRequestSchema }),
    response: z.object({ id: z.string() }),
  }),
  keep: endpoint({
    method: 'put',
    path: '/kept-plans/:id',
    summary: 'Keep a plan as it is by now, or by another name',
    changes: ['kept-plan'],
    params: idParams,
    body: z.strictObject({ name, request: rolloutRequestSchema, basedOn }),
    response: keptAs,
  }),
  drop: endpoint({
    method: 'delete',
    path: '/kept-plans/:id',
    summary: 'Drop a plan; a rollout that was begun by it goes on',
    changes: ['kept-plan'],
    params: idParams,
    response: done,
  }),
};
