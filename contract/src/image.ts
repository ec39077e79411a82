import { z } from 'zod';
import { dyeNames } from '@vatline/core/dye/dyes';
import { bytes, done, endpoint, filled, idParams, instant, text } from './endpoint.ts';
import { jobSchema } from './job.ts';
import { hardwareSchema, stepSchema } from './recipe.ts';

export const dyeSchema = z.enum(dyeNames);

export const versionStates = ['draft', 'in test', 'approved', 'retired'] as const;

/** Who acts: there are no accounts yet, so a person says it. */
export const roles = ['engineer', 'operator', 'approver'] as const;
export type Role = (typeof roles)[number];

export const imageVersionSchema = z.object({
  id: z.string(),
  lineId: z.string(),
  number: z.number(),
  dye: dyeSchema,
  state: z.enum(versionStates),
  note: z.string(),
  recipeRevision: z.number(),
  cutAt: instant,
  sizeBytes: bytes,
  /** Who set which state, newest first. */
  changes: z.array(z.object({ state: z.enum(versionStates), by: z.string(), note: z.string(), at: instant })),
  /** What needs it, in words; it can be deleted when there is nothing. */
  neededBy: z.array(z.string()),
  /** Pools that run it, with how many hosts. */
  usedBy: z.array(z.object({ pool: z.string(), hosts: z.number() })),
});
export type ImageVersion = z.infer<typeof imageVersionSchema>;

/** A service or task that would update something by itself, and how to switch it off. */
const updaterSchema = z.object({
  entry: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('service'), name: z.string(), start: z.string(), image: z.string() }),
    z.object({ kind: z.literal('task'), name: z.string(), run: z.string(), schedule: z.string() }),
  ]),
  remedy: z.string(),
});

export const sourcesSchema = z.object({
  media: z.array(z.object({ system: z.string(), editions: z.array(z.string()), digest: z.string() })),
  release: z.string(),
  agentVersion: z.string(),
  toolsVersion: z.string(),
  buildUnit: z.string(),
});

export const machineSchema = z.object({
  /** As the hypervisor knows it. */
  id: z.string(),
  name: z.string(),
  power: z.enum(['on', 'off']),
  restartPending: z.boolean(),
  agent: z.boolean(),
  joined: z.boolean(),
  /** Checkpoint key of what has been run on it. */
  key: z.string().nullable(),
  updaters: z.array(updaterSchema),
  /** Paths of the shortcuts that all users find. */
  shortcuts: z.array(z.string()),
});

export const lineSummarySchema = z.object({
  id: z.string(),
  name: z.string(),
  purpose: z.string(),
  recipeRevision: z.number(),
  steps: z.number(),
  versions: z.array(imageVersionSchema),
  activeJob: jobSchema.nullable(),
});
export type LineSummary = z.infer<typeof lineSummarySchema>;

export const lineDetailSchema = lineSummarySchema.extend({
  hardware: hardwareSchema,
  recipe: z.array(stepSchema),
  machine: machineSchema.nullable(),
  /** Keys of the checkpoints that exist. */
  checkpoints: z.array(z.string()),
  /** Minutes of past runs by step identity. */
  history: z.record(z.string(), z.array(z.number())),
  /** The recipe that the newest version was cut from, to tell what changed. */
  lastCutRecipe: z.array(stepSchema),
  jobs: z.array(jobSchema),
  /** What the estate has to build from. */
  sources: sourcesSchema,
  /** Pools whose hosts are made from this line. */
  pools: z.array(z.object({ name: z.string(), processors: z.number() })),
  /** How many versions retention keeps besides those in use; null keeps all. */
  keepVersions: z.number().nullable(),
  checksOff: z.array(z.object({ id: z.string(), reason: z.string(), at: instant })),
});
export type LineDetail = z.infer<typeof lineDetailSchema>;

export const comparisonSchema = z.object({
  groups: z.array(
    z.object({
      kind: z.string(),
      items: z.array(
        z.object({
          change: z.enum(['added', 'removed', 'changed']),
          name: z.string(),
          before: z.string(),
          after: z.string(),
        }),
      ),
      same: z.number(),
    }),
  ),
  sizeChange: z.number(),
  equal: z.boolean(),
  headline: z.string(),
});
export type Comparison = z.infer<typeof comparisonSchema>;

const checkParams = z.strictObject({ id: z.string(), check: z.string() });
const jobStarted = z.object({ jobId: z.string() });

export const imageEndpoints = {
  lines: endpoint({
    method: 'get',
    path: '/lines',
    summary: 'Image lines with their versions',
    response: z.array(lineSummarySchema),
  }),
  line: endpoint({
    method: 'get',
    path: '/lines/:id',
    summary: 'An image line whole',
    params: idParams,
    response: lineDetailSchema,
  }),
  createLine: endpoint({
    method: 'post',
    path: '/lines',
    summary: 'Begin an image line',
    body: z.strictObject({
      name: filled('The name').max(60),
      purpose: text.default(''),
      hardware: hardwareSchema,
    }),
    response: z.object({ id: z.string() }),
  }),
  saveRecipe: endpoint({
    method: 'put',
    path: '/lines/:id/recipe',
    summary: 'Keep a new revision of a recipe',
    params: idParams,
    body: z.strictObject({
      steps: z.array(stepSchema),
      hardware: hardwareSchema.optional(),
      /** The revision it was made from; a newer one in between is a conflict. */
      basedOn: z.number(),
    }),
    response: z.object({ revision: z.number() }),
  }),
  build: endpoint({
    method: 'post',
    path: '/lines/:id/builds',
    summary: 'Build from the waterline',
    params: idParams,
    response: jobStarted,
  }),
  machine: endpoint({
    method: 'post',
    path: '/lines/:id/machine',
    summary: 'Run, restart or shut down the build machine',
    params: idParams,
    body: z.strictObject({ action: z.enum(['run', 'restart', 'shut down']) }),
    response: jobStarted,
  }),
  switchCheckOff: endpoint({
    method: 'put',
    path: '/lines/:id/checks/:check',
    summary: 'Switch a check off for this line, with the reason',
    params: checkParams,
    body: z.strictObject({ reason: text.min(10, 'Say in a few words why it does not count here').max(300) }),
    response: done,
  }),
  switchCheckOn: endpoint({
    method: 'delete',
    path: '/lines/:id/checks/:check',
    summary: 'Switch a check on again',
    params: checkParams,
    response: done,
  }),
  cut: endpoint({
    method: 'post',
    path: '/lines/:id/versions',
    summary: 'Cut a version: copy, generalise the copy, capture',
    params: idParams,
    body: z.strictObject({ note: text.default('') }),
    response: jobStarted,
  }),
  setState: endpoint({
    method: 'patch',
    path: '/versions/:id',
    summary: 'Approve, test or retire a version',
    params: idParams,
    body: z.strictObject({
      state: z.enum(versionStates),
      by: z.enum(roles),
      note: text.max(300).default(''),
    }),
    response: imageVersionSchema,
  }),
  deleteVersions: endpoint({
    method: 'post',
    path: '/lines/:id/deletions',
    summary: 'Delete versions that nothing needs',
    params: idParams,
    body: z.strictObject({ versionIds: z.array(z.string()).min(1, 'Choose a version') }),
    response: jobStarted,
  }),
  setRetention: endpoint({
    method: 'put',
    path: '/lines/:id/retention',
    summary: 'How many versions are kept besides those in use',
    params: idParams,
    body: z.strictObject({ keep: z.number().int().min(1, 'Keep at least the newest').max(200).nullable() }),
    response: done,
  }),
  compare: endpoint({
    method: 'get',
    path: '/versions/compare',
    summary: 'What lies between two versions',
    query: z.strictObject({ from: z.string(), to: z.string() }),
    response: comparisonSchema,
  }),
};
