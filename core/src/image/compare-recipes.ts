/** What lies between two recipes, step by step. */
import { canonicalJson, stepIdentity } from './checkpoint-plan.ts';
import type { Step } from './recipe.ts';

export type RecipeChange =
  | { readonly change: 'added'; readonly after: Step }
  | { readonly change: 'removed'; readonly before: Step }
  /** The same step with other fields; `moved` when it stands elsewhere as well. */
  | {
      readonly change: 'changed';
      readonly before: Step;
      readonly after: Step;
      readonly fields: readonly string[];
      readonly moved: boolean;
    }
  | { readonly change: 'moved'; readonly before: Step; readonly after: Step };

export interface RecipeComparison {
  /** In the order of the newer recipe, what was removed first. */
  readonly changes: readonly RecipeChange[];
  /** Whether both make the same machine: names, notes and steps left out do not count. */
  readonly sameOutcome: boolean;
}

/**
 * Compares two recipes. A step is the same step when its id is, or else when it does the same;
 * the fewest steps that explain the new order count as moved.
 */
export function compareRecipes(before: readonly Step[], after: readonly Step[]): RecipeComparison {
  const pairs = pairSteps(before, after);
  const partner = new Map(pairs.map(([old, now]) => [now, old]));
  const stayed = longestRising(pairs.map(([old]) => old));
  const inPlace = new Set(pairs.filter((_pair, i) => stayed.has(i)).map(([, now]) => now));
  const paired = new Set(pairs.map(([old]) => old));
  const changes: RecipeChange[] = before
    .filter((_step, i) => !paired.has(i))
    .map((step) => ({ change: 'removed', before: step }));
  after.forEach((step, i) => {
    const old = before[partner.get(i) ?? -1];
    if (!old) return void changes.push({ change: 'added', after: step });
    const fields = changedFields(old, step);
    const moved = !inPlace.has(i);
    if (fields.length > 0) changes.push({ change: 'changed', before: old, after: step, fields, moved });
    else if (moved) changes.push({ change: 'moved', before: old, after: step });
  });
  return { changes, sameOutcome: sameList(outcome(before), outcome(after)) };
}

/** Pairs of positions, old and new, in the new order. */
function pairSteps(before: readonly Step[], after: readonly Step[]): (readonly [number, number])[] {
  const byId = new Map(before.map((step, i) => [step.id, i]));
  const newIds = new Set(after.map((step) => step.id));
  const left = new Map<string, number[]>();
  before.forEach((step, i) => {
    if (newIds.has(step.id)) return;
    const identity = stepIdentity(step);
    left.set(identity, [...(left.get(identity) ?? []), i]);
  });
  return after.flatMap((step, i) => {
    const old = byId.get(step.id) ?? left.get(stepIdentity(step))?.shift();
    return old === undefined ? [] : [[old, i] as const];
  });
}

function changedFields(before: Step, after: Step): string[] {
  const [old, now] = [{ ...before }, { ...after }] as Record<string, unknown>[];
  const fields = new Set([...Object.keys(old ?? {}), ...Object.keys(now ?? {})]);
  fields.delete('id');
  return [...fields].filter((field) => canonicalJson([old?.[field]]) !== canonicalJson([now?.[field]]));
}

/** What a recipe makes, as a list of identities. */
function outcome(steps: readonly Step[]): string[] {
  return steps.filter((step) => !step.disabled).map(stepIdentity);
}

function sameList(a: readonly string[], b: readonly string[]): boolean {
  return a.length === b.length && a.every((item, i) => item === b[i]);
}

/** Indices of a longest rising subsequence, by patience sorting. */
function longestRising(values: readonly number[]): Set<number> {
  const tails: number[] = [];
  const previous: number[] = [];
  values.forEach((value, i) => {
    let place = tails.findIndex((tail) => (values[tail] as number) >= value);
    if (place < 0) place = tails.length;
    previous[i] = place > 0 ? (tails[place - 1] as number) : -1;
    tails[place] = i;
  });
  const chosen = new Set<number>();
  for (let at = tails.at(-1) ?? -1; at >= 0; at = previous[at] as number) chosen.add(at);
  return chosen;
}

/** "1 step changed, 2 added": the figures of a comparison; "nothing differs" when there are none. */
export function recipeHeadline({ changes }: RecipeComparison): string {
  const parts = (['changed', 'added', 'removed', 'moved'] as const).flatMap((change) => {
    const count = changes.filter((row) => row.change === change).length;
    return count > 0 ? [[count, change] as const] : [];
  });
  if (parts.length === 0) return 'nothing differs';
  return parts
    .map(([count, change], i) =>
      i > 0 ? `${count} ${change}` : `${count} ${count === 1 ? 'step' : 'steps'} ${change}`,
    )
    .join(', ');
}
