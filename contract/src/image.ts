import { powers } from '@vatline/core/power';
import { z } from 'zod';
import { dyeNames } from '@vatline/core/dye/dyes';
import { versionStates } from '@vatline/core/image/version-state';
import {
  basedOn,
  bytes,
  done,
  endpoint,
  filled,
  id,
  idParams,
  instant,
  JSON_TYPE,
  rawEndpoint,
  text,
} from './endpoint.ts';
import { jobSchema } from './job.ts';
import { hardwareSchema, MAX_STEPS, stepSchema } from './recipe.ts';

export const dyeSchema = z.enum(dyeNames);

export const imageVersionSchema = z.object({
  id: z.string(),
  lineId: z.string(),
  number: z.number(),
  dye: dyeSchema,
  state: z.enum(versionStates),
  note: z.string(),
  /** 0 when it was made elsewhere. */
  recipeRevision: z.number(),
  /** The job that cut or imported it; null for those from before jobs were noted. */
  jobId: z.string().nullable(),
  /** Of a version made elsewhere, the hardware it was made on. */
  hardware: hardwareSchema.nullable(),
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

/** An option sheet that steps can install by; the digest is of what it renders to, null while it has faults. */
export const filledSheetSchema = z.object({
  suite: z.string(),
  publisher: z.string(),
  version: z.string(),
  sheet: z.string(),
  digest: z.string().nullable(),
});

export const machineSchema = z.object({
  /** As the hypervisor knows it. */
  id: z.string(),
  name: z.string(),
  power: z.enum(powers),
  restartPending: z.boolean(),
  agent: z.boolean(),
  joined: z.boolean(),
  /** Checkpoint key of what has been run on it. */
  key: z.string().nullable(),
  updaters: z.array(updaterSchema),
  /** Paths of the shortcuts that all users find. */
  shortcuts: z.array(z.string()),
  /** What differs on it from its last checkpoint, noise left out: how much, and the first of it. */
  changedByHand: z.object({ count: z.number(), first: z.string() }),
});

export const lineSummarySchema = z.object({
  id: z.string(),
  name: z.string(),
  purpose: z.string(),
  recipeRevision: z.number(),
  steps: z.number(),
  versions: z.array(imageVersionSchema),
  activeJob: jobSchema.nullable(),
  /** Version of another line that it was started from. */
  forkedFrom: z.string().nullable(),
});
export type LineSummary = z.infer<typeof lineSummarySchema>;

export const lineDetailSchema = lineSummarySchema.extend({
  hardware: hardwareSchema,
  recipe: z.array(stepSchema),
  machine: machineSchema.nullable(),
  /** Every revision of every fragment, by `fragmentKey`. */
  fragments: z.record(z.string(), z.array(stepSchema)),
  /** Checkpoints that exist. `step` is the index of the step in the recipe that made it. */
  checkpoints: z.array(z.object({ key: z.string(), sizeBytes: bytes, usedAt: instant, step: z.number() })),
  checkpointBudgetBytes: bytes,
  /** Runs of steps in past builds, newest first; identities as `stepIdentity` makes them. */
  runs: z.array(z.object({ build: z.string(), identity: z.string(), minutes: z.number(), at: instant })),
  /** What somebody noted of their changes by hand, newest first. */
  handNotes: z.array(z.object({ text: z.string(), at: instant })),
  /** The recipe that the newest version was cut from, to tell what changed. */
  lastCutRecipe: z.array(stepSchema),
  jobs: z.array(jobSchema),
  /** What the estate has to build from. */
  sources: sourcesSchema,
  optionSheets: z.array(filledSheetSchema),
  /** Pools whose hosts are made from this line. */
  pools: z.array(z.object({ name: z.string(), processors: z.number() })),
  /** How many versions retention keeps besides those in use; null keeps all. */
  keepVersions: z.number().nullable(),
  checksOff: z.array(z.object({ id: z.string(), reason: z.string(), at: instant })),
});
export type LineDetail = z.infer<typeof lineDetailSchema>;

export const lineRevisionSchema = z.object({
  revision: z.number(),
  createdAt: instant,
  steps: z.array(stepSchema),
  hardware: hardwareSchema,
  /** Numbers of the versions that were cut from it. */
  versions: z.array(z.number()),
});
export type LineRevision = z.infer<typeof lineRevisionSchema>;

const deltaQuery = z.strictObject({ from: id, to: id });

/** The files of one version as a layer over another's. */
export const deltaSchema = z.object({
  puts: z.number(),
  putBytes: bytes,
  whiteouts: z.number(),
  removedBytes: bytes,
  /** The finished layer; null before it is made. */
  made: z.object({ digest: z.string(), sizeBytes: bytes }).nullable(),
  /** The job that makes it, or the last one that failed to. */
  job: jobSchema.nullable(),
});
export type VersionDelta = z.infer<typeof deltaSchema>;

const checkParams = z.strictObject({ id, check: id });
const jobStarted = z.object({ jobId: z.string() });

export const imageEndpoints = {
  lines: endpoint({
    method: 'get',
    path: '/lines',
    summary: 'Image lines with their versions',
    dependsOn: ['line'],
    response: z.array(lineSummarySchema),
  }),
  line: endpoint({
    method: 'get',
    path: '/lines/:id',
    summary: 'An image line whole',
    dependsOn: ['line:{id}', 'package'],
    params: idParams,
    response: lineDetailSchema,
  }),
  createLine: endpoint({
    method: 'post',
    path: '/lines',
    summary: 'Begin an image line',
    changes: ['line'],
    body: z.strictObject({
      name: filled('The name').max(60),
      purpose: text.default(''),
      hardware: hardwareSchema,
      /** Version of another line whose recipe and hardware it begins with. */
      fromVersion: id.optional(),
    }),
    response: z.object({ id: z.string() }),
  }),
  saveRecipe: endpoint({
    method: 'put',
    path: '/lines/:id/recipe',
    summary: 'Keep a new revision of a recipe',
    changes: ['line:{id}', 'line'],
    params: idParams,
    body: z.strictObject({
      steps: z.array(stepSchema).max(MAX_STEPS, `are more than ${MAX_STEPS}`),
      hardware: hardwareSchema.optional(),
      basedOn,
    }),
    response: z.object({ revision: z.number() }),
  }),
  hosts: endpoint({
    method: 'get',
    path: '/lines/:id/hosts',
    summary: 'Hosts that are made from a line, with the version each runs',
    dependsOn: ['pool'],
    params: idParams,
    response: z.array(
      z.object({ id: z.string(), name: z.string(), pool: z.string(), versionId: z.string() }),
    ),
  }),
  revisions: endpoint({
    method: 'get',
    path: '/lines/:id/revisions',
    summary: "Every revision of a line's recipe, newest first",
    dependsOn: ['line:{id}'],
    params: idParams,
    response: z.array(lineRevisionSchema),
  }),
  setCheckpointBudget: endpoint({
    method: 'put',
    path: '/lines/:id/checkpoint-budget',
    summary: 'Bytes that the checkpoints of a line may take',
    changes: ['line'],
    params: idParams,
    body: z.strictObject({
      bytes: bytes.min(1e9, 'must be at least 1 GB').max(1e14, 'is more than 100 TB'),
    }),
    response: done,
  }),
  build: endpoint({
    method: 'post',
    path: '/lines/:id/builds',
    summary: 'Build from the waterline',
    changes: ['line:{id}', 'job'],
    params: idParams,
    response: jobStarted,
  }),
  machine: endpoint({
    method: 'post',
    path: '/lines/:id/machine',
    summary: 'Run, restart or shut down the build machine',
    changes: ['line:{id}', 'job'],
    params: idParams,
    body: z.strictObject({ action: z.enum(['run', 'restart', 'shut down']) }),
    response: jobStarted,
  }),
  switchCheckOff: endpoint({
    method: 'put',
    path: '/lines/:id/checks/:check',
    summary: 'Switch a check off for this line, with the reason',
    changes: ['line'],
    params: checkParams,
    body: z.strictObject({ reason: text.min(10, 'Say in a few words why it does not count here').max(300) }),
    response: done,
  }),
  switchCheckOn: endpoint({
    method: 'delete',
    path: '/lines/:id/checks/:check',
    summary: 'Switch a check on again',
    changes: ['line'],
    params: checkParams,
    response: done,
  }),
  cut: endpoint({
    method: 'post',
    path: '/lines/:id/versions',
    summary: 'Cut a version: copy, generalise the copy, capture',
    changes: ['line:{id}', 'job'],
    params: idParams,
    body: z.strictObject({ note: text.default('') }),
    response: jobStarted,
  }),
  setState: endpoint({
    method: 'patch',
    path: '/versions/:id',
    summary: 'Approve, test or retire a version',
    changes: ['line'],
    params: idParams,
    body: z.strictObject({
      state: z.enum(versionStates),
      note: text.max(300).default(''),
    }),
    response: imageVersionSchema,
  }),
  deleteVersions: endpoint({
    method: 'post',
    path: '/lines/:id/deletions',
    summary: 'Delete versions that nothing needs',
    changes: ['line', 'job'],
    params: idParams,
    body: z.strictObject({
      versionIds: z.array(id).min(1, 'Choose a version').max(1_000, 'are more than 1,000'),
    }),
    response: jobStarted,
  }),
  setRetention: endpoint({
    method: 'put',
    path: '/lines/:id/retention',
    summary: 'How many versions are kept besides those in use',
    changes: ['line'],
    params: idParams,
    body: z.strictObject({ keep: z.number().int().min(1, 'Keep at least the newest').max(200).nullable() }),
    response: done,
  }),
  delta: endpoint({
    method: 'get',
    path: '/version-deltas',
    summary: 'What a layer from one version to another holds, and the layer once it is made',
    dependsOn: ['delta', 'line'],
    query: deltaQuery,
    response: deltaSchema,
  }),
  makeDelta: endpoint({
    method: 'post',
    path: '/version-deltas',
    summary: 'Make the layer from one version to another',
    changes: ['job', 'line'],
    body: deltaQuery,
    response: jobStarted,
  }),
};

/** What an inventory is of. */
const inventorySource = text.max(400, 'names nothing that has an inventory');

/** The description of a machine has some kB. */
export const MOST_OVF_BYTES = 1e6;

/** What comes or goes as a file. */
export const imageFileEndpoints = {
  inventory: rawEndpoint({
    method: 'get',
    path: '/inventories',
    summary:
      'An inventory as JSON Lines: of `version:<id>`, `machine:<line>`, `checkpoint:<line>:<key>`, `host:<id>` or `nothing`',
    gives: 'application/x-ndjson',
    query: z.strictObject({ of: inventorySource }),
  }),
  inventoryDifference: rawEndpoint({
    method: 'get',
    path: '/inventory-differences',
    summary:
      'What differs between two inventories, as lines: `{"progress":0.3}` while it is worked out, then `{"before":n,"after":m,"same":{kind:count}}`, the n lines that only the first has, and the m that only the second has',
    gives: 'application/x-ndjson',
    query: z.strictObject({ from: inventorySource, to: inventorySource }),
  }),
  import: rawEndpoint({
    method: 'post',
    path: '/lines/:id/imports',
    summary:
      'Bring a version that was made elsewhere: a form with `inventory`, `ovf` (may be left out) and `note`',
    takes: 'form',
    gives: JSON_TYPE,
    changes: ['line:{id}'],
    params: idParams,
    response: z.strictObject({ id: z.string(), number: z.number() }),
  }),
  delta: rawEndpoint({
    method: 'get',
    path: '/version-deltas/download',
    summary: 'The layer from one version to another, as a tar of an OCI image layout',
    gives: 'application/x-tar',
    query: imageEndpoints.delta.query,
  }),
  bom: rawEndpoint({
    method: 'get',
    path: '/versions/:id/bom',
    summary: 'The bill of materials of a version (CycloneDX 1.6)',
    gives: 'application/vnd.cyclonedx+json',
    params: idParams,
  }),
};
