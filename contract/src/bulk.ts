/** Many things at once: each row has its own result, and one that fails holds up no other. */
import { z } from 'zod';
import { containerFormatSchema } from './manifest.ts';
import { endpoint, id, text } from './endpoint.ts';
import { jobSchema } from './job.ts';

const cell = text.min(1, 'is empty').max(300);
const versionIds = z.array(id).min(1, 'choose at least one').max(5_000);

export const bulkRequestSchema = z.discriminatedUnion('action', [
  /** Captures each installer and builds a draft of what was guessed. */
  z.strictObject({
    action: z.literal('draft'),
    rows: z
      .array(z.strictObject({ name: cell, version: cell }))
      .min(1, 'is empty')
      .max(5_000),
  }),
  z.strictObject({ action: z.literal('sign'), certificateId: cell, versionIds }),
  z.strictObject({ action: z.literal('convert'), format: containerFormatSchema, versionIds }),
  z.strictObject({
    action: z.literal('assign'),
    rows: z
      .array(z.strictObject({ package: cell, group: cell, pool: cell }))
      .min(1, 'is empty')
      .max(5_000),
  }),
]);
export type BulkRequest = z.infer<typeof bulkRequestSchema>;

export const bulkRowStates = ['waiting', 'done', 'refused'] as const;
export type BulkRowState = (typeof bulkRowStates)[number];

export const bulkSchema = z.object({
  job: jobSchema,
  rows: z.array(
    z.object({
      number: z.number(),
      what: z.string(),
      state: z.enum(bulkRowStates),
      result: z.string(),
    }),
  ),
});
export type Bulk = z.infer<typeof bulkSchema>;

export const bulkEndpoints = {
  begin: endpoint({
    method: 'post',
    path: '/bulk',
    summary: 'Make drafts, sign, convert or assign many at once',
    changes: ['package', 'job'],
    body: bulkRequestSchema,
    response: z.object({ jobId: z.string() }),
  }),
  newest: endpoint({
    method: 'get',
    path: '/bulk',
    summary: 'The newest of these, with the result of every row',
    dependsOn: ['package', 'bulk', 'access', 'job'],
    response: bulkSchema.nullable(),
  }),
};
