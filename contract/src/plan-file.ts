/** The plan file of `vatline forecast`, and the body of a forecast asked over the API. */
import { z } from 'zod';
import {
  MOST_RINGS,
  type GatePlan,
  type RingPlan,
  type RolloutPlan,
} from '@vatline/core/rollout/forecast/plan';
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

const spread = z.strictObject({ medianMinutes: z.number(), p90Minutes: z.number() });

/** What may be said once for all rings, and in a ring where it is another. */
const perHost = {
  work: spread.optional().describe('minutes of work on a host after it is drained'),
  drain: z
    .strictObject({
      limitMinutes: z.number(),
      session: spread.optional().describe('minutes left of a session; counts only with seats'),
    })
    .optional(),
  failure: z.strictObject({ rate: z.number(), retries: z.number() }).optional(),
  seats: z
    .strictObject({
      hosts: z.number().int().min(1).describe('hosts of the whole pool'),
      perHost: z.number().min(1).describe('sessions a host can carry'),
      expected: z.array(z.number().min(0)).length(24).describe('expected sessions by local hour'),
      reserve: z.number().min(0).default(0).describe('fraction of the expected sessions kept free'),
    })
    .optional(),
  inService: z
    .strictObject({
      hosts: z
        .array(z.string().min(1).max(200))
        .max(MOST_HOSTS, `are more than ${MOST_HOSTS.toLocaleString('en-GB')}`)
        .optional()
        .describe('names; all where left out'),
      everyMinutes: z.number().describe('between two checks of an agent'),
      attachMinutes: z.number().describe('that attaching takes'),
    })
    .optional()
    .describe('hosts whose agents attach at their checks while people work on'),
};

const hosts = z
  .union([hostCount, hostNames])
  .describe('how many hosts there are to change, or their names in the order in which they begin');

export const failureRuleSchema = z
  .strictObject({
    failures: z
      .number()
      .int()
      .min(1)
      .max(100_000, 'is more than any rollout has hosts')
      .nullable()
      .default(null)
      .describe('stops at so many'),
    share: z
      .number()
      .min(0)
      .max(1)
      .nullable()
      .default(null)
      .describe('stops above this share of those through'),
    after: z
      .number()
      .int()
      .min(0)
      .max(100_000, 'is more than any rollout has hosts')
      .default(0)
      .describe('hosts through before the share counts'),
  })
  .refine(({ failures, share }) => failures !== null || share !== null, {
    path: ['failures'],
    message: 'or a share must be given, or the rule says nothing',
  });

export const gateSchema = z.strictObject({
  finishedShare: z.number().default(1).describe('share of the hosts that must be done'),
  soakHours: z.number().default(0).describe('hours for which the done ones are watched'),
  approvalHours: z.number().default(0).describe('hours that somebody takes to approve'),
  stop: failureRuleSchema.optional().describe('stops this ring and all that wait for it'),
});

const ringSchema = z.strictObject({
  name: z.string().min(1).max(200),
  hosts,
  window: windowSchema,
  batch: z.number(),
  maxUnavailable: z.number(),
  gate: gateSchema.optional(),
  opens: z.enum(['after the one before', 'at once']).optional(),
  pool: z.string().min(1).max(200).optional().describe('rings of one pool take seats from the same people'),
  ...perHost,
});

const localDate = z.iso.date('is not a date such as 2027-03-25');

export const planFileSchema = z
  .strictObject({
    from: isoInstant,
    zone: z.string().describe('IANA time zone'),
    window: windowSchema.optional(),
    hosts: hosts.optional(),
    batch: z.number().optional(),
    maxUnavailable: z.number().optional(),
    rings: z
      .array(ringSchema)
      .min(1, 'must be at least one')
      .max(MOST_RINGS, `are more than ${MOST_RINGS}`)
      .optional()
      .describe('one after the other, in place of window, hosts, batch and maxUnavailable'),
    closed: z
      .array(localDate)
      .max(4_000, 'are more than ten years')
      .optional()
      .describe('dates on which no window begins'),
    limits: z
      .array(z.strictObject({ name: z.string().min(1).max(200), atOnce: z.number() }))
      .max(50, 'are more than 50')
      .optional()
      .describe('hosts at work at the same time over all rings'),
    ...perHost,
    runs: z.number().default(1000),
    seed: z.number().default(1),
  })
  .superRefine((file, context) => {
    const fault = (path: (string | number)[], message: string) =>
      context.addIssue({ code: 'custom', path, message });
    for (const field of ['window', 'hosts', 'batch', 'maxUnavailable'] as const) {
      const isThere = file[field] !== undefined;
      if (file.rings && isThere) fault([field], 'stands in each ring where there are rings');
      if (!file.rings && !isThere) fault([field], 'is missing');
    }
    for (const [i, ring] of (file.rings ?? [{ work: undefined, inService: undefined }]).entries()) {
      const inService = ring.inService ?? file.inService;
      const isWorkedOn = inService === undefined || inService.hosts !== undefined;
      if (isWorkedOn && !file.work && !ring.work)
        fault(file.rings ? ['rings', i, 'work'] : ['work'], 'is missing');
    }
  });
export type PlanFile = z.infer<typeof planFileSchema>;
type RingInFile = z.infer<typeof ringSchema>;

/** The plan of the core for a plan file. */
export function planOf(file: PlanFile): RolloutPlan {
  let first = 0;
  const rings = ringsIn(file).map((ring) => {
    const plan = ringOf(ring, file, first);
    first += plan.hosts.length;
    return plan;
  });
  const { from, limits, runs, seed } = file;
  return { from: parseInstant(from) ?? 0, rings, ...(limits && { limits }), runs, seed };
}

/** A plan without rings is one ring. */
function ringsIn({ rings, window, hosts, batch, maxUnavailable }: PlanFile): readonly RingInFile[] {
  if (rings) return rings;
  if (!window || hosts === undefined || batch === undefined || maxUnavailable === undefined) return [];
  return [{ name: 'all', window, hosts, batch, maxUnavailable }];
}

/** Numbered hosts go on counting from ring to ring. */
function ringOf(ring: RingInFile, file: PlanFile, first: number): RingPlan {
  const { zone, closed } = file;
  const { name, batch, maxUnavailable, gate, opens, pool } = ring;
  const drain = ring.drain ?? file.drain ?? { limitMinutes: 0 };
  const seats = ring.seats ?? file.seats;
  const inService = ring.inService ?? file.inService;
  return {
    name,
    hosts: typeof ring.hosts === 'number' ? numberedHosts(ring.hosts, first) : ring.hosts,
    window: { ...ring.window, zone, ...(closed && { closed: { dates: new Set(closed), spans: [] } }) },
    batch,
    maxUnavailable,
    // Where all are attached in service nobody asks for it.
    work: ring.work ?? file.work ?? { medianMinutes: 1, p90Minutes: 1 },
    drain: { limitMinutes: drain.limitMinutes, ...(drain.session && { session: drain.session }) },
    failure: ring.failure ?? file.failure ?? { rate: 0, retries: 0 },
    ...(seats && { seats: { ...seats, zone } }),
    ...(inService && { inService: inServiceOf(inService) }),
    ...(gate && { gate: gateOf(gate) }),
    ...(opens && { opens }),
    ...(pool !== undefined && { pool }),
  };
}

function inServiceOf({
  hosts: names,
  ...checks
}: NonNullable<RingInFile['inService']>): NonNullable<RingPlan['inService']> {
  return { checks, ...(names && { hosts: names }) };
}

function gateOf({ stop, ...gate }: z.infer<typeof gateSchema>): GatePlan {
  return { ...gate, ...(stop && { stop }) };
}
