/** A set of noise rules as YAML 1.2, one to one; `docs/rule-file.md` tells the format. */
import { Document, isNode, isSeq } from 'yaml';
import { z } from 'zod';
import { text } from './endpoint.ts';
import { entryKinds, type EntryKind } from '@vatline/core/inventory/entry';
import { noiseMatcher, type NoiseRule } from '@vatline/core/package/noise';
import type { Fault, Result } from '@vatline/core/result';
import { readYaml, type TextFault } from './yaml-document.ts';

const line = z.string().trim().min(1, 'is empty').max(300);

export const noiseRuleSchema = z.strictObject({
  id: line,
  action: z.enum(['drop', 'keep'], { error: 'must be drop or keep' }),
  kinds: z
    .array(
      z.enum(entryKinds as [EntryKind, ...EntryKind[]], { error: `must be one of ${entryKinds.join(', ')}` }),
    )
    .min(1, 'names no kind; leave it out for all kinds')
    .max(entryKinds.length, 'names a kind twice')
    .optional(),
  glob: text.optional(),
  expression: text.optional(),
  reason: line,
});

const ruleFileSchema = z.strictObject({
  rules: z.array(noiseRuleSchema).max(500, 'are more than 500'),
});

/** What is wrong with rules of the right shape, at `<index>.<field>`. */
export function ruleFaults(rules: readonly NoiseRule[]): readonly Fault[] {
  const matcher = noiseMatcher(rules);
  return matcher.ok ? [] : matcher.error;
}

/** Reads a rule file. Errors: no YAML, unknown or missing fields, rules that cannot be read. */
export function readRuleFile(text: string): Result<NoiseRule[], readonly TextFault[]> {
  const read = readYaml(text, ruleFileSchema, 'a rule', ({ rules }) =>
    ruleFaults(rules.map(plain)).map((fault) => ({ ...fault, path: `rules.${fault.path}` })),
  );
  return read.ok ? { ok: true, value: read.value.rules.map(plain) } : read;
}

/** Writes rules; `readRuleFile` gives the same back. */
export function writeRuleFile(rules: readonly NoiseRule[]): string {
  const document = new Document({ rules: rules.map(plain) });
  const list = document.get('rules');
  if (isSeq(list)) for (const item of list.items.slice(1)) if (isNode(item)) item.spaceBefore = true;
  return document.toString({ lineWidth: 0 });
}

type Loose = { [F in keyof NoiseRule]: NoiseRule[F] | undefined };

/** Fields in one order, and none without a value. */
export function plain({ id, action, kinds, glob, expression, reason }: Loose): NoiseRule {
  return {
    id: id ?? '',
    action: action ?? 'drop',
    ...(kinds ? { kinds } : {}),
    ...(glob === undefined ? {} : { glob }),
    ...(expression === undefined ? {} : { expression }),
    reason: reason ?? '',
  };
}
