/** First desktops: from nothing to people at work, on one bench. */
import { z } from 'zod';
import { endpoint, idParams, instant, text } from './endpoint.ts';
import { jobSchema } from './job.ts';
import { poolPreviewSchema } from './pool/preview.ts';

/** Half typed, a number may be anything; what it should be is a fault at it. */
const draftNumber = z.number().min(-1e15).max(1e15);

const fields = {
  /** Name of the image line. */
  line: text.max(80, 'has over 80 characters'),
  system: text,
  edition: text,
  /** Whether updates, and tools of the hypervisor, go onto the image as well. */
  withUpdates: z.boolean(),
  withTools: z.boolean(),
  pool: text,
  count: draftNumber,
  sessionLimit: draftNumber,
  pattern: text,
  unit: text,
  site: text,
  network: text,
  datastore: text,
  size: text,
  /** Who may use them. */
  group: text,
};

export const firstDraftSchema = z.strictObject(fields);
export type FirstDraft = z.infer<typeof firstDraftSchema>;

export const firstPreviewSchema = z.object({
  steps: z.array(z.object({ title: z.string(), detail: z.string(), minutes: z.number() })),
  minutes: z.object({ build: z.number(), cut: z.number(), make: z.number() }),
  /** Until people can come: as likely as not, and nine times of ten. */
  p50Minutes: z.number(),
  p90Minutes: z.number(),
  /** What an image is taken to be large until there is one. */
  imageBytes: z.number(),
  people: z.number(),
  names: z.array(z.string()),
  ...poolPreviewSchema.pick({ fit: true, conditions: true, assumed: true }).shape,
  faults: z.array(z.object({ path: z.string(), message: z.string() })),
});
export type FirstPreview = z.infer<typeof firstPreviewSchema>;

export const firstProposalSchema = z.object({
  draft: firstDraftSchema,
  media: z.array(z.object({ system: z.string(), editions: z.array(z.string()) })),
  groups: z.array(z.object({ name: z.string(), people: z.number() })),
  /** The job of some that are being made; null where none are. */
  onTheWay: z.string().nullable(),
});

export const firstProgressSchema = z.object({
  job: jobSchema,
  lineId: z.string(),
  line: z.string(),
  group: z.string(),
  /** When people are to be able to come, nine times of ten. */
  promisedAt: instant,
  hosts: z.number(),
  /** Null until it is there. */
  pool: z
    .object({
      id: z.string(),
      name: z.string(),
      hosts: z.number(),
      inService: z.number(),
      job: jobSchema.nullable(),
    })
    .nullable(),
  /** Whether the group may use it already. */
  isAssigned: z.boolean(),
  /** Somebody of the group, to see it as; null for a group of nobody. */
  person: z.object({ account: z.string(), name: z.string() }).nullable(),
});
export type FirstProgress = z.infer<typeof firstProgressSchema>;

export const firstDesktopsEndpoints = {
  propose: endpoint({
    method: 'get',
    path: '/first-desktops',
    summary: 'Sensible values for first desktops, and what can be chosen',
    dependsOn: ['estate', 'line', 'pool', 'job'],
    response: firstProposalSchema,
  }),
  preview: endpoint({
    method: 'post',
    path: '/first-desktops/preview',
    summary: 'What first desktops would take, when they are there, and what stands in the way',
    dependsOn: ['estate', 'line', 'pool'],
    body: firstDraftSchema,
    response: firstPreviewSchema,
  }),
  begin: endpoint({
    method: 'post',
    path: '/first-desktops',
    summary: 'Make an image line, a version, a pool and an assignment, one after the other',
    changes: ['line', 'pool', 'job', 'access'],
    body: firstDraftSchema.extend({
      line: fields.line.min(1, 'the line has no name'),
      system: fields.system.min(1, 'choose a system'),
      pool: fields.pool.min(1, 'the pool has no name'),
      group: fields.group.min(1, 'choose a group'),
    }),
    response: z.object({ jobId: z.string(), lineId: z.string() }),
  }),
  progress: endpoint({
    method: 'get',
    path: '/first-desktops/:id',
    summary: 'How far first desktops are',
    dependsOn: ['job', 'pool', 'line', 'access'],
    params: idParams,
    response: firstProgressSchema,
  }),
};
