/** Sets of noise rules, by revision: shared by all captures, and tried on those there are. */
import { z } from 'zod';
import { basedOn, done, endpoint, filled, instant, text } from './endpoint.ts';
import { noiseRuleSchema } from './rule-file.ts';

export const ruleSetSchema = z.object({
  name: z.string(),
  /** Newest first. */
  revisions: z.array(
    z.object({
      revision: z.number(),
      rules: z.array(noiseRuleSchema),
      note: z.string(),
      createdAt: instant,
      /** Captures that it judged last. */
      captures: z.number(),
    }),
  ),
});
export type RuleSet = z.infer<typeof ruleSetSchema>;

export const ruleTrialSchema = z.object({
  captureId: z.string(),
  name: z.string(),
  version: z.string(),
  /** Whether a package was made of it. */
  isPackaged: z.boolean(),
  /** Rows that would be dropped and kept instead, and the first few of each. */
  dropped: z.number(),
  kept: z.number(),
  examples: z.array(z.string()),
});
export type RuleTrial = z.infer<typeof ruleTrialSchema>;

export const noiseRuleEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/noise-rules',
    summary: 'Sets of noise rules with every revision',
    dependsOn: ['package'],
    response: z.array(ruleSetSchema),
  }),
  keep: endpoint({
    method: 'put',
    path: '/noise-rules/:name',
    summary: 'Keep the next revision of a set, its first when there is none',
    changes: ['package'],
    params: z.strictObject({ name: filled('The name').max(60) }),
    body: z.strictObject({
      rules: z.array(noiseRuleSchema).max(500, 'are more than 500'),
      note: text.max(300).default(''),
      basedOn,
    }),
    response: z.object({ revision: z.number() }),
  }),
  remove: endpoint({
    method: 'delete',
    path: '/noise-rules/:name',
    summary: 'Delete a set that no capture was judged by',
    changes: ['package'],
    params: z.strictObject({ name: text }),
    response: done,
  }),
  try: endpoint({
    method: 'post',
    path: '/noise-rules/try',
    summary: 'What these rules would have changed about every capture',
    body: z.strictObject({ rules: z.array(noiseRuleSchema).max(500, 'are more than 500') }),
    response: z.array(ruleTrialSchema),
  }),
};
