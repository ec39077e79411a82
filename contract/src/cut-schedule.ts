/** Cuts that run by themselves, and the rollouts that follow them. */
import { z } from 'zod';
import { basedOn, chosen, count, done, endpoint, filled, idParams, instant, text } from './endpoint.ts';
import { windowSchema } from './plan-file.ts';
import { ringStates } from './rings/staged.ts';

/** A place in the order of rollouts that follow a cut: its rollout begins with its first window after the ones before it are done. */
export const ringRequestSchema = z.strictObject({
  poolId: chosen('a pool'),
  window: windowSchema,
  batch: count.min(1, 'must be at least 1'),
  maxUnavailable: count.min(1, 'must be at least 1'),
  drainLimitMinutes: z.number().min(0, 'must be 0 minutes or more').max(1440),
  /** Seats kept above the expected sessions, as a fraction; null keeps none. */
  reserve: z.number().min(0).max(1).nullable(),
});
export type RingRequest = z.infer<typeof ringRequestSchema>;

export const cutScheduleSchema = z.strictObject({
  /** RFC 5545 recurrence rule. */
  rule: filled('The rule'),
  /** Wall time, `HH:MM`. */
  at: text,
  zone: text,
  /** Whether the updates step takes the newest release of its feed first. */
  takeUpdates: z.boolean(),
  /** Whether nothing is cut when recipe and hardware are those of the newest version. */
  onlyIfChanged: z.boolean(),
  /** Whether the build machine runs again afterwards. */
  leaveRunning: z.boolean(),
  /** Hours after the cut before which no rollout begins. */
  waitHours: z.number().min(0).max(720, 'is more than 30 days'),
  rollouts: z.array(ringRequestSchema).max(20, 'holds at most 20 rollouts'),
});
export type CutScheduleRequest = z.infer<typeof cutScheduleSchema>;

/** Of a ring, or of its rollout once that has ended. */
export const followingStates = [...ringStates, 'stopped'] as const;

export const ringSchema = z.object({
  id: z.string(),
  versionNumber: z.number(),
  pool: z.string(),
  state: z.enum(followingStates),
  /** When it begins at the earliest, while it waits. */
  dueAt: instant.nullable(),
  rolloutId: z.string().nullable(),
  /** The rollout through rings that it is a part of. */
  stagedId: z.string(),
  note: z.string(),
});

/** A schedule with what it did last and will do next. */
export const keptScheduleSchema = z.object({
  schedule: cutScheduleSchema.nullable(),
  /** 0 while there is none. */
  revision: z.number(),
  nextAt: z.array(instant),
  lastAt: instant.nullable(),
  lastOutcome: z.string(),
  rings: z.array(ringSchema),
});
export type KeptSchedule = z.infer<typeof keptScheduleSchema>;

export const cutScheduleEndpoints = {
  get: endpoint({
    method: 'get',
    path: '/lines/:id/schedule',
    summary: 'When a line is cut by itself, and what follows',
    dependsOn: ['line:{id}', 'rollout'],
    params: idParams,
    response: keptScheduleSchema,
  }),
  keep: endpoint({
    method: 'put',
    path: '/lines/:id/schedule',
    summary: 'Cut a line by a schedule',
    changes: ['line'],
    params: idParams,
    body: cutScheduleSchema.extend({ basedOn }),
    response: keptScheduleSchema,
  }),
  drop: endpoint({
    method: 'delete',
    path: '/lines/:id/schedule',
    summary: 'Cut by hand only; rollouts that have begun go on',
    changes: ['line'],
    params: idParams,
    response: done,
  }),
};
