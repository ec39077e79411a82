/** More hosts for a pool that is there. */
import { z } from 'zod';
import { endpoint, idParams } from '../endpoint.ts';
import { MOST_SLOTS, slotNumber } from './kinds.ts';
import { poolPreviewSchema } from './preview.ts';

const moreHostsSchema = z.strictObject({
  count: z.number().int().min(1, 'must be at least 1').max(10_000, 'must be at most 10,000'),
  isAnyway: z.boolean().default(false),
  isHeld: z.boolean().default(false),
  /** Of the chassis that the pool's machines stand in. */
  slots: z.array(slotNumber).max(MOST_SLOTS).default([]),
});

export const hostsPreviewSchema = poolPreviewSchema.pick({
  names: true,
  clashes: true,
  assumed: true,
  fit: true,
  conditions: true,
  minutes: true,
  minutesAtMost: true,
  faults: true,
});
export type HostsPreview = z.infer<typeof hostsPreviewSchema>;

export const moreHostsEndpoints = {
  preview: endpoint({
    method: 'post',
    path: '/pools/:id/more/preview',
    summary: 'What more hosts of a pool would be called and take, and what stands in the way',
    dependsOn: ['estate', 'pool:{id}'],
    params: idParams,
    body: moreHostsSchema,
    response: hostsPreviewSchema,
  }),
  add: endpoint({
    method: 'post',
    path: '/pools/:id/more',
    summary: 'Make more hosts of a pool',
    changes: ['pool', 'job', 'line'],
    params: idParams,
    body: moreHostsSchema,
    response: z.object({ jobId: z.string() }),
  }),
};
