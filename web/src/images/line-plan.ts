/** A line's recipe as it stands on screen, with the plan of its next build. */
import { useMemo } from 'react';
import type { LineDetail } from '@vatline/contract/image';
import { checkpointKeys, planBuild, stepIdentity, type BuildPlan } from '@vatline/core/image/checkpoint-plan';
import { checkBeforeCut, type CheckFinding } from '@vatline/core/image/checks';
import type { Hardware } from '@vatline/core/image/hardware';
import type { Step } from '@vatline/core/image/recipe';
import { useAppDispatch, useAppSelector } from '../shell/store.ts';
import { changed, dropped } from './recipe-drafts.ts';

export interface LinePlan {
  readonly steps: readonly Step[];
  readonly hardware: Hardware;
  /** Whether there are changes that are not kept. */
  readonly isDraft: boolean;
  readonly basedOn: number;
  readonly build: BuildPlan;
  /** What the build would be with other steps, while one is being dragged. */
  buildOf(steps: readonly Step[]): BuildPlan;
  /** Minutes of a build from nothing. */
  readonly fullMinutes: number;
  readonly findings: readonly CheckFinding[];
  /** The recipe as it was typed, while it is edited as text. */
  readonly text: string | undefined;
  /** Whether that text is no recipe yet; then nothing can be kept. */
  readonly broken: boolean;
  /** Identities of the steps that the newest version was cut from. */
  readonly cutWith: ReadonlySet<string>;
  change(steps: readonly Step[], hardware?: Hardware): void;
  /** Keeps what was typed, and the steps it makes when it makes any. */
  changeText(text: string, steps: readonly Step[] | undefined): void;
  drop(): void;
}

export function useLinePlan(line: LineDetail): LinePlan {
  const dispatch = useAppDispatch();
  const draft = useAppSelector((state) => state.recipeDrafts[line.id]);
  return useMemo(() => {
    const steps = draft?.steps ?? line.recipe;
    const hardware = draft?.hardware ?? line.hardware;
    const basedOn = draft?.basedOn ?? line.recipeRevision;
    const checkpoints = new Set(line.machine ? line.checkpoints : []);
    const history = new Map(Object.entries(line.history));
    const buildOf = (of: readonly Step[]) => planBuild(hardware, of, checkpoints, history);
    const build = buildOf(steps);
    const last = checkpointKeys(hardware, steps).at(-1);
    const findings = checkBeforeCut(steps, {
      exists: line.machine !== null,
      running: line.machine?.power === 'on',
      restartPending: line.machine?.restartPending ?? false,
      agent: line.machine?.agent ?? false,
      joined: line.machine?.joined ?? false,
      upToDate: last !== undefined && line.machine?.key === last,
    });
    return {
      steps,
      hardware,
      basedOn,
      isDraft: draft !== undefined,
      text: draft?.text,
      broken: draft?.broken ?? false,
      build,
      buildOf,
      fullMinutes: build.minutesSaved + build.minutesToRun,
      findings,
      cutWith: new Set(line.lastCutRecipe.map(stepIdentity)),
      change: (next, newHardware) => {
        dispatch(
          changed({ lineId: line.id, draft: { steps: next, hardware: newHardware ?? hardware, basedOn } }),
        );
      },
      changeText: (text, next) => {
        dispatch(
          changed({
            lineId: line.id,
            draft: { steps: next ?? steps, hardware, basedOn, text, broken: !next },
          }),
        );
      },
      drop: () => {
        dispatch(dropped(line.id));
      },
    };
  }, [line, draft, dispatch]);
}
