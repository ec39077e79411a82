/** Captures: what an installer changed, how it is judged, and the package that is made of it. */
import { z } from 'zod';
import { bytes, done, endpoint, idParams, instant, JSON_TYPE, path, rawEndpoint, text } from './endpoint.ts';
import { containerFormats } from '@vatline/core/container/formats';
import { jobSchema } from './job.ts';
import { containerFormatSchema, entryPointSchema, entrySchema, manifestSchema } from './manifest.ts';

export const captureSources = ['practice', 'upload'] as const;
export type CaptureSource = (typeof captureSources)[number];

export const captureStates = ['capturing', 'ready', 'packaged', 'failed'] as const;
export type CaptureState = (typeof captureStates)[number];

export const captureSchema = z.object({
  id: z.string(),
  name: z.string(),
  source: z.enum(captureSources),
  /** What ran on the practice machine, in this order; empty for an upload. */
  installers: z.array(z.string()),
  /** Whether what writes by itself was switched off. */
  quiet: z.boolean(),
  /** The rules of one's own that judged it, before the built-in ones. */
  rules: z.object({ name: z.string(), revision: z.number() }).nullable(),
  state: z.enum(captureStates),
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
});

/** What was found in a capture. Its evidence can be long; the rest is short. */
export const judgementSchema = z.object({
  findings: z.array(
    z.object({
      kind: z.string(),
      title: z.string(),
      why: z.string(),
      evidence: z.array(z.object({ entry: entrySchema, note: z.string() })),
    }),
  ),
  /** Whether the machine was clean before. */
  clean: z.array(
    z.object({ holds: z.boolean(), what: z.string(), why: z.string(), evidence: z.array(z.string()) }),
  ),
  /** Pictures among its files, by path. */
  pictures: z.record(z.string(), z.object({ format: z.string(), fault: z.string() })),
  /** What the placement model starts from: the estate as it is, and this capture's size. */
  placement: z.object({ people: z.number(), hosts: z.number(), gigabytes: z.number() }),
});

export const draftSchema = z.object({
  /** May lack what a package needs; it is checked when the package is built. */
  manifest: z.looseObject({}),
  /** Paths of the manifest whose guesses somebody looked at. */
  confirmed: z.array(text).max(500),
  updatersOff: z.boolean(),
});
export type CaptureDraft = z.infer<typeof draftSchema>;

const rulesSchema = z.strictObject({ name: text, revision: z.number().int().min(1).max(1e9) });

export const captureEndpoints = {
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
    summary: 'Capture installers, one after the other, on the practice packaging machine',
    changes: ['package', 'job'],
    body: z.strictObject({
      installers: z.array(text.min(1)).min(1, 'choose an installer').max(20, 'are more than 20'),
      /** Switch off what writes by itself. */
      quiet: z.boolean().default(true),
      /** Restart where an installer asks for it. */
      restarts: z.boolean().default(true),
    }),
    response: z.object({ captureId: z.string(), jobId: z.string() }),
  }),
  getCapture: endpoint({
    method: 'get',
    path: '/captures/:id',
    summary: 'A capture',
    dependsOn: ['capture:{id}', 'package'],
    params: idParams,
    response: captureSchema,
  }),
  owners: endpoint({
    method: 'get',
    path: '/captures/:id/owners',
    summary: 'The entries of each installer where there were several',
    params: idParams,
    response: z.array(z.object({ name: z.string(), entries: z.array(z.string()) })),
  }),
  judgement: endpoint({
    method: 'get',
    path: '/captures/:id/judgement',
    summary: 'What was found in a capture, and whether its machine was clean',
    dependsOn: ['capture:{id}', 'package'],
    params: idParams,
    response: judgementSchema,
  }),
  judge: endpoint({
    method: 'post',
    path: '/captures/:id/judge',
    summary: 'Judge a capture anew by other noise rules; null for the built-in ones alone',
    changes: ['package'],
    params: idParams,
    body: z.strictObject({ rules: rulesSchema.nullable() }),
    response: done,
  }),
  text: endpoint({
    method: 'get',
    path: '/captures/:id/text',
    summary: 'A small text file before and after; null where there is none or it is no small text',
    params: idParams,
    query: z.strictObject({ path }),
    response: z.object({ before: z.string().nullable(), after: z.string().nullable() }),
  }),
  draft: endpoint({
    method: 'get',
    path: '/captures/:id/draft',
    summary: 'The manifest so far: what was guessed, from where, and what somebody changed or confirmed',
    dependsOn: ['draft:{id}', 'package'],
    params: idParams,
    response: draftSchema.extend({ sources: z.record(z.string(), z.string()) }),
  }),
  keepDraft: endpoint({
    method: 'put',
    path: '/captures/:id/draft',
    summary: 'Keep the manifest as it is now',
    changes: ['draft:{id}'],
    params: idParams,
    body: draftSchema,
    response: done,
  }),
  estimate: endpoint({
    method: 'get',
    path: '/captures/:id/estimate',
    summary: 'What a package of this capture would hold, and how large each container would be',
    dependsOn: ['capture:{id}', 'package', 'draft:{id}'],
    params: idParams,
    query: z.strictObject({ updatersOff: z.enum(['true', 'false']).default('true') }),
    response: z.object({
      files: z.number(),
      bytes,
      /** Registry values, services and the like that hosts set when they attach it. */
      settings: z.number(),
      containers: z.array(
        z.object({
          format: containerFormatSchema,
          /** Null where the format cannot hold the files. */
          bytes: bytes.nullable(),
          /** As long as containers of this size took here; null before the first was built. */
          seconds: z.number().nullable(),
          /** What of the files the format cannot keep, and the first paths of each kind. */
          lost: z.array(
            z.object({
              kind: z.string(),
              becomes: z.string(),
              entries: z.number(),
              paths: z.array(z.string()),
            }),
          ),
        }),
      ),
      obstacles: z.array(z.object({ path: z.string(), message: z.string() })),
    }),
  }),
  pack: endpoint({
    method: 'post',
    path: '/captures/:id/container',
    summary: 'Build containers of a capture',
    changes: ['package', 'job'],
    params: idParams,
    body: manifestSchema.extend({
      /** Leave the programs of updaters out, and set their services to disabled. */
      updatersOff: z.boolean().default(true),
      formats: z
        .array(containerFormatSchema)
        .min(1, 'choose at least one')
        .max(containerFormats.length)
        .default(['squashfs', 'vhdx', 'oci']),
    }),
    response: z.object({ jobId: z.string() }),
  }),
};

/** What comes or goes as a file. */
export const captureFileEndpoints = {
  upload: rawEndpoint({
    method: 'post',
    path: '/captures/upload',
    summary:
      'Bring a capture from a machine of your own: a form with `name`, `publisher`, `version`, the archive `payload`, and `before` with `after` or a `registry` export where there are any',
    takes: 'form',
    gives: JSON_TYPE,
    changes: ['package', 'job'],
    response: z.strictObject({ captureId: z.string(), jobId: z.string() }),
  }),
  comparison: rawEndpoint({
    method: 'get',
    path: '/captures/:id/comparison',
    summary:
      'What differs between before and after, as it was written down: it can be hundreds of thousands of rows',
    gives: JSON_TYPE,
    params: idParams,
    response: captureComparisonSchema,
  }),
  picture: rawEndpoint({
    method: 'get',
    path: '/captures/:id/picture',
    summary: 'A picture that was found in a capture',
    gives: 'image/png',
    params: idParams,
    query: z.strictObject({ path }),
  }),
};
