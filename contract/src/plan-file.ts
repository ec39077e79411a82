/** The plan file of `vatline forecast`, and the body of a forecast asked over the API. */
import { z } from 'zod';
import type { RolloutPlan } from '@vatline/core/rollout/forecast';
import { MOST_HOSTS, numberedHosts } from '@vatline/core/rollout/planned-hosts';
import { parseInstant } from '@vatline/core/time/instant';

/** An instant in ISO 8601 with a zone. */
export const isoInstant = z
  .string()
  .max(60)
  .refine((text) => parseInstant(text) !== undefined, 'is not an instant such as 2027-03-22T08:00:00Z');

export const windowSchema = z.strictObject({
  rule: z.string().max(500, 'has over 500 characters').describe('RFC 5545 recurrence rule, by day or longer'),
  start: z.string().max(20, 'is no time').describe('first wall time, HH:MM'),
  end: z
    .string()
    .max(20, 'is no time')
    .describe('last wall time, HH:MM; at or before the start means on the next day'),
});

const atMost = `must be at most ${MOST_HOSTS.toLocaleString('en-GB')}; forecast the rest apart`;
const hostCount = z
  .number()
  .refine((n) => Number.isInteger(n) && n >= 1, 'must be a whole number of at least 1')
  .refine((n) => !(n > MOST_HOSTS), atMost);
const hostNames = z.array(z.string().min(1).max(200)).min(1, 'must be at least 1').max(MOST_HOSTS, atMost);

export const planFileSchema = z.strictObject({
  from: isoInstant,
  zone: z.string().describe('IANA time zone'),
  window: windowSchema,
  hosts: z
    .union([hostCount, hostNames])
    .describe('how many hosts there are to change, or their names in the order in which they begin'),
  batch: z.number(),
  maxUnavailable: z.number(),
  work: z.strictObject({ medianMinutes: z.number(), p90Minutes: z.number() }),
  drain: z
    .strictObject({
      limitMinutes: z.number(),
      session: z
        .strictObject({ medianMinutes: z.number(), p90Minutes: z.number() })
        .optional()
        .describe('minutes left of a session; counts only with seats'),
    })
    .default({ limitMinutes: 0 }),
  failure: z.strictObject({ rate: z.number(), retries: z.number() }).default({ rate: 0, retries: 0 }),
  seats: z
    .strictObject({
      hosts: z.number().int().min(1).describe('hosts of the whole pool'),
      perHost: z.number().min(1).describe('sessions a host can carry'),
      expected: z.array(z.number().min(0)).length(24).describe('expected sessions by local hour'),
      reserve: z.number().min(0).default(0).describe('fraction of the expected sessions kept free'),
    })
    .optional(),
  runs: z.number().default(1000),
  seed: z.number().default(1),
});
export type PlanFile = z.infer<typeof planFileSchema>;

/** The plan of the core for a plan file. */
export function planOf(file: PlanFile): RolloutPlan {
  const { from, zone, window, seats, drain, hosts, ...rest } = file;
  return {
    ...rest,
    hosts: typeof hosts === 'number' ? numberedHosts(hosts) : hosts,
    from: parseInstant(from) ?? 0,
    drain: { limitMinutes: drain.limitMinutes, ...(drain.session ? { session: drain.session } : {}) },
    window: { ...window, zone },
    ...(seats ? { seats: { ...seats, zone } } : {}),
  };
}
