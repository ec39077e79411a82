/** How ready a pool is kept: the rules, what they come to, and what came of them. */
import { z } from 'zod';
import { errands } from '@vatline/core/pool/errand';
import { restModes, type ReadinessRules } from '@vatline/core/pool/readiness';
import { basedOn, endpoint, idParams, instant } from '../endpoint.ts';
import { poolKinds } from './kinds.ts';

const hosts = z
  .number()
  .int('must be a whole number')
  .min(0, 'must be at least 0')
  .max(10_000, 'must be at most 10,000');
const byHour = z.array(hosts).length(24, 'must have a number for each of the 24 hours');

export const readinessRulesSchema = z.strictObject({
  week: z
    .array(z.array(z.enum(restModes)).length(24, 'must say something for each of the 24 hours'))
    .length(7, 'must have seven days'),
  spares: z.union([z.literal('recommended'), byHour]),
  leastOn: byHour,
  fewestHosts: hosts,
  mostHosts: hosts.min(1, 'must be at least 1'),
  deleteAfterMinutes: z
    .number()
    .int()
    .min(30, 'must be at least 30 minutes, or hosts are deleted while the next one is made')
    .max(43_200, 'must be at most 30 days')
    .nullable(),
  drainMinutes: z.number().int().min(1, 'must be at least 1').max(1_440, 'must be at most a day'),
  /** A share. */
  reserve: z.number().min(0, 'must be at least 0').max(1, 'must be at most the sessions once more'),
}) satisfies z.ZodType<ReadinessRules>;
export type ReadinessRulesBody = z.infer<typeof readinessRulesSchema>;

const leadSchema = z.object({
  p50Minutes: z.number(),
  p90Minutes: z.number(),
  /** Hosts it is measured from; 0 where it is assumed. */
  measured: z.number(),
});

const signInHourSchema = z.object({
  from: instant,
  signIns: z.number(),
  waited: z.number(),
  waitedMinutes: z.number(),
  mostSessions: z.number(),
});

export const readinessSchema = z.object({
  rules: readinessRulesSchema,
  isKept: z.boolean(),
  revision: z.number(),
  facts: z.object({
    kind: z.enum(poolKinds),
    sessionLimit: z.number(),
    hosts: z.number(),
    expected: z.array(z.number()),
    arrivals: z.array(z.number()),
  }),
  leads: z.object({ start: leadSchema, resume: leadSchema, make: leadSchema }),
  /** Hosts that may start at once. */
  startsAtOnce: z.number(),
  prices: z.object({ perHour: z.number(), suspendedPerHour: z.number() }),
  now: z.object({
    /** Monday is 0. */
    day: z.number(),
    hour: z.number(),
    /** People with a session, and those who wait for one. */
    present: z.number(),
    serving: z.number(),
    resting: z.number(),
    needed: z.number(),
  }),
  errands: z.array(z.object({ host: z.string(), errand: z.enum(errands), begunAt: instant })),
  /** What was done, the newest first. */
  notes: z.array(z.object({ at: instant, text: z.string() })),
  measured: z.object({
    from: instant,
    to: instant,
    onHours: z.number(),
    suspendedHours: z.number(),
    /** In whatever state hosts were. */
    hostHours: z.number(),
    /** Money that leaving all of them on would have cost more. */
    saved: z.number(),
    hours: z.array(signInHourSchema),
  }),
});
export type Readiness = z.infer<typeof readinessSchema>;

export const readinessEndpoints = {
  get: endpoint({
    method: 'get',
    path: '/pools/:id/readiness',
    summary: 'How ready a pool is kept, and what came of it',
    dependsOn: ['pool:{id}', 'estate'],
    params: idParams,
    response: readinessSchema,
  }),
  keep: endpoint({
    method: 'put',
    path: '/pools/:id/readiness',
    summary: 'Set by which rules a pool is kept ready',
    changes: ['pool:{id}', 'pool'],
    params: idParams,
    body: z.strictObject({
      rules: readinessRulesSchema,
      isKept: z.boolean(),
      /** The revision that the change was made from. */
      basedOn,
    }),
    response: z.object({ revision: z.number() }),
  }),
};
