/** How the pools are: the worst first, each finding one step from its mend. */
import { z } from 'zod';
import { healthWhats } from '@vatline/core/pool/health';
import { endpoint } from '../endpoint.ts';

export const poolHealthSchema = z.object({
  id: z.string(),
  name: z.string(),
  hosts: z.number(),
  inService: z.number(),
  sessions: z.number(),
  seats: z.number(),
  /** By local hour. */
  expected: z.array(z.number()),
  /** The most sessions in each of these hours when it was last; null where that was not measured. */
  had: z.array(z.number().nullable()),
  /** From the start of a host until people can be sent to it. `measured`: from so many starts; 0 where it is assumed. */
  startUp: z.object({ p50Minutes: z.number(), p90Minutes: z.number(), measured: z.number() }),
  /** Of the next twelve hours the one with the most sessions. */
  busiest: z.object({ hour: z.number(), expected: z.number() }),
  /** Hosts that failed in a rollout, for each of the last seven days, the newest last. */
  failures: z.array(z.number()),
  findings: z.array(
    z.object({
      what: z.enum(healthWhats),
      tone: z.enum(['trouble', 'attention', 'calm']),
      count: z.number(),
      hour: z.number().nullable(),
    }),
  ),
});
export type PoolHealth = z.infer<typeof poolHealthSchema>;

export const poolHealthEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/pool-health',
    summary: 'How the pools are, the worst first',
    dependsOn: ['pool', 'rollout', 'estate'],
    response: z.array(poolHealthSchema),
  }),
};
