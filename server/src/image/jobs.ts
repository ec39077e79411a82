/** Switching the build machine and cutting versions from it. */
import { checkLine } from '@vatline/core/image/checks/check-line';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import { buildJob } from './build-job.ts';
import { lineUnderCheck } from './line-facts.ts';
import type { ImageStore, LineRow } from './store.ts';

export interface CutInput {
  readonly lineId: string;
  readonly machineId: string;
  readonly recipeRevision: number;
  readonly note: string;
  readonly copyName: string;
}

export interface MachineInput {
  readonly lineId: string;
  readonly machineId: string;
  readonly action: 'run' | 'restart' | 'shut down';
}

export function imageJobs(parts: Parts, store: ImageStore): void {
  parts.jobs.register(buildJob(parts, store));
  parts.jobs.register(machineJob(parts));
  parts.jobs.register(cutJob(parts, store));
}

function machineJob(parts: Parts): JobKind<MachineInput> {
  const to = { run: 'on', restart: 'restart', 'shut down': 'off' } as const;
  const title = {
    run: 'Run the build machine',
    restart: 'Restart the build machine',
    'shut down': 'Shut the build machine down',
  };
  return {
    kind: 'machine',
    paced: true,
    steps: (input) =>
      Promise.resolve([
        {
          title: title[input.action],
          run: async (context) => {
            await context.operation((attempt) =>
              parts.estate.hypervisor.power(
                `${context.jobId}/power/${attempt}`,
                input.machineId,
                to[input.action],
              ),
            );
          },
        },
      ]),
  };
}

/** Throws a conflict that names everything that stops a cut. */
export async function refuseUnlessReady(parts: Parts, store: ImageStore, line: LineRow): Promise<string> {
  const off = (await store.checksOff(line.id)).map((check) => check.id);
  const { findings } = checkLine(await lineUnderCheck(parts, store, line), off);
  const stopping = findings.filter((finding) => finding.severity === 'stops the cut');
  if (stopping.length > 0 || !line.machine_id)
    throw conflict(stopping.map((f) => `${f.title}: ${f.reason}`).join('; '));
  return line.machine_id;
}

function cutJob(parts: Parts, store: ImageStore): JobKind<CutInput> {
  const { hypervisor, clock } = parts.estate;
  const copyOf = async (context: JobContext, input: CutInput) =>
    (
      await context.operation((attempt) =>
        hypervisor.copy(`${context.jobId}/copy/${attempt}`, input.machineId, input.copyName),
      )
    ).result;
  const imageOf = async (context: JobContext, input: CutInput) => {
    const copy = await copyOf(context, input);
    return (
      await context.operation((attempt) => hypervisor.capture(`${context.jobId}/capture/${attempt}`, copy))
    ).result;
  };
  return {
    kind: 'cut',
    paced: true,
    steps: (input) =>
      Promise.resolve<JobStep[]>([
        {
          title: 'Check once more',
          run: async () => {
            await refuseUnlessReady(parts, store, await store.line(input.lineId));
          },
        },
        {
          title: 'Copy the machine',
          run: async (context) => {
            await copyOf(context, input);
            await context.log(`${input.copyName}: the build machine itself stays as it is`);
          },
        },
        {
          title: 'Generalise the copy',
          run: async (context) => {
            const copy = await copyOf(context, input);
            await context.operation((attempt) =>
              hypervisor.generalise(`${context.jobId}/generalise/${attempt}`, copy),
            );
          },
        },
        { title: 'Capture', run: async (context) => void (await imageOf(context, input)) },
        {
          title: 'Record the version',
          run: async (context) => {
            const image = await hypervisor.image(await imageOf(context, input));
            if (!image) throw conflict('the captured image is gone');
            const { lineId, recipeRevision, note } = input;
            const version = await store.addVersion({
              lineId,
              recipeRevision,
              note,
              imageId: image.id,
              entries: image.entries,
              sizeBytes: image.sizeBytes,
              at: clock.now(),
            });
            const line = await store.line(lineId);
            await context.log(`version ${version.number}: ${image.entries.length} inventory entries`);
            await parts.journal.note({
              at: clock.now(),
              kind: 'cut',
              subject: `line:${lineId}`,
              text: `${line.name} ${version.number} was cut`,
              link: `/images/${lineId}/versions`,
            });
            parts.journal.tell('images');
          },
        },
        {
          title: 'Take the copy away',
          run: async (context) =>
            hypervisor.deleteMachine(`${context.jobId}/delete`, await copyOf(context, input)),
        },
      ]),
  };
}
