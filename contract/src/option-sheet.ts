/** Option sheets: suites with their options, rules and templates, and the sheets that were filled. */
import { z } from 'zod';
import { optionKinds } from '@vatline/core/option-sheet/suite';
import { basedOn, done, endpoint, filled, id, idParams, instant, text, keptAs } from './endpoint.ts';

export const optionValueSchema = z.union([
  z.string().max(2000),
  z.boolean(),
  z.array(z.string().max(200)).max(500),
]);
export const sheetValuesSchema = z.record(z.string(), optionValueSchema);

const line = text.min(1, 'is empty').max(300);
const optionId = text.regex(/^[A-Za-z_][A-Za-z0-9_]*$/, 'is letters, digits and _');

export const optionSuiteSchema = z.strictObject({
  name: line,
  publisher: line,
  version: line,
  options: z
    .array(
      z.strictObject({
        id: optionId,
        label: line,
        kind: z.enum(optionKinds, { error: `must be one of ${optionKinds.join(', ')}` }),
        choices: z.array(line).max(500).optional(),
        pattern: z.string().max(300).optional(),
        optional: z.boolean().optional(),
        default: optionValueSchema,
        help: z.string().max(500).optional(),
      }),
    )
    .min(1, 'are none')
    .max(300),
  rules: z
    .array(
      z.strictObject({
        when: z.strictObject({ option: optionId, is: z.union([z.string(), z.boolean()]) }),
        then: z.strictObject({
          option: optionId,
          must: z.enum(['be', 'not be', 'be filled'], { error: 'must be: be, not be, or be filled' }),
          value: z.union([z.string(), z.boolean()]).optional(),
        }),
        why: line,
      }),
    )
    .max(300),
  templates: z
    .array(
      z.strictObject({
        name: line,
        form: z.enum(['xml', 'plain'], { error: 'must be xml or plain' }),
        text: z.string().max(200_000),
      }),
    )
    .min(1, 'are none')
    .max(20),
});
export type OptionSuiteInput = z.infer<typeof optionSuiteSchema>;

export const keptSuiteSchema = z.object({
  id: z.string(),
  suite: optionSuiteSchema,
  revision: z.number(),
  sheets: z.array(
    z.object({
      name: z.string(),
      values: sheetValuesSchema,
      changedAt: instant,
      revision: z.number(),
      /** What is wrong with it by the suite as it is now. */
      faults: z.array(z.object({ path: z.string(), message: z.string() })),
    }),
  ),
});
export type KeptSuite = z.infer<typeof keptSuiteSchema>;

const sheetParams = z.strictObject({ id, name: filled('The name').max(80) });

export const optionSheetEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/option-suites',
    summary: 'Suites with their options, and the sheets that were filled for them',
    dependsOn: ['package'],
    response: z.array(keptSuiteSchema),
  }),
  create: endpoint({
    method: 'post',
    path: '/option-suites',
    summary: 'Declare the options of a suite',
    changes: ['package'],
    body: optionSuiteSchema,
    response: z.object({ id: z.string() }),
  }),
  change: endpoint({
    method: 'put',
    path: '/option-suites/:id',
    summary: 'Change the declaration of a suite; its sheets stay as they are and are checked anew',
    changes: ['package'],
    params: idParams,
    body: optionSuiteSchema.extend({ basedOn }),
    response: keptAs,
  }),
  remove: endpoint({
    method: 'delete',
    path: '/option-suites/:id',
    summary: 'Delete a suite with its sheets',
    changes: ['package'],
    params: idParams,
    response: done,
  }),
  keepSheet: endpoint({
    method: 'put',
    path: '/option-suites/:id/sheets/:name',
    summary: 'Keep a filled sheet, a new one under a new name',
    changes: ['package'],
    params: sheetParams,
    body: z.strictObject({ values: sheetValuesSchema, basedOn }),
    response: keptAs,
  }),
  removeSheet: endpoint({
    method: 'delete',
    path: '/option-suites/:id/sheets/:name',
    summary: 'Delete a sheet',
    changes: ['package'],
    params: sheetParams,
    response: done,
  }),
};
