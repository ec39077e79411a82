/** Chassis with the machines that stand in them, and looking through one. */
import { z } from 'zod';
import { slotStates } from '@vatline/core/pool/chassis';
import { bytes, done, endpoint, instant, text } from './endpoint.ts';

const slotSchema = z.object({
  slot: z.number(),
  /** Empty for one that never answered. */
  serial: z.string(),
  state: z.enum(slotStates),
  processors: z.number(),
  memoryBytes: bytes,
  /** The host that was made of it or is being made; null for one that is free. */
  host: z.string().nullable(),
  /** The pool of the host; null for a host that Vat Line does not know. */
  pool: z.object({ id: z.string(), name: z.string() }).nullable(),
  isBeingMade: z.boolean(),
});
export type ChassisSlot = z.infer<typeof slotSchema>;

export const chassisSchema = z.object({
  name: z.string(),
  site: z.string(),
  slots: z.array(slotSchema),
  /** When it was looked through last; null for one that never was. */
  lookedAt: instant.nullable(),
  /** Slots that were asked so far by the look that goes on; null while none does. */
  asked: z.number().nullable(),
  /** What went wrong with the last look; empty where nothing did. */
  trouble: z.string(),
});
export type ChassisShown = z.infer<typeof chassisSchema>;

const chassisParams = z.strictObject({ name: text });

export const chassisEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/chassis',
    summary: 'Chassis with their slots, as they have answered so far',
    dependsOn: ['estate', 'pool', 'clock'],
    response: z.array(chassisSchema),
  }),
  look: endpoint({
    method: 'post',
    path: '/chassis/:name/look',
    summary: 'Ask every slot of a chassis, one after the other',
    changes: ['estate'],
    params: chassisParams,
    response: done,
  }),
  stopLooking: endpoint({
    method: 'delete',
    path: '/chassis/:name/look',
    summary: 'Stop looking through a chassis; what has answered stays known',
    changes: ['estate'],
    params: chassisParams,
    response: done,
  }),
};
