/** One step of a recipe on the build machine: tried, restarted after, looked at, and tried again. */
import { describeSuccessCheck, failedCheck } from '@vatline/core/image/success-check';
import type { Step } from '@vatline/core/image/recipe';
import { MINUTE } from '@vatline/core/time/instant';
import { EstateError, type Operation } from '../estate/driver/operations.ts';
import type { JobContext } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';

interface Work {
  readonly machineId: string;
  readonly step: Step;
  /** Its number in the recipe, from 1. */
  readonly number: number;
}

/** Gives the minutes that it worked. Throws what the last try failed with. */
export async function runRecipeStep(parts: Parts, context: JobContext, work: Work): Promise<number> {
  const tries = 1 + (work.step.retries ?? 0);
  for (let attempt = 1; ; attempt++) {
    try {
      return await tryOnce(parts, context, work, attempt);
    } catch (error) {
      if (!(error instanceof EstateError) || attempt >= tries) throw error;
      await context.log(`${work.number}: ${error.message}; trying again, ${attempt + 1} of ${tries}`);
    }
  }
}

async function tryOnce(
  parts: Parts,
  context: JobContext,
  { machineId, step, number }: Work,
  attempt: number,
): Promise<number> {
  const { hypervisor } = parts.estate;
  const key = `${context.jobId}/step/${number}/${attempt}`;
  const ran = await context.operation((goingOn) => hypervisor.runStep(`${key}/${goingOn}`, machineId, step));
  let minutes = lasted(ran);
  if (await needsRestart(parts, machineId, step)) {
    await context.log(`${number}: restart`);
    minutes += lasted(
      await context.operation((goingOn) =>
        hypervisor.power(`${key}/restart/${goingOn}`, machineId, 'restart'),
      ),
    );
  }
  if (step.success) {
    const failed = failedCheck(step.success, await hypervisor.inventory(machineId), Number(ran.result));
    if (failed)
      throw new EstateError('failed', `the step ran but its success check does not hold: ${failed}`);
    await context.log(`${number}: ${describeSuccessCheck(step.success)}`);
  }
  return minutes;
}

async function needsRestart(parts: Parts, machineId: string, step: Step): Promise<boolean> {
  if (step.restart === 'always') return true;
  if (step.restart !== 'when asked') return false;
  return (await parts.estate.hypervisor.machine(machineId))?.restartPending ?? false;
}

function lasted({ startedAt, endedAt }: Operation): number {
  return ((endedAt ?? startedAt) - startedAt) / MINUTE;
}
