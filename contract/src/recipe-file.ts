/**
 * The recipe file: a recipe as YAML 1.2, one to one. `docs/recipe-file.md` tells the format.
 * Every fault is given with its line and column.
 */
import { Document, isNode, isSeq } from 'yaml';
import { z } from 'zod';
import { idFaults, recipeFaults, type Step } from '@vatline/core/image/recipe';
import type { Fault, Result } from '@vatline/core/result';
import { stepSchema } from './recipe.ts';
import { asBlocks, readYaml, type TextFault } from './yaml-document.ts';

const recipeFileSchema = z.strictObject({
  recipe: z.literal(1, { error: 'must be 1, the version of this format' }),
  steps: z.array(stepSchema),
});

/** Writes a recipe; `readRecipeFile` gives the same steps back. */
export function writeRecipeFile(steps: readonly Step[]): string {
  const document = new Document({ recipe: 1, steps: steps.map(inOrder) });
  asBlocks(document);
  const list = document.get('steps');
  if (isSeq(list)) for (const item of list.items.slice(1)) if (isNode(item)) item.spaceBefore = true;
  return document.toString({ lineWidth: 0, flowCollectionPadding: false });
}

/** The fields in the order of the schema, so that equal steps are equal texts. */
function inOrder(step: Step): Record<string, unknown> {
  const shape = stepSchema.options.find((option) => option.shape.kind.value === step.kind)?.shape ?? {};
  const given = step as unknown as Record<string, unknown>;
  return Object.fromEntries(
    Object.keys(shape)
      .filter((field) => given[field] !== undefined)
      .map((field) => [field, given[field]]),
  );
}

/** Reads a recipe. Errors: no YAML, unknown or missing fields, and what stops a recipe from being built. */
export function readRecipeFile(text: string): Result<Step[], readonly TextFault[]> {
  return readSteps(text, recipeFaults);
}

/** Reads the steps of a fragment, in the same form; it need not begin with the system. */
export function readFragmentFile(text: string): Result<Step[], readonly TextFault[]> {
  return readSteps(text, idFaults);
}

function readSteps(
  text: string,
  faultsOf: (steps: readonly Step[]) => readonly Fault[],
): Result<Step[], readonly TextFault[]> {
  const read = readYaml(text, recipeFileSchema, 'this kind of step', ({ steps }) => faultsOf(steps));
  return read.ok ? { ok: true, value: read.value.steps } : read;
}
