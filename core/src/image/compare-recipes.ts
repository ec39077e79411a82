import { stepIdentity } from './checkpoint-plan.ts';
import type { Step } from './recipe.ts';

export interface RecipeChange {
  /** Steps added or removed, whichever are more: a step that was edited is one of each. */
  readonly changed: number;
  /** Whether the same steps stand in the same order. */
  readonly same: boolean;
}

/** How far a recipe is from another. Ids, labels and notes do not count. */
export function compareRecipes(before: readonly Step[], after: readonly Step[]): RecipeChange {
  const [old, now] = [before.map(stepIdentity), after.map(stepIdentity)];
  const missingFrom = (list: readonly string[], known: ReadonlySet<string>) =>
    list.filter((identity) => !known.has(identity)).length;
  return {
    changed: Math.max(missingFrom(now, new Set(old)), missingFrom(old, new Set(now))),
    same: old.length === now.length && old.every((identity, i) => identity === now[i]),
  };
}
