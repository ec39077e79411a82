/**
 * The recipe file: a recipe as YAML 1.2, one to one. `docs/recipe-file.md` tells the format.
 * Every fault is given with its line and column.
 */
import { Document, isMap, isNode, isPair, isSeq, LineCounter, parseDocument, visit, type Node } from 'yaml';
import { z } from 'zod';
import { idFaults, recipeFaults, type Step } from '@vatline/core/image/recipe';
import type { Fault, Result } from '@vatline/core/result';
import { stepSchema } from './recipe.ts';

/** What is wrong in a recipe file. Lines and columns count from 1. */
export interface RecipeFileFault {
  readonly line: number;
  readonly column: number;
  /** Path in the document, such as `steps.3.command`; empty where the text is no YAML. */
  readonly path: string;
  readonly message: string;
}

/** Longer texts are refused before they are read. */
export const MAX_RECIPE_TEXT = 2_000_000;

const recipeFileSchema = z.strictObject({
  recipe: z.literal(1, { error: 'must be 1, the version of this format' }),
  steps: z.array(stepSchema),
});

/** Writes a recipe; `readRecipeFile` gives the same steps back. */
export function writeRecipeFile(steps: readonly Step[]): string {
  const document = new Document({ recipe: 1, steps: steps.map(inOrder) });
  visit(document, {
    // A script stays readable, line by line.
    Scalar(_key, node) {
      if (typeof node.value === 'string' && node.value.includes('\n')) node.type = 'BLOCK_LITERAL';
    },
  });
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
export function readRecipeFile(text: string): Result<Step[], readonly RecipeFileFault[]> {
  return readSteps(text, recipeFaults);
}

/** Reads the steps of a fragment, in the same form; it need not begin with the system. */
export function readFragmentFile(text: string): Result<Step[], readonly RecipeFileFault[]> {
  return readSteps(text, idFaults);
}

function readSteps(
  text: string,
  faultsOf: (steps: readonly Step[]) => readonly Fault[],
): Result<Step[], readonly RecipeFileFault[]> {
  if (text.length > MAX_RECIPE_TEXT) return refuse(1, 1, 'is longer than 2 MB');
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, prettyErrors: false });
  const [broken] = document.errors;
  if (broken) {
    const { line, col } = lines.linePos(broken.pos[0]);
    return refuse(line, col, plainYamlMessage(broken.message));
  }
  const value = plainValue(document);
  if (!value.ok) return refuse(1, 1, value.error);
  const checked = recipeFileSchema.safeParse(value.value, { reportInput: true });
  const faults = checked.success
    ? faultsOf(checked.data.steps).map((fault) => ({ ...fault, keys: fault.path.split('.') }))
    : checked.error.issues.flatMap(faultsOfIssue);
  if (checked.success && faults.length === 0) return { ok: true, value: checked.data.steps };
  return {
    ok: false,
    error: faults.map(({ keys, message }) => ({
      ...positionOf(document, lines, keys),
      path: keys.join('.'),
      message,
    })),
  };
}

/** A document that names itself over and over would grow without end; the library refuses it. */
function plainValue(document: Document.Parsed): Result<unknown, string> {
  try {
    return { ok: true, value: document.toJS({ maxAliasCount: 100 }) as unknown };
  } catch {
    return { ok: false, error: 'repeats itself by aliases too often' };
  }
}

function faultsOfIssue(issue: z.core.$ZodIssue): { keys: string[]; message: string }[] {
  const keys = issue.path.map(String);
  if (issue.code === 'unrecognized_keys')
    return issue.keys.map((key) => ({
      keys: [...keys, key],
      message: 'is not a field of this kind of step',
    }));
  if (issue.code === 'invalid_type' && issue.input === undefined)
    return [{ keys, message: `has no ${keys.at(-1) ?? 'value'}` }];
  return [{ keys, message: issue.message }];
}

/** Where a value stands; where it is missing, the place of what it is missing from. */
function positionOf(
  document: Document.Parsed,
  lines: LineCounter,
  path: readonly string[],
): { line: number; column: number } {
  let offset = 0;
  let node: Node | null = document.contents;
  for (const key of path) {
    const found = childOf(node, key);
    if (!found) break;
    offset = found.offset;
    node = found.node;
  }
  const { line, col } = lines.linePos(offset);
  return { line, column: col };
}

function childOf(node: Node | null, key: string): { offset: number; node: Node | null } | undefined {
  if (isSeq(node)) {
    const item = node.items[Number(key)];
    return isNode(item) ? { offset: item.range?.[0] ?? 0, node: item } : undefined;
  }
  if (!isMap(node)) return undefined;
  const pair = node.items.find((item) => isPair(item) && isNode(item.key) && String(item.key) === key);
  if (!pair || !isNode(pair.key)) return undefined;
  return { offset: pair.key.range?.[0] ?? 0, node: isNode(pair.value) ? pair.value : null };
}

function refuse(line: number, column: number, message: string) {
  return { ok: false as const, error: [{ line, column, path: '', message }] };
}

/** The library's message without its place, which stands beside it. */
function plainYamlMessage(message: string): string {
  return message.replace(/ at line \d+, column \d+:?[\s\S]*$/, '').replace(/\.$/, '');
}
