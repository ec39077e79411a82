/** The jobs of images, and switching the build machine. */
import type { JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import { buildJob } from './build-job.ts';
import { cutJob } from './cut-job.ts';
import { deltaJob } from './delta-job.ts';
import { deleteVersionsJob } from './delete-versions.ts';
import type { ImageStore } from './store.ts';

type MachineAction = 'run' | 'restart' | 'shut down';

export interface MachineInput {
  readonly lineId: string;
  readonly action: MachineAction;
}

export function imageJobs(parts: Parts, store: ImageStore): void {
  parts.jobs.register(buildJob(parts, store));
  parts.jobs.register(machineJob(parts, store));
  parts.jobs.register(cutJob(parts, store));
  parts.jobs.register(deleteVersionsJob(parts, store));
  parts.jobs.register(deltaJob(parts, store));
}

function machineJob(parts: Parts, store: ImageStore): JobKind<MachineInput> {
  return {
    kind: 'machine',
    paced: true,
    steps: ({ lineId, action }) => Promise.resolve([powerStep(parts, store, lineId, action)]),
  };
}

/** Switches the build machine that a line has when the step runs. */
export function powerStep(parts: Parts, store: ImageStore, lineId: string, action: MachineAction): JobStep {
  const to = { run: 'on', restart: 'restart', 'shut down': 'off' } as const;
  const title = {
    run: 'Run the build machine',
    restart: 'Restart the build machine',
    'shut down': 'Shut the build machine down',
  };
  return {
    title: title[action],
    run: async (context) => {
      const { machine_id } = await store.lines.get(lineId);
      if (!machine_id) throw conflict('the build machine is gone');
      await context.operation((attempt) =>
        parts.estate.hypervisor.power(`${context.jobId}/${action}/${attempt}`, machine_id, to[action]),
      );
    },
  };
}
