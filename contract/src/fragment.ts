/** Fragments: steps that many image lines share, by revision. */
import { z } from 'zod';
import { basedOn, endpoint, filled, instant, text } from './endpoint.ts';
import { MAX_STEPS, stepSchema } from './recipe.ts';

export const fragmentSchema = z.object({
  name: z.string(),
  /** Newest first. */
  revisions: z.array(
    z.object({ revision: z.number(), steps: z.array(stepSchema), note: z.string(), createdAt: instant }),
  ),
  /** Lines whose recipe names it, with the revision and how many came after that one. */
  usedBy: z.array(
    z.object({ lineId: z.string(), line: z.string(), revision: z.number(), behind: z.number() }),
  ),
});
export type Fragment = z.infer<typeof fragmentSchema>;

export const fragmentEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/fragments',
    summary: 'Fragments with every revision, and where they are used',
    dependsOn: ['line'],
    response: z.array(fragmentSchema),
  }),
  keep: endpoint({
    method: 'put',
    path: '/fragments/:name',
    summary: 'Keep the next revision of a fragment, its first when there is none',
    changes: ['line'],
    params: z.strictObject({
      name: filled('The name')
        .max(60)
        .regex(/^[^@~/]+$/, 'must not hold @, ~ or /'),
    }),
    body: z.strictObject({
      steps: z.array(stepSchema).max(MAX_STEPS, `are more than ${MAX_STEPS}`),
      note: text.max(300).default(''),
      basedOn,
    }),
    response: z.object({ revision: z.number() }),
  }),
};
