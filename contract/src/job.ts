import { z } from 'zod';
import { roleSchema } from './caller.ts';
import { done, endpoint, idParams, instant, text } from './endpoint.ts';
import { pageOf, pageQuery } from './page.ts';

export const jobStates = ['waiting', 'running', 'paused', 'failed', 'cancelled', 'done'] as const;
export type JobState = (typeof jobStates)[number];

export const stepStates = ['waiting', 'running', 'failed', 'done'] as const;
export type StepState = (typeof stepStates)[number];

export const ledgerStates = ['planned', 'made', 'failed', 'undone'] as const;
export type LedgerState = (typeof ledgerStates)[number];

export const jobStepSchema = z.object({
  title: z.string(),
  state: z.enum(stepStates),
  /** Share done, 0 to 1. */
  progress: z.number(),
  startedAt: instant.nullable(),
  endedAt: instant.nullable(),
});

/** A row of a ledger: one object in one outside system. */
export const ledgerRowSchema = z.object({
  object: z.string(),
  system: z.string(),
  state: z.enum(ledgerStates),
  /** The key to find it by in that system. */
  key: z.string(),
  detail: z.string(),
  /** While an outside system is waited for: since when, and until when. */
  waits: z.object({ since: instant, until: instant }).nullable(),
});
export type LedgerRow = z.infer<typeof ledgerRowSchema>;

export const jobSchema = z.object({
  id: z.string(),
  kind: z.string(),
  title: z.string(),
  /** What it is about: `line:<id>`, `pool:<id>`, `capture:<id>`. */
  subject: z.string(),
  state: z.enum(jobStates),
  /** Who began it; null where a schedule did. */
  by: roleSchema.nullable(),
  error: z.string().nullable(),
  createdAt: instant,
  endedAt: instant.nullable(),
  /** By when it was to be done; null where nothing was promised. */
  promisedAt: instant.nullable(),
  steps: z.array(jobStepSchema),
  /** Whether it waits for something in the estate, and so for the estate's clock. */
  waitsForEstate: z.boolean(),
  /** Whether it can be gone on with, and whether what it made can be undone. */
  canGoOn: z.boolean(),
  canUndo: z.boolean(),
  canPause: z.boolean(),
  /** Whether it will pause once the step at work has ended. */
  pausing: z.boolean(),
});
export type Job = z.infer<typeof jobSchema>;

export const jobDetailSchema = jobSchema.extend({
  log: z.array(z.object({ at: instant, step: z.number(), text: z.string() })),
  /** How many rows its ledger has, by state. */
  ledger: z.partialRecord(z.enum(ledgerStates), z.number()),
});
export type JobDetail = z.infer<typeof jobDetailSchema>;

export const jobEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/jobs',
    summary: 'The newest jobs, of one subject when asked',
    dependsOn: ['job', 'progress'],
    query: z.strictObject({
      subject: text.optional(),
      limit: z.coerce.number().int().min(1).max(200).default(30),
    }),
    response: z.array(jobSchema),
  }),
  get: endpoint({
    method: 'get',
    path: '/jobs/:id',
    summary: 'A job with its log, and how its ledger stands',
    dependsOn: ['job:{id}', 'progress:{id}'],
    params: idParams,
    response: jobDetailSchema,
  }),
  ledger: endpoint({
    method: 'get',
    path: '/jobs/:id/ledger',
    summary: 'Every object that a job makes, in which system, page by page',
    dependsOn: ['job:{id}', 'progress:{id}'],
    params: idParams,
    query: z.strictObject({ ...pageQuery, state: z.enum(ledgerStates).optional() }),
    response: pageOf(ledgerRowSchema),
  }),
  cancel: endpoint({
    method: 'post',
    path: '/jobs/:id/cancel',
    summary: 'Cancel a job',
    changes: ['job:{id}'],
    params: idParams,
    response: done,
  }),
  pause: endpoint({
    method: 'post',
    path: '/jobs/:id/pause',
    summary: 'Let a job stop before its next step',
    changes: ['job:{id}'],
    params: idParams,
    response: done,
  }),
  goOn: endpoint({
    method: 'post',
    path: '/jobs/:id/go-on',
    summary: 'Go on with a failed or paused job from the step that did not end',
    changes: ['job:{id}', 'job'],
    params: idParams,
    response: done,
  }),
  undo: endpoint({
    method: 'post',
    path: '/jobs/:id/undo',
    summary: 'Undo everything that a failed job made',
    changes: ['job', 'pool'],
    params: idParams,
    response: z.object({ jobId: z.string() }),
  }),
};
