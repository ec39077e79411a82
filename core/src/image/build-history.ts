/** How long each step took in past builds, and which steps have become slower. */
import { median } from '../quantile.ts';

/** One run of a step in a build. Minutes include its restarts. */
export interface StepRun {
  /** What the build is called by; runs of one build share it. */
  readonly build: string;
  /** `stepIdentity` of the step; another version of an application is another step. */
  readonly identity: string;
  readonly minutes: number;
  /** When it ended, milliseconds. */
  readonly at: number;
}

export interface BuildRun {
  readonly build: string;
  readonly at: number;
  readonly minutes: number;
  /** Minutes by identity; steps that came from checkpoints are not there. */
  readonly steps: ReadonlyMap<string, number>;
}

/** Builds, oldest first, each with its steps. */
export function buildRuns(runs: readonly StepRun[]): BuildRun[] {
  const builds = new Map<string, { at: number; steps: Map<string, number> }>();
  for (const run of runs) {
    const build = builds.get(run.build) ?? { at: 0, steps: new Map<string, number>() };
    build.at = Math.max(build.at, run.at);
    build.steps.set(run.identity, (build.steps.get(run.identity) ?? 0) + run.minutes);
    builds.set(run.build, build);
  }
  return [...builds]
    .map(([build, { at, steps }]) => ({
      build,
      at,
      steps,
      minutes: [...steps.values()].reduce((sum, minutes) => sum + minutes, 0),
    }))
    .sort((a, b) => a.at - b.at);
}

export interface Slowdown {
  readonly identity: string;
  /** Minutes of the newest run, and the median of those before it. */
  readonly latest: number;
  readonly usual: number;
}

/** Runs before the newest that a slowdown is told from. */
const NEEDED = 3;

/**
 * Steps whose newest run took over half as long again as the median of at least three runs before it,
 * and over a minute more; the worst first.
 */
export function slowdowns(runs: readonly StepRun[]): Slowdown[] {
  const byStep = new Map<string, StepRun[]>();
  for (const run of runs) byStep.set(run.identity, [...(byStep.get(run.identity) ?? []), run]);
  return [...byStep]
    .flatMap(([identity, list]) => {
      const inOrder = [...list].sort((a, b) => a.at - b.at);
      const newest = inOrder.pop();
      const usual = inOrder.length >= NEEDED ? median(inOrder.map((run) => run.minutes)) : undefined;
      if (!newest || usual === undefined) return [];
      const slower = newest.minutes > 1.5 * usual && newest.minutes - usual > 1;
      return slower ? [{ identity, latest: newest.minutes, usual }] : [];
    })
    .sort((a, b) => b.latest - b.usual - (a.latest - a.usual));
}
