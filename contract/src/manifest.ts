/** The parts of a package's manifest, as they come from outside. */
import { z } from 'zod';
import { containerFormats } from '@vatline/core/container/formats';
import { attachTimings, failurePolicies } from '@vatline/core/package/manifest';
import { versionRange } from '@vatline/core/package/version-range';
import { filled, text } from './endpoint.ts';

export const containerFormatSchema = z.enum(containerFormats);

/** An entry of an inventory, as `core/src/image/inventory.ts` has it. */
export const entrySchema = z.looseObject({ kind: z.string() });

export const entryPointSchema = z.strictObject({
  name: text.min(1, 'has no name'),
  path: text.min(1, 'has no path'),
  arguments: z.string().optional(),
  icon: z.string().optional(),
  associations: z
    .array(z.string().regex(/^\.[^\s.]+$/, 'an ending is a dot and letters, such as .pel'))
    .optional(),
  protocols: z
    .array(z.string().regex(/^[a-z][a-z0-9+.-]*$/, 'a protocol is small letters, such as zinnet'))
    .optional(),
});

export const dependencySchema = z.strictObject({
  name: filled('The name'),
  range: text.superRefine((range, context) => {
    const read = versionRange(range);
    if (!read.ok) context.addIssue({ code: 'custom', message: read.error[0]?.message ?? 'is no range' });
  }),
});

export const environmentSchema = z.strictObject({
  name: text.regex(/^[A-Za-z_][A-Za-z0-9_]*$/, 'is letters, digits and _, such as CARTOLUNE_DATA'),
  value: z.string(),
});

export const attachSchema = z.strictObject({
  timing: z.enum(attachTimings),
  onFailure: z.enum(failurePolicies),
});

/** What a packager says of a package; its settings come from the capture. */
export const manifestSchema = z.strictObject({
  name: filled('The name'),
  publisher: filled('The publisher'),
  version: filled('The version'),
  description: text.max(2000).optional(),
  licence: text.max(300).optional(),
  notes: text.max(4000).optional(),
  entryPoints: z.array(entryPointSchema).min(1, 'needs at least one entry point'),
  dependencies: z.array(dependencySchema).optional(),
  environment: z.array(environmentSchema).optional(),
  attach: attachSchema.optional(),
});
export type ManifestInput = z.infer<typeof manifestSchema>;
