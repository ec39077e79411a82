import { z } from 'zod';
import { bytes, done, endpoint, idParams, instant, text } from './endpoint.ts';
import { captureSchema } from './capture.ts';
import {
  attachSchema,
  dependencySchema,
  containerFormatSchema,
  entryPointSchema,
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

export const packageStates = ['draft', 'verified', 'live', 'held', 'withdrawn'] as const;
export type PackageState = (typeof packageStates)[number];

export const checkFindingSchema = z.object({ holds: z.boolean(), what: z.string() });
export type CheckFinding = z.infer<typeof checkFindingSchema>;

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
  entryPoints: z.array(entryPointSchema),
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
  /** Pools whose current blend attaches it. */
  usedBy: z.array(z.string()),
});
export type PackageVersion = z.infer<typeof packageVersionSchema>;

export const clashSchema = z.object({
  kind: z.string(),
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
  verify: endpoint({
    method: 'post',
    path: '/package-versions/:id/verify',
    summary: 'Check structure, content and signature of the container, and whether hosts trust it',
    params: idParams,
    response: z.object({ holds: z.boolean(), findings: z.array(checkFindingSchema) }),
  }),
  setState: endpoint({
    method: 'patch',
    path: '/package-versions/:id',
    summary: 'Offer a verified package version to hosts, hold it, or withdraw it',
    params: idParams,
    body: z.strictObject({ state: z.enum(['live', 'held', 'withdrawn']) }),
    response: done,
  }),
  choose: endpoint({
    method: 'post',
    path: '/package-versions/:id/choose',
    summary: 'Choose which container hosts get; it has to be signed and verified anew',
    params: idParams,
    body: z.strictObject({ format: containerFormatSchema }),
    response: done,
  }),
  sign: endpoint({
    method: 'post',
    path: '/package-versions/:id/sign',
    summary: 'Sign the container, in place of an earlier signature',
    params: idParams,
    body: z.strictObject({ certificateId: text.min(1, 'choose a certificate') }),
    response: done,
  }),
  contents: endpoint({
    method: 'get',
    path: '/package-versions/:id/contents',
    summary: 'What is in the container, read from it',
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
    query: z.strictObject({ capture: z.string().optional() }),
    response: z.array(clashSchema),
  }),
  certificates: endpoint({
    method: 'get',
    path: '/certificates',
    summary: 'Certificates that containers are signed with',
    response: z.array(certificateSchema),
  }),
  deleteCertificate: endpoint({
    method: 'delete',
    path: '/certificates/:id',
    summary: 'Delete a certificate with its key; what it signed stays signed',
    params: idParams,
    response: done,
  }),
};
