/** Orders of rings: named, used again and again, each change a revision. */
import { z } from 'zod';
import { bindings } from '@vatline/core/rollout/admission';
import { roles } from '@vatline/core/roles';
import { basedOn, count, done, endpoint, filled, idParams, instant } from '../endpoint.ts';
import { contentsSchema, ringsSchema } from './ring.ts';

const name = filled('The name').max(60, 'has over 60 characters');

export const ringOrderSchema = z.object({
  id: z.string(),
  name: z.string(),
  revision: z.number(),
  keptAt: instant,
  rings: ringsSchema,
  /** Newest first. */
  revisions: z.array(
    z.object({ number: z.number(), at: instant, by: z.enum(roles).nullable(), rings: z.number() }),
  ),
});
export type RingOrder = z.infer<typeof ringOrderSchema>;

const percentiles = <T extends z.ZodType>(value: T) => z.object({ p10: value, p50: value, p90: value });

/** What is forecast of one ring. */
export const ringForecastSchema = z.object({
  name: z.string(),
  /** Hosts that it changes; 0 when all run it already. */
  hosts: z.number(),
  /** Hosts of its pool. */
  poolHosts: z.number(),
  opens: percentiles(instant.nullable()),
  finish: percentiles(instant.nullable()),
  windowsUsed: percentiles(z.number()),
  minSeatsLeft: percentiles(z.number()),
  /** The next windows from now on, whether used or not. */
  windows: z.array(z.object({ start: instant, end: instant })),
  /** What held hosts back longest in the median run; null for nothing. */
  binding: z.enum(bindings).nullable(),
});
export type RingForecastAnswer = z.infer<typeof ringForecastSchema>;

export const ringsForecastSchema = z.object({
  runs: z.number(),
  finish: percentiles(instant.nullable()),
  rings: z.array(ringForecastSchema),
  /** Hours that an approval is taken to last. */
  approvalHours: z.number(),
});
export type RingsForecast = z.infer<typeof ringsForecastSchema>;

export const ringOrderEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/ring-orders',
    summary: 'Orders of rings, by name',
    dependsOn: ['ring-order'],
    response: z.array(ringOrderSchema),
  }),
  add: endpoint({
    method: 'post',
    path: '/ring-orders',
    summary: 'Keep an order of rings',
    changes: ['ring-order'],
    body: z.strictObject({ name, rings: ringsSchema }),
    response: z.object({ id: z.string() }),
  }),
  keep: endpoint({
    method: 'put',
    path: '/ring-orders/:id',
    summary: 'Keep a newer revision of an order; rollouts under way go on by theirs',
    changes: ['ring-order'],
    params: idParams,
    body: z.strictObject({ name, rings: ringsSchema, basedOn }),
    response: z.object({ revision: z.number() }),
  }),
  remove: endpoint({
    method: 'delete',
    path: '/ring-orders/:id',
    summary: 'Forget an order; rollouts under way go on by it',
    changes: ['ring-order'],
    params: idParams,
    response: done,
  }),
  forecast: endpoint({
    method: 'post',
    path: '/ring-orders/forecast',
    summary: 'When each ring would open and be done',
    body: z.strictObject({
      rings: ringsSchema,
      contents: contentsSchema,
      runs: count.min(1).max(1_000, 'are more than 1,000').default(1_000),
    }),
    response: ringsForecastSchema,
  }),
};
