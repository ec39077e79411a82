/** How promises were kept: what was forecast at the start of rollouts, and when they ended. */
import { z } from 'zod';
import { promiseVerdicts } from '@vatline/core/rollout/promises';
import { endpoint, instant } from './endpoint.ts';

const observed = { share: z.number(), low: z.number(), high: z.number() };

export const promisesSchema = z.object({
  calibration: z.object({
    rollouts: z.number(),
    by: z.array(z.object({ promised: z.number(), ...observed })),
    inBand: z.object(observed),
    verdict: z.enum(promiseVerdicts),
  }),
  /** Those that are counted, newest first; not all where there are many. */
  kept: z.array(
    z.object({
      id: z.string(),
      pool: z.string(),
      hosts: z.number(),
      startedAt: instant,
      promised: z.object({ p10: instant, p50: instant, p90: instant }),
      endedAt: instant,
    }),
  ),
  /** Ended ones that say nothing of forecasts: stopped, changed or paused on the way, or never promised an end. */
  leftOut: z.number(),
});
export type Promises = z.infer<typeof promisesSchema>;

export const promiseEndpoints = {
  kept: endpoint({
    method: 'get',
    path: '/rollout-promises',
    summary: 'How the forecasts of past rollouts came true',
    dependsOn: ['rollout'],
    response: promisesSchema,
  }),
};
