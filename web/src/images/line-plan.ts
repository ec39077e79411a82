/** A line's recipe as it stands on screen, with the plan of its next build. */
import { useMemo } from 'react';
import type { LineDetail } from '@vatline/contract/image';
import type { TextFault } from '@vatline/contract/yaml-document';
import { planBuild, stepIdentity, type BuildPlan } from '@vatline/core/image/checkpoint-plan';
import { machineState } from '@vatline/core/image/checks/check';
import { checkLine, type LineFindings } from '@vatline/core/image/checks/check-line';
import { foldFixes } from '@vatline/core/image/checks/fold-fixes';
import { compareRecipes, type RecipeComparison } from '@vatline/core/image/compare-recipes';
import type { FragmentLibrary } from '@vatline/core/image/fragments';
import type { Hardware } from '@vatline/core/image/hardware';
import { expandWhatCan, planRows, type PlanRow } from '@vatline/core/image/plan-rows';
import type { Step } from '@vatline/core/image/recipe';
import type { Fault, Result } from '@vatline/core/result';
import { useAppDispatch, useAppSelector } from '../shell/store.ts';
import { changed, dropped, recipeDraftOf } from './recipe/recipe-drafts.ts';

export interface LinePlan {
  /** The recipe as it is written, and with the steps of its fragments in their place. */
  readonly steps: readonly Step[];
  readonly expanded: readonly Step[];
  /** The plan of the next build by the rows of the written recipe. */
  readonly rows: readonly PlanRow[];
  readonly library: FragmentLibrary;
  /** Fragments that cannot be looked into; paths are those of the written recipe. */
  readonly fragmentFaults: readonly Fault[];
  readonly hardware: Hardware;
  /** Whether there are changes that are not kept. */
  readonly isDraft: boolean;
  readonly basedOn: number;
  readonly build: BuildPlan;
  /** What the build would be with other steps, while one is being dragged. */
  buildOf(steps: readonly Step[]): BuildPlan;
  /** Minutes of a build from nothing. */
  readonly fullMinutes: number;
  /** What the checks say of the recipe as it stands on screen. */
  readonly checks: LineFindings;
  /** The recipe as it was typed, while it is edited as text. */
  readonly text: string | undefined;
  /** What is wrong in that text; while there is anything, nothing can be kept. */
  readonly textFaults: readonly TextFault[];
  /** How the recipe differs from that of the newest version. */
  readonly since: RecipeComparison;
  /** Identities of the steps that the newest version was cut from. */
  readonly cutWith: ReadonlySet<string>;
  change(steps: readonly Step[], hardware?: Hardware): void;
  /** Keeps what was typed, with the steps it makes or else what is wrong in it. */
  changeText(text: string, read: Result<readonly Step[], readonly TextFault[]>): void;
  drop(): void;
}

const noFaults: readonly TextFault[] = [];

export function useLinePlan(line: LineDetail): LinePlan {
  const dispatch = useAppDispatch();
  const draft = useAppSelector((state) => recipeDraftOf(state, line.id));
  return useMemo(() => {
    const steps = draft?.steps ?? line.recipe;
    const hardware = draft?.hardware ?? line.hardware;
    const basedOn = draft?.basedOn ?? line.recipeRevision;
    const library = new Map(Object.entries(line.fragments));
    const checkpoints = new Set(line.machine ? line.checkpoints.map((checkpoint) => checkpoint.key) : []);
    const history = minutesByStep(line.runs);
    const planOf = (of: readonly Step[]) => planBuild(hardware, of, checkpoints, history);
    const { steps: expanded, rowOf, faults } = expandWhatCan(steps, library);
    const build = planOf(expanded);
    const machine = machineState(line.machine, build.steps.at(-1)?.key);
    const checks = checkLine(
      {
        steps: expanded,
        hardware,
        machine,
        sources: line.sources,
        optionSheets: line.optionSheets,
        pools: line.pools,
      },
      line.checksOff.map((check) => check.id),
    );
    return {
      steps,
      expanded,
      rows: planRows(steps, rowOf, build),
      library,
      fragmentFaults: faults,
      hardware,
      basedOn,
      isDraft: draft !== undefined,
      text: draft?.text,
      textFaults: draft?.textFaults ?? noFaults,
      since: compareRecipes(line.lastCutRecipe, steps),
      build,
      buildOf: (of) => planOf(expandWhatCan(of, library).steps),
      fullMinutes: build.minutesSaved + build.minutesToRun,
      checks: foldFixes(checks, steps, library),
      cutWith: new Set(line.lastCutRecipe.map(stepIdentity)),
      change: (next, newHardware) => {
        dispatch(
          changed({ lineId: line.id, draft: { steps: next, hardware: newHardware ?? hardware, basedOn } }),
        );
      },
      changeText: (text, read) => {
        const kept = read.ok ? { steps: read.value } : { steps, textFaults: read.error };
        dispatch(
          changed({
            lineId: line.id,
            draft: { ...kept, hardware, basedOn, text },
          }),
        );
      },
      drop: () => {
        dispatch(dropped(line.id));
      },
    };
  }, [line, draft, dispatch]);
}

/** Runs of each step that its usual minutes are told from. */
const RUNS = 20;

/** Minutes of past runs by step, the newest twenty of each. */
function minutesByStep(runs: LineDetail['runs']): Map<string, number[]> {
  const history = new Map<string, number[]>();
  for (const { identity, minutes } of runs) {
    const list = history.get(identity) ?? [];
    if (list.length < RUNS) list.push(minutes);
    history.set(identity, list);
  }
  return history;
}
