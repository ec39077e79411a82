/** What can be done to hosts of a pool, said before it is done. */
import { z } from 'zod';
import { hostActions } from '@vatline/core/pool/host-actions';
import { bytes, done, endpoint, id, idParams, instant, text } from '../endpoint.ts';

export const actionRequestSchema = z.strictObject({
  action: z.enum(hostActions),
  /** As many as a pool holds. */
  hosts: z.array(text).min(1, 'choose hosts').max(10_000),
  /** Of a message. */
  text: text.max(500, 'has over 500 characters').default(''),
  /** Of a drain: how long people may stay. */
  limitMinutes: z.number().int().min(0, 'must be at least 0').max(1_440, 'must be at most a day').default(30),
  /** Whether personal data may be lost. */
  losesData: z.boolean().default(false),
});
export type ActionRequest = z.output<typeof actionRequestSchema>;

const effectSchema = z.object({
  hosts: z.array(z.string()),
  passedOver: z.array(z.object({ name: z.string(), why: z.string() })),
  sessionsEnded: z.number(),
  dataLostBytes: bytes,
  /** Seats that the pool has fewer afterwards; below 0 it has more. */
  seatsLost: z.number(),
  /** Seats in service now, and sessions that are expected at most in the next hour. */
  seatsNow: z.number(),
  expectedNext: z.number(),
});
export type EffectShown = z.infer<typeof effectSchema>;

const copySchema = z.object({
  /** Of the machine. */
  id: z.string(),
  name: z.string(),
  host: z.string(),
  keptAt: instant,
  bytes,
});
export type KeptCopy = z.infer<typeof copySchema>;

export const hostActionEndpoints = {
  copies: endpoint({
    method: 'get',
    path: '/pools/:id/copies',
    summary: 'Copies of hosts that are kept to study',
    dependsOn: ['pool:{id}', 'estate'],
    params: idParams,
    response: z.array(copySchema),
  }),
  dropCopy: endpoint({
    method: 'delete',
    path: '/pools/:id/copies/:machine',
    summary: 'Delete a copy that was kept to study',
    changes: ['pool:{id}', 'estate'],
    params: z.strictObject({ id, machine: id }),
    response: done,
  }),
  preview: endpoint({
    method: 'post',
    path: '/pools/:id/actions/preview',
    summary: 'What an action on hosts will do, and which hosts it passes over',
    dependsOn: ['pool:{id}', 'clock'],
    params: idParams,
    body: actionRequestSchema,
    response: effectSchema,
  }),
  act: endpoint({
    method: 'post',
    path: '/pools/:id/actions',
    summary: 'Do something to hosts of a pool',
    changes: ['pool:{id}', 'job', 'estate'],
    params: idParams,
    body: actionRequestSchema,
    response: z.object({ jobId: z.string().nullable(), hosts: z.array(z.string()) }),
  }),
};
