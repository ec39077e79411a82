/** Rollouts through rings: one object with a rollout of each ring's pool for its parts. */
import { z } from 'zod';
import { decisions } from '@vatline/core/rollout/rings/gate';
import { roles } from '@vatline/core/roles';
import { count, done, endpoint, id, idParams, instant } from '../endpoint.ts';
import { dyeSchema } from '../image.ts';
import { rolloutStates, why } from '../rollout.ts';
import { contentsSchema, plannedRingSchema } from './ring.ts';

export const ringStates = ['waiting', 'started', 'done', 'dropped'] as const;
export type RingState = (typeof ringStates)[number];

/** `held`: a gate does not open by itself any more. */
export const stagedStates = ['under way', 'held', 'stopped', 'done'] as const;
export type StagedState = (typeof stagedStates)[number];

const between = z.object({ p10: instant.nullable(), p50: instant.nullable(), p90: instant.nullable() });
const sample = z.object({ signIns: z.number(), median: z.number().nullable(), p95: z.number().nullable() });

export const signInHealthSchema = z.object({
  /** Sign-ins in seconds on changed hosts, and on those of the pool that run the earlier blend. */
  changed: sample,
  earlier: sample,
  p: z.number().nullable(),
  isSlower: z.boolean(),
});

/** What was decided at a gate. */
export const decisionSchema = z.object({
  what: z.enum(decisions),
  by: z.enum(roles).nullable(),
  at: instant,
  why: z.string(),
});

/** The gate behind a ring, as it stands. */
export const gateStandingSchema = z.object({
  does: z.enum(['open', 'wait', 'hold']),
  /** What it waits for. */
  for: z.enum(['hosts', 'soak', 'approval']).nullable(),
  why: z.string(),
  /** The end of the soak. */
  until: instant.nullable(),
  decisions: z.array(decisionSchema),
  health: signInHealthSchema.nullable(),
});

export const stagedRingSchema = z.object({
  number: z.number(),
  pool: z.string(),
  /** As it was planned. */
  planned: plannedRingSchema,
  state: z.enum(ringStates),
  /** Why it waits or was dropped, where that is not the gate's word. */
  note: z.string(),
  /** Its rollout, once it has begun. */
  rolloutId: z.string().nullable(),
  rolloutState: z.enum(rolloutStates).nullable(),
  isPaused: z.boolean(),
  /** That it changes, or would change if it began now. */
  hosts: z.number(),
  done: z.number(),
  failed: z.number(),
  setAside: z.number(),
  /** When its gate let it begin, and when its first host was drained. */
  beganAt: instant.nullable(),
  workedFrom: instant.nullable(),
  endedAt: instant.nullable(),
  /** The first windows since the whole began. */
  windows: z.array(z.object({ start: instant, end: instant })),
  /** As forecast at the start. */
  promised: z.object({ opens: instant.nullable(), finish: between }),
  /** As forecast now; null for what is over, or waits for somebody. */
  expected: z.object({ opens: between, finish: between }).nullable(),
  gate: gateStandingSchema,
});
export type StagedRing = z.infer<typeof stagedRingSchema>;

export const stagedSchema = z.object({
  id: z.string(),
  /** Of the order, or of the cut that it follows. */
  title: z.string(),
  state: z.enum(stagedStates),
  heldWhy: z.string(),
  /** Since when a gate waits for an approval. */
  asksSince: instant.nullable(),
  order: z.object({ id: z.string(), revision: z.number() }).nullable(),
  image: z
    .object({ id: z.string(), lineId: z.string(), line: z.string(), number: z.number(), dye: dyeSchema })
    .nullable(),
  /** Name and version of each. */
  packages: z.array(z.string()),
  /** Who began it; null for a schedule. */
  by: z.enum(roles).nullable(),
  startedAt: instant,
  endedAt: instant.nullable(),
  /** When the last ring will be done, 9 in 10: as forecast at the start, and now. */
  promisedAt: instant.nullable(),
  expectedAt: instant.nullable(),
  hosts: z.number(),
  done: z.number(),
  rings: z.array(stagedRingSchema),
});
export type StagedRollout = z.infer<typeof stagedSchema>;

/** As a list shows it. */
export const stagedSummarySchema = stagedSchema
  .pick({
    id: true,
    title: true,
    state: true,
    heldWhy: true,
    asksSince: true,
    image: true,
    startedAt: true,
    endedAt: true,
  })
  .extend({
    rings: z.number(),
    /** Rings that have begun or had nothing to do. */
    begun: z.number(),
  });
export type StagedSummary = z.infer<typeof stagedSummarySchema>;

export const stagedEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/staged-rollouts',
    summary: 'Rollouts through rings, newest first',
    dependsOn: ['staged', 'rollout'],
    response: z.array(stagedSummarySchema),
  }),
  get: endpoint({
    method: 'get',
    path: '/staged-rollouts/:id',
    summary: 'A rollout through rings, with each ring and the gate behind it',
    dependsOn: ['staged:{id}', 'rollout'],
    params: idParams,
    response: stagedSchema,
  }),
  start: endpoint({
    method: 'post',
    path: '/staged-rollouts',
    summary: 'Begin a rollout through the rings of an order',
    changes: ['staged', 'rollout', 'pool'],
    body: z.strictObject({
      orderId: id,
      /** The revision that was looked at. */
      revision: count,
      contents: contentsSchema,
    }),
    response: z.object({ id: z.string() }),
  }),
  decide: endpoint({
    method: 'post',
    path: '/staged-rollouts/:id/gate',
    summary: 'Approve, refuse or open anyway what waits at the gate behind a ring',
    changes: ['staged:{id}', 'rollout'],
    params: idParams,
    body: z.strictObject({
      /** Of the ring, from 0. */
      ring: count,
      what: z.enum(decisions),
      why,
      /** How many decisions whoever decides had seen. */
      seen: count,
    }),
    response: done,
  }),
  stop: endpoint({
    method: 'post',
    path: '/staged-rollouts/:id/stop',
    summary: 'Begin no further ring, and start no further host of those under way',
    changes: ['staged:{id}', 'rollout', 'pool'],
    params: idParams,
    body: z.strictObject({ why }),
    response: done,
  }),
};
