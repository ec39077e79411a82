import { z } from 'zod';
import { bytes, done, endpoint, idParams, instant, text } from './endpoint.ts';
import { jobSchema } from './job.ts';

/** An entry of an inventory, as `core/src/image/inventory.ts` has it. */
export const entrySchema = z.looseObject({ kind: z.string() });

export const entryPointSchema = z.strictObject({
  name: text.min(1, 'has no name'),
  path: text.min(1, 'has no path'),
});

export const packageVersionSchema = z.object({
  id: z.string(),
  packageId: z.string(),
  name: z.string(),
  publisher: z.string(),
  version: z.string(),
  state: z.enum(['live', 'held']),
  format: z.literal('oci'),
  /** Hex digest of the manifest. */
  digest: z.string(),
  files: z.number(),
  sizeBytes: bytes,
  containerBytes: bytes,
  entryPoints: z.array(entryPointSchema),
  builtAt: instant,
  /** Pools whose current blend attaches it. */
  usedBy: z.array(z.string()),
});
export type PackageVersion = z.infer<typeof packageVersionSchema>;

export const captureSchema = z.object({
  id: z.string(),
  name: z.string(),
  source: z.enum(['practice', 'upload']),
  state: z.enum(['capturing', 'ready', 'packaged', 'failed']),
  createdAt: instant,
  counts: z
    .object({
      added: z.number(),
      removed: z.number(),
      changed: z.number(),
      moved: z.number(),
      dropped: z.number(),
    })
    .nullable(),
  /** Proposed from the installer, to be corrected by the packager. */
  proposal: z.object({
    name: z.string(),
    publisher: z.string(),
    version: z.string(),
    entryPoints: z.array(entryPointSchema),
  }),
  activeJob: jobSchema.nullable(),
});
export type Capture = z.infer<typeof captureSchema>;

const changedSchema = z.object({ before: entrySchema, after: entrySchema, fields: z.array(z.string()) });

export const captureComparisonSchema = z.object({
  added: z.array(entrySchema),
  removed: z.array(entrySchema),
  changed: z.array(changedSchema),
  moved: z.array(z.object({ from: entrySchema, to: entrySchema })),
  dropped: z.array(
    z.object({ entry: entrySchema, change: z.string(), rule: z.string(), reason: z.string() }),
  ),
  same: z.number(),
  updaters: z.array(z.object({ entry: entrySchema, remedy: z.string() })),
});

export const packageSummarySchema = z.object({
  id: z.string(),
  name: z.string(),
  publisher: z.string(),
  /** How it reaches people now. */
  delivery: z.enum(['container', 'in the image', 'not packaged']),
  note: z.string(),
  versions: z.array(packageVersionSchema),
  captures: z.array(captureSchema),
  /** A newer version of the installer library that is not packaged. */
  waiting: z.string().nullable(),
});
export type PackageSummary = z.infer<typeof packageSummarySchema>;

export const packageEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/packages',
    summary: 'Packages, their versions and captures',
    response: z.array(packageSummarySchema),
  }),
  installers: endpoint({
    method: 'get',
    path: '/packages/installers',
    summary: 'What the practice packaging machine can install',
    response: z.array(
      z.object({
        id: z.string(),
        name: z.string(),
        publisher: z.string(),
        version: z.string(),
        files: z.number(),
      }),
    ),
  }),
  capture: endpoint({
    method: 'post',
    path: '/captures',
    summary: 'Capture an installer on the practice packaging machine',
    body: z.strictObject({ installer: text.min(1, 'choose an installer') }),
    response: z.object({ captureId: z.string(), jobId: z.string() }),
  }),
  getCapture: endpoint({
    method: 'get',
    path: '/captures/:id',
    summary: 'A capture',
    params: idParams,
    response: captureSchema,
  }),
  comparison: endpoint({
    method: 'get',
    path: '/captures/:id/comparison',
    summary: 'What the installer changed, and what was dropped as noise',
    params: idParams,
    response: captureComparisonSchema,
  }),
  pack: endpoint({
    method: 'post',
    path: '/captures/:id/container',
    summary: 'Build the container of a capture',
    params: idParams,
    body: z.strictObject({
      name: text.min(1, 'The name is empty'),
      publisher: text.min(1, 'The publisher is empty'),
      version: text.min(1, 'The version is empty'),
      entryPoints: z.array(entryPointSchema).min(1, 'needs at least one entry point'),
      /** Leave the files of updaters out. */
      withoutUpdaters: z.boolean().default(true),
    }),
    response: z.object({ jobId: z.string() }),
  }),
  verify: endpoint({
    method: 'post',
    path: '/package-versions/:id/verify',
    summary: 'Check the structure and every digest of a container',
    params: idParams,
    response: z.object({
      holds: z.boolean(),
      findings: z.array(z.object({ holds: z.boolean(), what: z.string() })),
    }),
  }),
  setState: endpoint({
    method: 'patch',
    path: '/package-versions/:id',
    summary: 'Offer a package version to hosts, or hold it',
    params: idParams,
    body: z.strictObject({ state: z.enum(['live', 'held']) }),
    response: done,
  }),
};
