/** Everything that is planned in a stretch of time: rollouts, rings, cuts and what follows them. */
import { z } from 'zod';
import { limitKinds, plannedKinds } from '@vatline/core/rollout/calendar/planned-work';
import { DAY } from '@vatline/core/time/instant';
import { endpoint, instant, rawEndpoint } from './endpoint.ts';
import { stretchInstant } from './home.ts';
import { dyeSchema } from './image.ts';

/** A month with the weeks that it begins and ends in, twice. */
export const MOST_DAYS = 92;

/** Windows of 300 pools on every night of a month; what is beyond is counted. */
export const MOST_PLANNED = 10_000;

export const plannedSchema = z.object({
  id: z.string(),
  kind: z.enum(plannedKinds),
  /** What all windows of one rollout, one ring or one cut have in common. */
  of: z.string(),
  /** The pool, or what is cut. */
  label: z.string(),
  /** The rollout through rings, or the cut, whose parts wait for one another by themselves. */
  partOf: z.string().nullable(),
  poolId: z.string().nullable(),
  lineId: z.string().nullable(),
  start: instant,
  end: instant,
  /** Until when it is at work in this window, 9 in 10. */
  worksUntil: instant,
  isEnough: z.boolean(),
  loads: z.array(z.object({ store: z.string(), operations: z.number() })),
  /** Hosts that are left when it begins; null for a cut. */
  hosts: z.number().nullable(),
  batch: z.number().nullable(),
  /** Of the image that hosts are taken to, where it is there already. */
  version: z.object({ dye: dyeSchema, number: z.number() }).nullable(),
  isOver: z.boolean(),
  to: z.string(),
  /** What is changed when it is moved: the plan of a rollout, or the schedule of a line; null for what cannot be. */
  moves: z.enum(['rollout', 'schedule']).nullable(),
  /** Why it cannot be moved; empty where it can. */
  fixed: z.string(),
  /** Which of the rollouts of a schedule it is, from 0; null for all others. */
  place: z.number().nullable(),
});
export type Planned = z.infer<typeof plannedSchema>;

export const plannedEndpoints = {
  between: endpoint({
    method: 'get',
    path: '/planned',
    summary: 'Everything planned in a stretch of time, and what its datastores can take',
    dependsOn: ['rollout', 'line', 'pool', 'calendar'],
    query: z
      .strictObject({ from: stretchInstant, to: stretchInstant })
      .refine(({ from, to }) => to >= from, { path: ['to'], message: 'is before the beginning' })
      .refine(({ from, to }) => to - from <= MOST_DAYS * DAY, {
        path: ['to'],
        message: `is over ${MOST_DAYS} days after the beginning`,
      }),
    response: z.object({
      /** By their beginning. */
      planned: z.array(plannedSchema),
      /** What was left out since there is too much. */
      more: z.number(),
      /** What datastores have left beside those who work on them, operations a second; hosts that hypervisors make at a time. */
      stores: z.array(z.object({ kind: z.enum(limitKinds), store: z.string(), free: z.number() })),
      /** Minutes by which clocks go forward (+) or back (-). */
      clockChanges: z.array(z.object({ at: instant, minutes: z.number() })),
      /** Local dates with the calendars that close them. */
      closed: z.array(z.object({ date: z.string(), calendars: z.array(z.string()) })),
    }),
  }),
};

/** A year: longer than anybody plans, and few enough events for any program that subscribes. */
const MOST_WEEKS = 52;

export const plannedFileEndpoints = {
  calendar: rawEndpoint({
    method: 'get',
    path: '/planned.ics',
    summary:
      'Windows of open rollouts, and cuts and rollouts that schedules plan, as a calendar to subscribe to',
    gives: 'text/calendar',
    query: z.strictObject({ weeks: z.coerce.number().int().min(1).max(MOST_WEEKS).default(8) }),
  }),
};
