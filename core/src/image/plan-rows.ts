/** The plan of a build by the rows of the written recipe: a fragment is one row that stands for several steps. */
import type { BuildPlan, PlannedStep } from './checkpoint-plan.ts';
import { expandRecipe, type ExpandedRecipe, type FragmentLibrary } from './fragments.ts';
import type { Step } from './recipe.ts';
import type { Fault } from '../result.ts';

export interface PlanRow {
  /** As it is written. */
  readonly step: Step;
  /** The steps it stands for; one, but for fragments. */
  readonly planned: readonly PlannedStep[];
  /** Number of the first of them in a build, from 1. */
  readonly number: number;
  readonly minutes: number;
  /** Whether all of it comes from checkpoints; a fragment that the waterline goes through does not. */
  readonly kept: boolean;
}

/** The expanded recipe with the fragments left out that cannot be looked into, and why they cannot. */
export function expandWhatCan(
  steps: readonly Step[],
  library: FragmentLibrary,
): ExpandedRecipe & { readonly faults: readonly Fault[] } {
  const whole = expandRecipe(steps, library);
  if (whole.ok) return { ...whole.value, faults: [] };
  const bad = new Set(whole.error.map((fault) => Number(fault.path.split('.')[1])));
  const good = steps.map((_step, i) => i).filter((i) => !bad.has(i));
  const rest = expandRecipe(
    good.map((i) => steps[i] as Step),
    library,
  );
  const { steps: expanded, rowOf } = rest.ok ? rest.value : { steps: [], rowOf: [] };
  return { steps: expanded, rowOf: rowOf.map((i) => good[i] as number), faults: whole.error };
}

/** `rowOf` gives for each step of the plan the index of the written step it comes from. */
export function planRows(written: readonly Step[], rowOf: readonly number[], build: BuildPlan): PlanRow[] {
  let number = 1;
  return written.map((step, row) => {
    const planned = build.steps.filter((_planned, i) => rowOf[i] === row);
    const first = number;
    number += planned.length;
    return {
      step,
      planned,
      number: first,
      minutes: planned.reduce((sum, own) => sum + own.minutes, 0),
      kept: planned.length > 0 && planned.every((own) => own.fromCheckpoint),
    };
  });
}

/** How many rows stand above the waterline. */
export function rowsKept(rows: readonly PlanRow[]): number {
  const first = rows.findIndex((row) => !row.kept);
  return first < 0 ? rows.length : first;
}

/** "5" or "5–8": the numbers a row has in a build. */
export function numbersOf({ number, planned }: PlanRow): string {
  return planned.length > 1 ? `${number}–${number + planned.length - 1}` : String(number);
}
