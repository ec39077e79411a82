import type { LineDetail } from '@vatline/contract/image';
import { recipeHeadline } from '@vatline/core/image/compare-recipes';
import { How } from '../../parts/how.tsx';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { minutes } from '../../parts/format.ts';
import type { LinePlan } from '../line-plan.ts';

/** The answer of the Images station: how long the next build takes, and against what. */
export function BuildAnswer({ line, plan }: { line: LineDetail; plan: LinePlan }) {
  const { build, since } = plan;
  // A version that was made elsewhere has no recipe to compare with.
  const newest = line.versions.find((version) => version.recipeRevision > 0);
  return (
    <>
      <h1 className="answer">{headline(line, plan)}</h1>
      <p className="under-answer">
        {line.name}, recipe {line.recipeRevision}
        {plan.isDraft && <b className="attention"> with changes that are not kept yet</b>}
        {newest && (
          <>
            {since.changes.length > 0 ? `: ${recipeHeadline(since)} since ` : ', the same as '}
            <DyeChip name={newest.dye} number={newest.number} />
          </>
        )}
        .{' '}
        <How
          rows={[
            [
              'From checkpoints',
              `${build.stepsKept} of ${build.stepsKept + build.stepsToRun} steps: everything above the first step whose content, order, hardware or media differs from what was run before`,
            ],
            [
              'Minutes of a step',
              'the median of its past runs; before there are any, the minutes it names, else the usual minutes of its kind',
            ],
            ['Saved', `${minutes(build.minutesSaved)} of ${minutes(plan.fullMinutes)}`],
          ]}
        />
      </p>
    </>
  );
}

function headline(line: LineDetail, plan: LinePlan): string {
  if (line.activeJob)
    return `${line.activeJob.title}: ${line.activeJob.state === 'paused' ? 'paused' : 'under way'}.`;
  if (plan.fragmentFaults.length > 0) return 'A fragment of the recipe cannot be looked into.';
  if (plan.textFaults.length > 0) return 'The text is no recipe yet.';
  if (plan.steps.length === 0) return 'The recipe is empty.';
  if (plan.build.stepsToRun === 0)
    return line.machine && line.machine.changedByHand.count > 0
      ? 'The machine holds every step, and what was changed by hand.'
      : 'Nothing to build: the machine holds every step.';
  if (plan.build.waterline === 0) return `The next build takes ${minutes(plan.build.minutesToRun)}.`;
  return `The next build takes ${minutes(plan.build.minutesToRun)}, not ${minutes(plan.fullMinutes)}.`;
}
