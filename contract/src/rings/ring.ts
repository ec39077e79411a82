/** A ring as it is planned: which hosts, when and how fast, and what has to hold before the next one. */
import { z } from 'zod';
import { chosen, filled, id } from '../endpoint.ts';
import { planSchema } from '../rollout.ts';

/** More than anybody keeps apart on a screen; each is forecast with all its hosts. */
export const MOST_RINGS_IN_ORDER = 20;

/** Which hosts of its pool a ring takes. */
export const takeSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('rest') }),
  z.strictObject({
    by: z.literal('share'),
    percent: z.number().min(1, 'must be at least 1 %').max(100, 'is more than all hosts'),
    order: z.enum(['name', 'sites']),
  }),
  z.strictObject({ by: z.literal('name'), like: filled('The pattern').max(200, 'has over 200 characters') }),
  z.strictObject({ by: z.literal('datastore'), datastore: chosen('a datastore') }),
]);

/** Behind a ring; behind the last one nothing is left to open. */
export const ringGateSchema = z
  .strictObject({
    /** Share of the ring's hosts that must be done. */
    finishedShare: z.number().min(0.01, 'must be at least 1 %').max(1, 'is more than all hosts'),
    /** Hours for which the done ones are watched. */
    soakHours: z.number().min(0, 'must be 0 hours or more').max(720, 'is more than 30 days'),
    /** Whether somebody else than the maker lets the next ring begin. */
    needsApproval: z.boolean(),
    /** Whether slower sign-ins on the changed hosts hold it. */
    watchesSignIns: z.boolean(),
    /** Whether its hosts go back by themselves when it holds. */
    goesBack: z.boolean(),
  })
  .refine(({ watchesSignIns, soakHours }) => !watchesSignIns || soakHours > 0, {
    path: ['soakHours'],
    message: 'sign-ins are watched while it soaks: give it some hours, or do not watch them',
  });
export type RingGate = z.infer<typeof ringGateSchema>;

export const plannedRingSchema = z.strictObject({
  name: filled('The name').max(60, 'has over 60 characters'),
  poolId: chosen('a pool'),
  take: takeSchema,
  plan: planSchema,
  gate: ringGateSchema,
});
export type PlannedRing = z.infer<typeof plannedRingSchema>;

export const ringsSchema = z
  .array(plannedRingSchema)
  .min(1, 'must be at least one')
  .max(MOST_RINGS_IN_ORDER, `are more than ${MOST_RINGS_IN_ORDER}`);

/** What goes through the rings. */
export const contentsSchema = z.strictObject({
  /** Null leaves each pool its image. */
  imageVersionId: id.nullable(),
  /** Each takes the place of the version of its package that a pool has attached; where there is none, nothing changes. */
  packageVersionIds: z.array(id).max(100, 'are more than 100'),
});
export type RolloutContents = z.infer<typeof contentsSchema>;
