import { z } from 'zod';
import { roleSchema } from './caller.ts';
import { endpoint, instant, text } from './endpoint.ts';
import { pageOf, pageQuery } from './page.ts';
import { dyeSchema, imageVersionSchema } from './image.ts';
import { DAY } from '@vatline/core/time/instant';

export const laneSchema = z.object({
  lineId: z.string(),
  line: z.string(),
  recipeRevision: z.number(),
  steps: z.number(),
  /** The versions that matter now: in use, newest, or retired lately. */
  versions: z.array(imageVersionSchema),
  pools: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      hosts: z.number(),
      /** The next thing that will happen to it. */
      rollout: z
        .object({
          id: z.string(),
          left: z.number(),
          windowStart: instant.nullable(),
          windowEnd: instant.nullable(),
          isPaused: z.boolean(),
          expectedAt: instant.nullable(),
        })
        .nullable(),
    }),
  ),
});

export const needSchema = z.object({
  id: z.string(),
  tone: z.enum(['trouble', 'attention', 'calm']),
  title: z.string(),
  detail: z.string(),
  action: z.string(),
  /** Where the action is. */
  to: z.string(),
});
export type Need = z.infer<typeof needSchema>;

export const homeSchema = z.object({
  hosts: z.number(),
  /** Hosts that run the blend they should by now. */
  asTheyShould: z.number(),
  next: z
    .object({
      pool: z.string(),
      rolloutId: z.string(),
      hosts: z.number(),
      windowStart: instant,
      windowEnd: instant,
      expectedAt: instant.nullable(),
    })
    .nullable(),
  lanes: z.array(laneSchema),
  needs: z.array(needSchema),
});
export type Home = z.infer<typeof homeSchema>;

/** How many things wait for a person, by station. */
export const waitingSchema = z.record(z.string(), z.number());
export type Waiting = z.infer<typeof waitingSchema>;

export const journalRowSchema = z.object({
  id: z.number(),
  at: instant,
  kind: z.string(),
  subject: z.string(),
  text: z.string(),
  to: z.string(),
  /** Whose doing it was; null where the clock or the server led to it. */
  by: roleSchema.nullable(),
});
export type JournalRow = z.infer<typeof journalRowSchema>;

export const tapeItemSchema = z.object({
  id: z.string(),
  kind: z.enum(['window', 'rollout', 'job', 'cut', 'planned', 'clock change']),
  label: z.string(),
  start: instant,
  end: instant,
  dye: dyeSchema.nullable(),
  to: z.string(),
});
export type TapeItem = z.infer<typeof tapeItemSchema>;

export const healthSchema = z.object({
  status: z.enum(['well', 'in trouble']),
  /** What is wrong, in a sentence. */
  trouble: z.string().nullable(),
  schema: z.string(),
  jobsRunning: z.number(),
});
export type Health = z.infer<typeof healthSchema>;

/** A year with some days on either side is the longest strip that anybody can read. */
const MOST_TAPE_DAYS = 400;
/** From 2000 to 2100. */
export const stretchInstant = z.coerce
  .number()
  .min(Date.UTC(2000, 0, 1), 'is before the year 2000')
  .max(Date.UTC(2100, 0, 1), 'is after the year 2100');

export const homeEndpoints = {
  home: endpoint({
    method: 'get',
    path: '/home',
    summary: 'The line drawn large',
    dependsOn: ['line', 'package', 'pool', 'rollout', 'job'],
    response: homeSchema,
  }),
  waiting: endpoint({
    method: 'get',
    path: '/waiting',
    summary: 'How many things wait for a person, by station',
    dependsOn: ['line', 'package', 'pool', 'rollout', 'job'],
    response: waitingSchema,
  }),
  journal: endpoint({
    method: 'get',
    path: '/journal',
    summary: 'What happened, newest first',
    dependsOn: ['journal'],
    query: z.strictObject({ ...pageQuery, q: text.default('') }),
    response: pageOf(journalRowSchema),
  }),
  tape: endpoint({
    method: 'get',
    path: '/tape',
    summary: 'What lies on a strip of time',
    dependsOn: ['rollout', 'job', 'line'],
    query: z
      .strictObject({ from: stretchInstant, to: stretchInstant })
      .refine(({ from, to }) => to >= from, { path: ['to'], message: 'is before the beginning' })
      .refine(({ from, to }) => to - from <= MOST_TAPE_DAYS * DAY, {
        path: ['to'],
        message: `is over ${MOST_TAPE_DAYS} days after the beginning`,
      }),
    response: z.array(tapeItemSchema),
  }),
  health: endpoint({
    method: 'get',
    path: '/health',
    summary: 'Whether the server and its data are well',
    response: healthSchema,
  }),
};
