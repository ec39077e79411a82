/** Building, switching and cutting: the long work of the Images station. */
import { checkpointKeys, planBuild, stepIdentity } from '@vatline/core/image/checkpoint-plan';
import { checkBeforeCut } from '@vatline/core/image/checks';
import { describeStep, type Hardware, type Step } from '@vatline/core/image/recipe';
import { MINUTE } from '@vatline/core/time/instant';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import type { ImageStore, LineRow } from './store.ts';

export interface BuildInput {
  readonly lineId: string;
  readonly machineName: string;
  readonly site: string;
  readonly datastore: string;
  readonly hardware: Hardware;
  readonly steps: readonly Step[];
  /** How many steps come from checkpoints, and the snapshot after the last of them. */
  readonly waterline: number;
  readonly snapshotId: string | null;
}

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

/** Name of the machine a line is prepared on; a computer name, so 15 characters. */
export function buildMachineName(line: Pick<LineRow, 'name'>): string {
  return `BUILD-${line.name
    .toUpperCase()
    .replace(/[^A-Z0-9]+/g, '')
    .slice(0, 8)}`;
}

/** The site with the most free cores, and the datastore there on which most of its machines are. */
async function placeForMachine(parts: Parts): Promise<{ site: string; datastore: string }> {
  const sites = await parts.estate.hypervisor.sites();
  const [site] = [...sites].sort((a, b) => b.coresTotal - b.coresUsed - (a.coresTotal - a.coresUsed));
  const [datastore] = [...(site?.datastores ?? [])].sort((a, b) => b.usedBytes - a.usedBytes);
  if (!site || !datastore) throw conflict('The hypervisor has no site to make a machine on');
  return { site: site.name, datastore: datastore.name };
}

/** The plan of the next build of a line, as its jobs will follow it. */
export async function nextBuild(parts: Parts, store: ImageStore, line: LineRow): Promise<BuildInput> {
  const { steps, hardware } = await store.recipe(line.id, line.recipe_revision);
  const checkpoints = await store.checkpoints(line.id);
  const usable = new Set(line.machine_id ? checkpoints.keys() : []);
  const plan = planBuild(hardware, steps, usable, new Map());
  const last = plan.steps[plan.waterline - 1];
  return {
    lineId: line.id,
    machineName: buildMachineName(line),
    ...(await placeForMachine(parts)),
    hardware,
    steps,
    waterline: plan.waterline,
    snapshotId: last ? (checkpoints.get(last.key) ?? null) : null,
  };
}

export function imageJobs(parts: Parts, store: ImageStore): void {
  parts.jobs.register(buildJob(parts, store));
  parts.jobs.register(machineJob(parts));
  parts.jobs.register(cutJob(parts, store));
}

function buildJob(parts: Parts, store: ImageStore): JobKind<BuildInput> {
  const { hypervisor, clock } = parts.estate;
  return {
    kind: 'build',
    paced: true,
    steps: (input) => {
      const keys = checkpointKeys(input.hardware, input.steps);
      const list: JobStep[] = [beginStep(parts, store, input, keys)];
      for (let i = input.waterline; i < input.steps.length; i++) {
        const step = input.steps[i] as Step;
        const { title, detail } = describeStep(step);
        list.push({
          title,
          run: async (context) => {
            const machineId = await machineOf(store, input);
            await context.log(`${i + 1} ${title}: ${detail}`);
            const { startedAt, endedAt } = await context.operation((attempt) =>
              hypervisor.runStep(`${context.jobId}/step/${i}/${attempt}`, machineId, step),
            );
            const minutes = ((endedAt ?? startedAt) - startedAt) / MINUTE;
            const key = keys[i] as string;
            const snapshot = await hypervisor.snapshot(`${input.lineId}/${key}`, machineId);
            await store.saveCheckpoint(input.lineId, key, snapshot, i, clock.now());
            await store.saveDuration(input.lineId, stepIdentity(step), minutes, clock.now());
            await store.setMachine(input.lineId, machineId, key);
            await context.log(`${i + 1} ${title}: done in ${minutes.toFixed(1)} min`);
            parts.journal.tell('images');
          },
        });
      }
      return Promise.resolve(list);
    },
  };
}

async function machineOf(store: ImageStore, input: BuildInput): Promise<string> {
  const { machine_id } = await store.line(input.lineId);
  if (!machine_id) throw conflict('the build machine is gone');
  return machine_id;
}

function beginStep(parts: Parts, store: ImageStore, input: BuildInput, keys: readonly string[]): JobStep {
  const { hypervisor } = parts.estate;
  if (input.snapshotId !== null) {
    const snapshotId = input.snapshotId;
    return {
      title: `Back to the checkpoint after step ${input.waterline}`,
      run: async (context) => {
        const machineId = await machineOf(store, input);
        await context.operation((attempt) =>
          hypervisor.revert(`${context.jobId}/revert/${attempt}`, machineId, snapshotId),
        );
        await store.setMachine(input.lineId, machineId, keys[input.waterline - 1] ?? null);
        await context.log(`${input.waterline} steps come from checkpoints`);
      },
    };
  }
  return {
    title: 'Make the machine',
    run: async (context) => {
      const line = await store.line(input.lineId);
      const spec = {
        name: input.machineName,
        site: input.site,
        datastore: input.datastore,
        ...input.hardware,
      };
      const key = `${context.jobId}/machine`;
      if (line.machine_id && (await hypervisor.machine(line.machine_id)))
        await hypervisor.deleteMachine(`${key}/old`, line.machine_id);
      const id = await hypervisor.createMachine(key, spec);
      await store.setMachine(input.lineId, id, null);
      await context.log(
        `${input.machineName}: ${input.hardware.processors} processors, ${input.hardware.memoryBytes / 1e9} GB of memory`,
      );
    },
  };
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
  const { steps, hardware } = await store.recipe(line.id, line.recipe_revision);
  const machine = line.machine_id ? await parts.estate.hypervisor.machine(line.machine_id) : undefined;
  const findings = checkBeforeCut(steps, {
    exists: machine !== undefined,
    running: machine?.power === 'on',
    restartPending: machine?.restartPending ?? false,
    agent: machine?.agent ?? false,
    joined: machine?.joined ?? false,
    upToDate: line.machine_key !== null && line.machine_key === checkpointKeys(hardware, steps).at(-1),
  });
  const stopping = findings.filter((finding) => finding.severity === 'stops the cut');
  if (stopping.length > 0 || !machine)
    throw conflict(stopping.map((f) => `${f.title}: ${f.reason}`).join('; '));
  return machine.id;
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
