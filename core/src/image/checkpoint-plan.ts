/**
 * Which steps of a build come from a checkpoint and which will run.
 *
 * key0 = H(hardware, source media digest); key_i = H(key_{i-1}, canonical(step_i)), SHA-256 over
 * canonical JSON. Ids and notes do not enter. A build starts from the deepest checkpoint whose
 * key equals the plan's: the waterline.
 */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { usualMinutes, type Hardware, type Step } from './recipe.ts';
import { median } from '../quantile.ts';

export interface PlannedStep {
  readonly step: Step;
  /** Key of the checkpoint that the machine has after this step; SHA-256, hex. */
  readonly key: string;
  /** Median minutes of this step's past runs, or the usual minutes of its kind. */
  readonly minutes: number;
  readonly fromCheckpoint: boolean;
}

export interface BuildPlan {
  readonly steps: readonly PlannedStep[];
  /** How many steps come from checkpoints. */
  readonly waterline: number;
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

function digest(...parts: unknown[]): string {
  return bytesToHex(sha256(utf8ToBytes(canonicalJson(parts))));
}

/** What decides the outcome of a step: everything but its id, note and always-run mark. */
function substance(step: Step): unknown {
  const { id: _id, note: _note, alwaysRun: _alwaysRun, ...rest } = step;
  return rest;
}

/** Names a step across builds, to learn its duration; a digest. */
export function stepIdentity(step: Step): string {
  return digest(substance(step));
}

/** The checkpoint keys of a recipe, one after each step. */
export function checkpointKeys(hardware: Hardware, steps: readonly Step[]): string[] {
  const first = steps[0];
  let key = digest(hardware, first?.kind === 'operating system' ? first.mediaDigest : '');
  return steps.map((step) => (key = digest(key, substance(step))));
}

/** The plan of a build against the checkpoints that exist. */
export function planBuild(
  hardware: Hardware,
  steps: readonly Step[],
  checkpoints: ReadonlySet<string>,
  history: StepHistory,
): BuildPlan {
  const keys = checkpointKeys(hardware, steps);
  const firstAlways = steps.findIndex((step) => step.alwaysRun);
  const deepest = firstAlways < 0 ? steps.length : firstAlways;
  let waterline = 0;
  for (let i = 0; i < deepest; i++) if (checkpoints.has(keys[i] as string)) waterline = i + 1;
  const planned = steps.map((step, i): PlannedStep => {
    const past = history.get(stepIdentity(step));
    const minutes = (past && median(past)) ?? usualMinutes[step.kind];
    return { step, key: keys[i] as string, minutes, fromCheckpoint: i < waterline };
  });
  const sum = (list: readonly PlannedStep[]) => list.reduce((total, row) => total + row.minutes, 0);
  return {
    steps: planned,
    waterline,
    minutesSaved: sum(planned.slice(0, waterline)),
    minutesToRun: sum(planned.slice(waterline)),
  };
}
