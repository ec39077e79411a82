/** The record of a rollout: what was planned and promised, who changed and approved what, what came of each host. */
import { z } from 'zod';
import { hostWays } from '@vatline/core/rollout/blends/way';
import { hostStages } from '@vatline/core/rollout/host-state';
import { endpoint, idParams, instant, rawEndpoint } from './endpoint.ts';
import { revisionSchema, rolloutSchema } from './rollout.ts';

export const rolloutRecordSchema = z.object({
  rollout: rolloutSchema,
  /** As forecast at its start: 1, 5 and 9 in 10. */
  promised: z.object({ p10: instant.nullable(), p50: instant.nullable(), p90: instant.nullable() }),
  /** The first is the plan that it began with. */
  revisions: z.array(revisionSchema),
  /** Who let the image version, and the ring, go on; newest first. */
  approvals: z.array(z.object({ what: z.string(), by: z.string(), at: instant, why: z.string() })),
  figures: z.object({
    done: z.number(),
    setAside: z.number(),
    untouched: z.number(),
    triedAgain: z.number(),
    medianMinutes: z.number().nullable(),
    slowest: z.object({ name: z.string(), minutes: z.number() }).nullable(),
  }),
  hosts: z.array(
    z.object({
      name: z.string(),
      way: z.enum(hostWays).nullable(),
      stage: z.enum(hostStages),
      attempts: z.number(),
      startedAt: instant.nullable(),
      finishedAt: instant.nullable(),
      error: z.string().nullable(),
    }),
  ),
});
export type RolloutRecord = z.infer<typeof rolloutRecordSchema>;

export const recordEndpoints = {
  get: endpoint({
    method: 'get',
    path: '/rollouts/:id/record',
    summary: 'Everything about a rollout that somebody may have to show later',
    dependsOn: ['rollout:{id}', 'line', 'staged'],
    params: idParams,
    response: rolloutRecordSchema,
  }),
};

export const recordFileEndpoints = {
  hosts: rawEndpoint({
    method: 'get',
    path: '/rollouts/:id/record.csv',
    summary: 'What came of each host of a rollout, as CSV',
    gives: 'text/csv',
    params: idParams,
  }),
};
