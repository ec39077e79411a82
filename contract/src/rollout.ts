import { z } from 'zod';
import { bindings } from '@vatline/core/rollout/admission';
import { hostWays } from '@vatline/core/rollout/blends/way';
import { hostDecisions } from '@vatline/core/rollout/host-decision';
import { hostStages } from '@vatline/core/rollout/host-state';
import { roles } from '@vatline/core/roles';
import { chosen, count, done, endpoint, filled, id, idParams, instant, text } from './endpoint.ts';
import { calendarIds } from './calendar.ts';
import { failureRuleSchema, windowSchema } from './plan-file.ts';
import { pageOf, pageQuery } from './page.ts';
import { blendSchema } from './pool/blend.ts';
import { cellSchema, hostSchema } from './pool/host.ts';

/** What people on hosts are told. */
export const noticeSchema = z.strictObject({
  /** As much as anybody reads in a corner of a screen. */
  text: filled('The text').max(500, 'has over 500 characters'),
  /** Before each window; 0 tells nobody before. A day is the longest that anybody bears in mind. */
  minutesBefore: count.max(1_440, 'is more than a day'),
});

/** When hosts may be worked on, how many at a time, and with how many seats kept. */
export const planSchema = z.strictObject({
  window: windowSchema,
  zone: text,
  /** No window begins on their closed days. */
  calendarIds: calendarIds.default([]),
  batch: count,
  maxUnavailable: count,
  drainLimitMinutes: z.number().min(0, 'must be 0 minutes or more').max(1440),
  /** Seats kept above the expected sessions, as a fraction; null keeps none. */
  reserve: z.number().min(0).max(1).nullable(),
  /** When it is paused by itself because too much of it fails; null for never. */
  stop: failureRuleSchema.nullable().default(null),
  /** Null tells nobody. */
  notice: noticeSchema.nullable().default(null),
});
export type Plan = z.infer<typeof planSchema>;

/** What a person decides about a rollout. */
export const rolloutRequestSchema = planSchema.extend({
  poolId: chosen('a pool'),
  imageVersionId: chosen('an image version'),
  packageVersionIds: z.array(id).max(1_000, 'are more than 1,000'),
  /** Hosts are made anew, whatever they run. */
  isRemake: z.boolean().default(false),
  /** Only these, by name; all of the pool where there are none. */
  onlyHosts: z.array(text).max(10_000, 'are more than 10,000').default([]),
});
export type RolloutRequest = z.infer<typeof rolloutRequestSchema>;

/** A change of a rollout under way. */
export const revisionSchema = z.object({
  number: z.number(),
  at: instant,
  /** Nobody's for what happened by itself, and for the first. */
  by: z.enum(roles).nullable(),
  /** What is another than before, in words; empty for the first. */
  says: z.string(),
  why: z.string(),
  plan: planSchema,
  /** When it was to be done then, 9 in 10. */
  expectedAt: instant.nullable(),
});
export type RolloutRevision = z.infer<typeof revisionSchema>;

/** Why somebody does it, for whoever reads the record. */
export const why = filled('The reason').max(500, 'has over 500 characters');

const percentiles = <T extends z.ZodType>(value: T) => z.object({ p10: value, p50: value, p90: value });
const windowSpan = z.object({ start: instant, end: instant, minutes: z.number(), clockChange: z.number() });

export const suggestionSchema = z.object({
  kind: z.string(),
  batch: z.number(),
  windowEnd: z.string(),
  finish: instant.nullable(),
  minSeatsLeft: z.number(),
});

export const forecastSchema = z.object({
  hosts: z.number(),
  /** Simulations that the answer stands on. */
  runs: z.number(),
  finish: percentiles(instant.nullable()),
  windowsUsed: percentiles(z.number()),
  finishesInFirstWindow: z.number(),
  minSeatsLeft: percentiles(z.number()),
  binding: z.array(z.object({ constraint: z.enum(bindings), minutes: z.number() })),
  /** The same through time, in the median run. */
  held: z.array(z.object({ from: instant, to: instant, constraint: z.enum(bindings) })),
  /** When each fortieth of the hosts is through, in 1, 5 and 9 of 10 runs. */
  progress: z.array(percentiles(instant.nullable())),
  /** `inService`: it takes people meanwhile. */
  spans: z.array(
    z.object({
      index: z.number(),
      name: z.string(),
      start: instant,
      finish: instant,
      inService: z.boolean(),
    }),
  ),
  windows: z.array(windowSpan),
  /** The next windows of the rule, whether used or not. */
  nextWindows: z.array(windowSpan),
  /** On one host that is taken out of service. */
  work: z.object({ medianMinutes: z.number(), p90Minutes: z.number(), learnedFrom: z.number() }),
  /** How many hosts go which way. */
  ways: z.record(z.enum(hostWays), z.number()),
  /** Minutes for which a host that is attached in service waits for its agent, and is attached. */
  checks: z.object({ everyMinutes: z.number(), attachMinutes: z.number() }),
  /** Chance that an attempt fails, and how often it is tried again. */
  failure: z.object({ rate: z.number(), retries: z.number() }),
  seats: z.object({ perHost: z.number(), poolHosts: z.number(), expected: z.array(z.number()) }),
});
export type ForecastAnswer = z.infer<typeof forecastSchema>;

export const rolloutStates = ['asleep', 'at work', 'stopped', 'done'] as const;
export type RolloutState = (typeof rolloutStates)[number];

export const rolloutSchema = z.object({
  id: z.string(),
  poolId: z.string(),
  pool: z.string(),
  from: blendSchema,
  to: blendSchema,
  state: z.enum(rolloutStates),
  isReturn: z.boolean(),
  /** Names of the calendars whose closed days it keeps to. */
  calendars: z.array(z.string()),
  hosts: z.number(),
  done: z.number(),
  atWork: z.number(),
  failed: z.number(),
  setAside: z.number(),
  startedAt: instant,
  /** From when its windows count: of a ring, from the beginning of the whole. */
  windowsFrom: instant,
  endedAt: instant.nullable(),
  /** The window it works in or waits for; none while it is paused. */
  nextWindow: windowSpan.nullable(),
  /** When it will be done, 9 in 10, as forecast at its start. */
  promisedAt: instant.nullable(),
  /** When the rest will be done, 9 in 10, as forecast now; nothing while it is paused. */
  expectedAt: instant.nullable(),
  /** Since when no host begins, by somebody's decision. */
  pausedAt: instant.nullable(),
  /** The rollout through rings that it is a ring of. */
  partOf: z.object({ id: z.string(), title: z.string(), ring: z.string() }).nullable(),
  /** The number of its last revision. */
  revision: z.number(),
  /** What it runs by now. */
  plan: planSchema,
});
export type Rollout = z.infer<typeof rolloutSchema>;

export const rolloutHostSchema = z.object({
  host: hostSchema,
  stage: z.enum(hostStages),
  /** How it gets to its blend; null before its turn. */
  way: z.enum(hostWays).nullable(),
  /** When its agent looks next, while that is waited for. */
  looksAt: instant.nullable(),
  /** Sessions on it that hold packages of before. */
  heldSessions: z.number(),
  attempts: z.number(),
  startedAt: instant.nullable(),
  finishedAt: instant.nullable(),
  error: z.string().nullable(),
});

export type RolloutHost = z.infer<typeof rolloutHostSchema>;

export const rolloutEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/rollouts',
    summary: 'Rollouts, newest first',
    dependsOn: ['rollout'],
    response: z.array(rolloutSchema),
  }),
  get: endpoint({
    method: 'get',
    path: '/rollouts/:id',
    summary: 'A rollout; its hosts are lists of their own',
    dependsOn: ['rollout:{id}', 'pool'],
    params: idParams,
    response: rolloutSchema,
  }),
  hosts: endpoint({
    method: 'get',
    path: '/rollouts/:id/hosts',
    summary: 'The hosts of a rollout, page by page',
    dependsOn: ['rollout:{id}', 'pool'],
    params: idParams,
    query: z.strictObject({
      ...pageQuery,
      /** Part of a name. */
      q: text.default(''),
      /** Only those. */
      stage: z.enum(hostStages).optional(),
      /** `turn`: as they begin; `stage`: those that need somebody first, then those at work. */
      sort: z.enum(['turn', 'stage']).default('turn'),
    }),
    response: pageOf(rolloutHostSchema),
  }),
  cells: endpoint({
    method: 'get',
    path: '/rollouts/:id/cells',
    summary: 'The hosts of a rollout as cells of a grid, as they begin',
    dependsOn: ['rollout:{id}', 'pool'],
    params: idParams,
    response: z.array(cellSchema),
  }),
  forecast: endpoint({
    method: 'post',
    path: '/rollouts/forecast',
    summary: 'When a rollout would be done, and with how many seats left',
    body: rolloutRequestSchema.extend({
      /** One is there at once and says the middle of things; many say how sure it is. */
      runs: count.min(1).max(1_000, 'are more than 1,000').default(1_000),
    }),
    response: forecastSchema,
  }),
  suggest: endpoint({
    method: 'post',
    path: '/rollouts/suggestions',
    summary: 'What else would work, each checked by a forecast of its own',
    body: rolloutRequestSchema,
    response: z.array(suggestionSchema),
  }),
  start: endpoint({
    method: 'post',
    path: '/rollouts',
    summary: 'Start a rollout; it sleeps until its first window',
    changes: ['rollout', 'pool'],
    body: rolloutRequestSchema,
    response: z.object({ id: z.string() }),
  }),
  stop: endpoint({
    method: 'post',
    path: '/rollouts/:id/stop',
    summary: 'Start no more hosts; those at work are finished',
    changes: ['rollout', 'pool'],
    params: idParams,
    body: z.strictObject({
      /** Hosts from which people have yet to leave go back to them. */
      letsGo: z.boolean().default(false),
    }),
    response: done,
  }),
  revisions: endpoint({
    method: 'get',
    path: '/rollouts/:id/revisions',
    summary: 'What was changed while it ran: who, when and why, newest first',
    dependsOn: ['rollout:{id}'],
    params: idParams,
    response: z.array(revisionSchema),
  }),
  previewPlan: endpoint({
    method: 'post',
    path: '/rollouts/:id/plan/preview',
    summary: 'When what is left would be done by another plan',
    params: idParams,
    body: planSchema,
    response: z.object({
      /** What would be another than now. */
      says: z.array(z.string()),
      finish: percentiles(instant.nullable()),
      minSeatsLeft: percentiles(z.number()),
      windowsUsed: percentiles(z.number()),
      /** What would hold hosts back most; null for nothing. */
      binding: z.enum(bindings).nullable(),
    }),
  }),
  changePlan: endpoint({
    method: 'post',
    path: '/rollouts/:id/plan',
    summary: 'Go on by another plan; hosts at work are not touched',
    changes: ['rollout:{id}', 'rollout'],
    params: idParams,
    body: z.strictObject({
      plan: planSchema,
      why,
      /** The revision that it was changed from: somebody else may have been faster. */
      basedOn: count,
    }),
    response: done,
  }),
  pause: endpoint({
    method: 'post',
    path: '/rollouts/:id/pause',
    summary: 'Start no host until somebody lets it go on; those at work are finished',
    changes: ['rollout:{id}', 'rollout'],
    params: idParams,
    body: z.strictObject({ why }),
    response: done,
  }),
  goOn: endpoint({
    method: 'post',
    path: '/rollouts/:id/go-on',
    summary: 'Let a paused rollout go on',
    changes: ['rollout:{id}', 'rollout'],
    params: idParams,
    response: done,
  }),
  wayBack: endpoint({
    method: 'get',
    path: '/rollouts/:id/way-back',
    summary: 'What going back would come to if it began now, and what cannot go back',
    dependsOn: ['rollout', 'pool', 'package', 'line'],
    params: idParams,
    query: z.strictObject({
      /** Hosts at a time; that of the rollout where nothing is said. */
      batch: z.coerce.number().int().min(1).max(10_000, 'is more than 10,000').optional(),
    }),
    response: z.object({
      /** Why there is none; empty where there is one. */
      refusal: z.string(),
      hosts: z.number(),
      batch: z.number(),
      finish: percentiles(instant.nullable()),
      minSeatsLeft: percentiles(z.number()),
      ways: z.record(z.enum(hostWays), z.number()),
      /** Hosts that lose everything that their people keep on them. */
      losing: z.number(),
      /** The last host that was taken there to try it, with the minutes that it was at work. */
      rehearsed: z.object({ host: z.string(), minutes: z.number(), at: instant }).nullable(),
      /** One on which it could be tried now; null while the rollout is under way, or where no host was changed. */
      rehearseOn: z.string().nullable(),
    }),
  }),
  goBack: endpoint({
    method: 'post',
    path: '/rollouts/:id/go-back',
    summary: 'Roll all changed hosts out to the earlier blend, beginning now',
    changes: ['rollout', 'pool'],
    params: idParams,
    body: z.strictObject({ batch: count.min(1).optional() }),
    response: z.object({ id: z.string() }),
  }),
  host: endpoint({
    method: 'post',
    path: '/rollouts/:id/hosts/:hostId',
    summary: 'Try a failed host again, leave one out, or change its turn',
    changes: ['rollout', 'pool'],
    params: z.strictObject({ id, hostId: id }),
    body: z.strictObject({ action: z.enum(hostDecisions) }),
    response: done,
  }),
};
