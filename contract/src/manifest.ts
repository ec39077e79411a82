/** The parts of a package's manifest, as they come from outside. */
import { z } from 'zod';
import { containerFormats } from '@vatline/core/container/formats';
import { attachTimings, failurePolicies } from '@vatline/core/container/manifest';
import { versionRange } from '@vatline/core/version/range';
import { filled, longText, path, text } from './endpoint.ts';

export const containerFormatSchema = z.enum(containerFormats);

/** An entry of an inventory, as `core/src/inventory/entry.ts` has it. */
export const entrySchema = z.looseObject({ kind: z.string() });

export const entryPointSchema = z.strictObject({
  name: text.min(1, 'has no name'),
  path: path.trim().min(1, 'has no path'),
  arguments: text.optional(),
  icon: path.optional(),
  associations: z
    .array(text.regex(/^\.[^\s.]+$/, 'an ending is a dot and letters, such as .pel'))
    .max(200, 'are more than 200')
    .optional(),
  protocols: z
    .array(text.regex(/^[a-z][a-z0-9+.-]*$/, 'a protocol is small letters, such as zinnet'))
    .max(50, 'are more than 50')
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
  value: longText,
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
  entryPoints: z
    .array(entryPointSchema)
    .min(1, 'needs at least one entry point')
    .max(100, 'are more than 100'),
  dependencies: z.array(dependencySchema).max(100, 'are more than 100').optional(),
  environment: z.array(environmentSchema).max(200, 'are more than 200').optional(),
  attach: attachSchema.optional(),
});
export type ManifestInput = z.infer<typeof manifestSchema>;
