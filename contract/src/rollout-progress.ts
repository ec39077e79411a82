/** How a rollout gets on, host by host, against what was forecast at its start and what is now. */
import { z } from 'zod';
import { endpoint, idParams, instant } from './endpoint.ts';

/** As many as a chart has pixels for. */
export const MOST_STEPS = 200;

/** When each equal part of the hosts is through, in 1, 5 and 9 of 10 runs. */
const marks = z.array(
  z.object({ p10: instant.nullable(), p50: instant.nullable(), p90: instant.nullable() }),
);
const span = z.object({ start: instant, end: instant });

export const rolloutProgressSchema = z.object({
  hosts: z.number(),
  done: z.number(),
  /** The way up; of many hosts every so many. */
  steps: z.array(z.object({ at: instant, done: z.number() })),
  /** Of all hosts, as forecast at its start; null for one from before that was kept. */
  promised: marks.nullable(),
  /** Of those that are left, as forecast now; null where it does not go on. */
  rest: z.object({ hosts: z.number(), marks }).nullable(),
  /** Those it worked in, and the next ones. */
  windows: z.array(span),
});
export type RolloutProgress = z.infer<typeof rolloutProgressSchema>;

export const progressEndpoints = {
  get: endpoint({
    method: 'get',
    path: '/rollouts/:id/progress',
    summary: 'Hosts done over time, against the forecast of its start and that of what is left',
    dependsOn: ['rollout:{id}', 'pool'],
    params: idParams,
    response: rolloutProgressSchema,
  }),
};
