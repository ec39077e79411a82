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

export interface StepSeries {
  readonly name: string;
  /** Minutes in each build, in the order of the builds; 0 where it came from a checkpoint. */
  readonly minutes: readonly number[];
}

/**
 * Minutes by step over builds, to be stacked: the `own` names that took longest in all, longest first,
 * then the others together. Runs of one name belong together, whatever the version of the step.
 */
export function stepSeries(
  builds: readonly BuildRun[],
  nameOf: (identity: string) => string,
  own: number,
): StepSeries[] {
  const totals = new Map<string, number[]>();
  builds.forEach((build, i) => {
    for (const [identity, lasted] of build.steps) {
      const name = nameOf(identity);
      const minutes = totals.get(name) ?? builds.map(() => 0);
      minutes[i] = (minutes[i] ?? 0) + lasted;
      totals.set(name, minutes);
    }
  });
  const sum = (minutes: readonly number[]) => minutes.reduce((all, lasted) => all + lasted, 0);
  const series = [...totals]
    .map(([name, minutes]) => ({ name, minutes }))
    .sort((a, b) => sum(b.minutes) - sum(a.minutes));
  const rest = series.slice(own);
  if (rest.length === 0) return series;
  const together = builds.map((_build, i) => sum(rest.map((row) => row.minutes[i] ?? 0)));
  return [...series.slice(0, own), { name: `${rest.length} shorter steps`, minutes: together }];
}
