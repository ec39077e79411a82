import { z } from 'zod';
import { clashKinds } from '@vatline/core/package/conflicts';
import { packageStates } from '@vatline/core/package/version-state';
import {
  bytes,
  done,
  endpoint,
  filled,
  id,
  idParams,
  instant,
  JSON_TYPE,
  path,
  rawEndpoint,
  text,
} from './endpoint.ts';
import { pageOf, pageQuery } from './page.ts';
import { captureSchema } from './capture.ts';
import { jobSchema } from './job.ts';
import {
  attachSchema,
  containerFormatSchema,
  dependencySchema,
  entryPointSchema,
  entrySchema,
  environmentSchema,
} from './manifest.ts';

/** A container that was built: what it really took. */
export const containerSchema = z.object({
  format: containerFormatSchema,
  digest: z.string(),
  bytes,
  seconds: z.number(),
  builtAt: instant,
});

/** How an application reaches people today. */
export const presentDeliveries = ['container', 'in the image', 'not packaged'] as const;
export type PresentDelivery = (typeof presentDeliveries)[number];

export const checkFindingSchema = z.object({ holds: z.boolean(), what: z.string() });
export type CheckFinding = z.infer<typeof checkFindingSchema>;

/** What attaching a package takes, as a trial on a host measured it. */
export const signInFactsSchema = z.object({
  host: z.string(),
  at: instant,
  format: containerFormatSchema,
  /** Reads of the container on its share. */
  operations: z.number(),
  mountMs: z.number(),
  /** For all of its entry points. */
  registerMs: z.number(),
});
export type SignInFacts = z.infer<typeof signInFactsSchema>;

export const packageVersionSchema = z.object({
  id: z.string(),
  packageId: z.string(),
  name: z.string(),
  publisher: z.string(),
  version: z.string(),
  state: z.enum(packageStates),
  /** Format of the container that hosts get. */
  format: containerFormatSchema,
  /** Hex digest of that container; of an image layout, of its manifest. */
  digest: z.string(),
  /** All that were built, of which one was chosen. */
  containers: z.array(containerSchema),
  captureId: z.string().nullable(),
  signed: z.object({ certificateId: z.string(), name: z.string(), at: instant, validTo: instant }).nullable(),
  verified: z.object({ at: instant, findings: z.array(checkFindingSchema) }).nullable(),
  files: z.number(),
  sizeBytes: bytes,
  containerBytes: bytes,
  /** Each with an identifier that lasts from version to version. */
  entryPoints: z.array(entryPointSchema.extend({ id: z.string() })),
  /** What else its manifest says. */
  details: z.object({
    description: z.string().optional(),
    licence: z.string().optional(),
    notes: z.string().optional(),
    dependencies: z.array(dependencySchema).optional(),
    environment: z.array(environmentSchema).optional(),
    attach: attachSchema.optional(),
    /** How many registry values, services and the like hosts set when they attach it. */
    settings: z.number().optional(),
  }),
  builtAt: instant,
  activeJob: jobSchema.nullable(),
  /** Pools whose current blend attaches it. */
  usedBy: z.array(z.string()),
  /** What would miss it, in words; empty when nothing would. */
  neededBy: z.array(z.string()),
  /** Share that hosts read it from; null before it was uploaded. */
  share: z.string().nullable(),
  /** What attaching it took on a host; null before a trial. */
  signIn: signInFactsSchema.nullable(),
});
export type PackageVersion = z.infer<typeof packageVersionSchema>;

export const clashSchema = z.object({
  kind: z.enum(clashKinds),
  what: z.string(),
  packages: z.array(z.object({ id: z.string(), name: z.string(), version: z.string() })),
  advice: z.string(),
});
export type Clash = z.infer<typeof clashSchema>;

export const certificateSchema = z.object({
  id: z.string(),
  name: z.string(),
  subject: z.string(),
  issuer: z.string(),
  serial: z.string(),
  fingerprint: z.string(),
  key: z.string(),
  validFrom: instant,
  validTo: instant,
  validity: z.object({
    state: z.enum(['not yet valid', 'valid', 'expired']),
    days: z.number(),
    warning: z.number().optional(),
  }),
  /** Why nobody should sign with it; empty when one can. */
  fault: z.string(),
  /** Pools whose hosts trust it, and those whose hosts do not. */
  trustedBy: z.array(z.string()),
  notTrustedBy: z.array(z.string()),
  /** Package versions that it signed. */
  signed: z.number(),
});
export type Certificate = z.infer<typeof certificateSchema>;

export const packageSummarySchema = z.object({
  id: z.string(),
  name: z.string(),
  publisher: z.string(),
  /** How it reaches people now. */
  delivery: z.enum(presentDeliveries),
  note: z.string(),
  versions: z.array(packageVersionSchema),
  captures: z.array(captureSchema),
  /** A newer version of the installer library that is not packaged. */
  waiting: z.string().nullable(),
  /** Whether several versions may reach a person at once. */
  sideBySide: z.boolean(),
  keepVersions: z.number().nullable(),
});
export type PackageSummary = z.infer<typeof packageSummarySchema>;

const counts = z.object({
  added: z.number(),
  removed: z.number(),
  changed: z.number(),
  moved: z.number(),
  same: z.number(),
});

/** Lists hold the first 500 rows; the counts are of all. */
export const versionComparisonSchema = z.object({
  before: z.string(),
  after: z.string(),
  counts,
  added: z.array(entrySchema),
  removed: z.array(entrySchema),
  changed: z.array(z.object({ before: entrySchema, after: entrySchema, fields: z.array(z.string()) })),
  moved: z.array(z.object({ from: entrySchema, to: entrySchema })),
  entryPoints: z.object({
    added: z.array(z.string()),
    removed: z.array(z.string()),
    changed: z.array(z.string()),
  }),
  update: z.object({
    wholeBytes: bytes,
    newBytes: bytes,
    deltaBytes: bytes,
    /** Hosts that have the earlier version attached. */
    hosts: z.number(),
  }),
});
export type VersionComparison = z.infer<typeof versionComparisonSchema>;

export const packageEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/packages',
    summary: 'Packages by name, with their versions and captures, page by page',
    dependsOn: ['package', 'capture', 'package-version'],
    query: z.strictObject({
      ...pageQuery,
      /** Part of a name or a publisher. */
      q: text.default(''),
    }),
    response: pageOf(packageSummarySchema),
  }),
  change: endpoint({
    method: 'patch',
    path: '/packages/:id',
    summary: 'Say whether versions run side by side, and how many are kept',
    changes: ['package', 'access'],
    params: idParams,
    body: z
      .strictObject({
        sideBySide: z.boolean().optional(),
        keepVersions: z.number().int().min(1).max(200).nullable().optional(),
      })
      .refine((body) => Object.keys(body).length > 0, 'names nothing to change'),
    response: done,
  }),
  deleteVersions: endpoint({
    method: 'post',
    path: '/packages/:id/delete-versions',
    summary: 'Delete versions that nothing needs, with their containers here and on the share',
    changes: ['package', 'estate'],
    params: idParams,
    body: z.strictObject({
      versionIds: z.array(id).min(1, 'names no version').max(1_000, 'are more than 1,000'),
    }),
    response: z.object({ freedBytes: bytes }),
  }),
  compareVersions: endpoint({
    method: 'get',
    path: '/package-versions/:id/comparison',
    summary: 'What a version changed against an earlier one, and what updating hosts fetch',
    dependsOn: ['package', 'pool'],
    params: idParams,
    query: z.strictObject({ with: id }),
    response: versionComparisonSchema,
  }),
  verify: endpoint({
    method: 'post',
    path: '/package-versions/:id/verify',
    summary: 'Check structure, content and signature of the container, and whether hosts trust it',
    changes: ['package'],
    params: idParams,
    response: z.object({ holds: z.boolean(), findings: z.array(checkFindingSchema) }),
  }),
  setState: endpoint({
    method: 'patch',
    path: '/package-versions/:id',
    summary: 'Hold a package version that hosts have, or withdraw it',
    changes: ['package', 'access', 'estate'],
    params: idParams,
    body: z.strictObject({ state: z.enum(['held', 'withdrawn']) }),
    response: done,
  }),
  offer: endpoint({
    method: 'post',
    path: '/package-versions/:id/offer',
    summary: 'Copy the container to a share, check what arrived, and offer it to hosts',
    changes: ['package', 'job'],
    params: idParams,
    body: z.strictObject({
      /** The share that its package lies on already, or the cheapest, when nothing is said. */
      share: text.optional(),
    }),
    response: z.object({ jobId: z.string() }),
  }),
  trial: endpoint({
    method: 'post',
    path: '/package-versions/:id/trial',
    summary: 'Attach it on one host for nobody, measure that, and take it away again',
    changes: ['package', 'job'],
    params: idParams,
    body: z.strictObject({ host: filled('The host') }),
    response: z.object({ jobId: z.string() }),
  }),
  choose: endpoint({
    method: 'post',
    path: '/package-versions/:id/choose',
    summary: 'Choose which container hosts get; it has to be signed and verified anew',
    changes: ['package'],
    params: idParams,
    body: z.strictObject({ format: containerFormatSchema }),
    response: done,
  }),
  sign: endpoint({
    method: 'post',
    path: '/package-versions/:id/sign',
    summary: 'Sign the container, in place of an earlier signature',
    changes: ['package', 'estate'],
    params: idParams,
    body: z.strictObject({ certificateId: text.min(1, 'choose a certificate') }),
    response: done,
  }),
  contents: endpoint({
    method: 'get',
    path: '/package-versions/:id/contents',
    summary: 'What is in the container, read from it',
    dependsOn: ['package'],
    params: idParams,
    response: z.array(
      z.object({
        path: z.string(),
        kind: z.enum(['file', 'folder', 'link']),
        size: bytes,
        target: z.string(),
      }),
    ),
  }),
  clashes: endpoint({
    method: 'get',
    path: '/packages/clashes',
    summary: 'What clashes between offered packages, or between them and a capture',
    dependsOn: ['package'],
    query: z.strictObject({ capture: id.optional() }),
    response: z.array(clashSchema),
  }),
  blendClashes: endpoint({
    method: 'post',
    path: '/packages/clashes',
    summary: 'What clashes between package versions that are attached together',
    dependsOn: ['package'],
    body: z.strictObject({ packageVersionIds: z.array(id).max(1000, 'must be at most 1,000') }),
    response: z.array(clashSchema),
  }),
  certificates: endpoint({
    method: 'get',
    path: '/certificates',
    summary: 'Certificates that containers are signed with',
    dependsOn: ['package', 'pool'],
    response: z.array(certificateSchema),
  }),
  deleteCertificate: endpoint({
    method: 'delete',
    path: '/certificates/:id',
    summary: 'Delete a certificate with its key; what it signed stays signed',
    changes: ['package'],
    params: idParams,
    response: done,
  }),
};

/** What comes or goes as a file. */
export const packageFileEndpoints = {
  container: rawEndpoint({
    method: 'get',
    path: '/package-versions/:id/download',
    summary: 'The chosen container; an image layout as a tar',
    gives: 'application/octet-stream',
    params: idParams,
  }),
  file: rawEndpoint({
    method: 'get',
    path: '/package-versions/:id/file',
    summary: 'A file of the chosen container',
    gives: 'application/octet-stream',
    params: idParams,
    query: z.strictObject({ path }),
  }),
  bom: rawEndpoint({
    method: 'get',
    path: '/package-versions/:id/bom',
    summary: 'The bill of materials of the chosen container (CycloneDX 1.6)',
    gives: 'application/vnd.cyclonedx+json',
    params: idParams,
  }),
  bringCertificate: rawEndpoint({
    method: 'post',
    path: '/certificates',
    summary:
      'Bring a signing certificate with its key: a form with `name`, `password` and the file `file`, PKCS #12 or PEM',
    takes: 'form',
    gives: JSON_TYPE,
    changes: ['package'],
    response: z.strictObject({ id: z.string() }),
  }),
};
