/**
 * Which steps of a build come from a checkpoint and which will run.
 *
 * key0 = H(hardware, source media digest); key_i = H(key_{i-1}, canonical(step_i)), SHA-256 over
 * canonical JSON. Ids, labels and notes do not enter, nor do steps that are left out. A build starts
 * from the deepest checkpoint whose key equals the plan's: the waterline.
 */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { usualMinutes } from './describe-step.ts';
import type { Hardware } from './hardware.ts';
import { enabledSteps, type Step } from './recipe.ts';
import { median } from '../quantile.ts';

export interface PlannedStep {
  readonly step: Step;
  /** Key of the checkpoint that the machine has after this step; SHA-256, hex. */
  readonly key: string;
  /** Median minutes of this step's past runs, else what is expected of it, else what is usual; 0 when left out. */
  readonly minutes: number;
  readonly fromCheckpoint: boolean;
}

export interface BuildPlan {
  readonly steps: readonly PlannedStep[];
  /** How many steps stand above the waterline, those left out among them. */
  readonly waterline: number;
  /** How many steps come from checkpoints, and how many will run. */
  readonly stepsKept: number;
  readonly stepsToRun: number;
  readonly minutesSaved: number;
  readonly minutesToRun: number;
}

/** Past durations in minutes, by `stepIdentity`. */
export type StepHistory = ReadonlyMap<string, readonly number[]>;

/** JSON with sorted keys and without undefined values, so that equal things are equal texts. */
export function canonicalJson(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonicalJson).join(',')}]`;
  if (typeof value === 'object' && value !== null) {
    const fields = Object.entries(value)
      .filter(([, field]) => field !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, field]) => `${JSON.stringify(key)}:${canonicalJson(field)}`);
    return `{${fields.join(',')}}`;
  }
  return JSON.stringify(value);
}

function digest(canonical: string): string {
  return bytesToHex(sha256(utf8ToBytes(canonical)));
}

/** What is worked out of a step is remembered with it: at an edit all steps but one are the same objects. */
const texts = new WeakMap<Step, string>();
const identities = new WeakMap<Step, string>();

function remembered(memory: WeakMap<Step, string>, step: Step, work: (step: Step) => string): string {
  const known = memory.get(step);
  if (known !== undefined) return known;
  const made = work(step);
  memory.set(step, made);
  return made;
}

/** What decides the outcome of a step: not what it is called, nor how long it may take or how often it is tried. */
function substance(step: Step): string {
  return remembered(texts, step, substanceText);
}

function substanceText({
  id: _id,
  label: _label,
  section: _section,
  note: _note,
  expectedMinutes: _expected,
  retries: _retries,
  alwaysRun: _alwaysRun,
  disabled: _disabled,
  ...rest
}: Step): string {
  return canonicalJson(rest);
}

/** Names a step across builds, to learn its duration; a digest. */
export function stepIdentity(step: Step): string {
  return remembered(identities, step, (own) => digest(`[${substance(own)}]`));
}

/** The checkpoint keys of a recipe, one after each step; a step left out leaves the machine as it was. */
export function checkpointKeys(hardware: Hardware, steps: readonly Step[]): string[] {
  const first = enabledSteps(steps)[0];
  let key = digest(canonicalJson([hardware, first?.kind === 'operating system' ? first.mediaDigest : '']));
  return steps.map((step) =>
    step.disabled ? key : (key = digest(`[${JSON.stringify(key)},${substance(step)}]`)),
  );
}

/** Minutes a step is expected to take. */
function expectedMinutes(step: Step, history: StepHistory): number {
  if (step.disabled) return 0;
  const past = history.get(stepIdentity(step));
  const restart = step.restart === 'always' ? usualMinutes.restart : 0;
  return (past && median(past)) ?? step.expectedMinutes ?? usualMinutes[step.kind] + restart;
}

/** Index of the first step that a build runs, or -1 when there is none. */
export function firstToRun(steps: readonly Step[], waterline: number): number {
  return steps.findIndex((step, i) => i >= waterline && !step.disabled);
}

/** The plan of a build against the checkpoints that exist. */
export function planBuild(
  hardware: Hardware,
  steps: readonly Step[],
  checkpoints: ReadonlySet<string>,
  history: StepHistory,
): BuildPlan {
  const keys = checkpointKeys(hardware, steps);
  const firstAlways = steps.findIndex((step) => step.alwaysRun && !step.disabled);
  const deepest = firstAlways < 0 ? steps.length : firstAlways;
  let waterline = 0;
  for (let i = 0; i < deepest; i++)
    if (!steps[i]?.disabled && checkpoints.has(keys[i] as string)) waterline = i + 1;
  const planned = steps.map((step, i): PlannedStep => {
    const key = keys[i] as string;
    return { step, key, minutes: expectedMinutes(step, history), fromCheckpoint: i < waterline };
  });
  const sum = (list: readonly PlannedStep[]) => list.reduce((total, row) => total + row.minutes, 0);
  const enabled = (list: readonly PlannedStep[]) => list.filter((row) => !row.step.disabled).length;
  const [above, below] = [planned.slice(0, waterline), planned.slice(waterline)];
  return {
    steps: planned,
    waterline,
    stepsKept: enabled(above),
    stepsToRun: enabled(below),
    minutesSaved: sum(above),
    minutesToRun: sum(below),
  };
}
