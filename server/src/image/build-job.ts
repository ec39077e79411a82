/** Building: a machine made anew or put back to its waterline, then step by step, each with its checkpoint. */
import { checkpointKeys, planBuild, stepIdentity } from '@vatline/core/image/checkpoint-plan';
import { describeStep } from '@vatline/core/image/describe-step';
import type { Hardware } from '@vatline/core/image/hardware';
import { enabledSteps, type Step } from '@vatline/core/image/recipe';
import { sheetTrouble } from '@vatline/core/option-sheet/filled-sheet';
import { filledSheets } from '../option-sheet/store.ts';
import type { JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import { runRecipeStep } from './run-recipe-step.ts';
import type { ImageStore } from './store.ts';
import type { LineRow } from './tables.ts';

export interface BuildInput {
  readonly lineId: string;
  readonly machineName: string;
  readonly site: string;
  readonly datastore: string;
  readonly hardware: Hardware;
  /** With the steps of fragments in their place. */
  readonly steps: readonly Step[];
  /** How many steps stand above the waterline, and the snapshot after the last of them. */
  readonly waterline: number;
  readonly snapshotId: string | null;
}

/** The site with the most free cores, and the datastore there on which most of its machines are. */
async function placeForMachine(parts: Parts): Promise<{ site: string; datastore: string }> {
  const sites = await parts.estate.hypervisor.sites();
  const [site] = sites
    .filter((one) => one.sizes.length > 0)
    .sort((a, b) => b.cores.total - b.cores.used - (a.cores.total - a.cores.used));
  const [datastore] = [...(site?.datastores ?? [])].sort((a, b) => b.usedBytes - a.usedBytes);
  if (!site || !datastore) throw conflict('The hypervisor has no site to make a machine on');
  return { site: site.name, datastore: datastore.name };
}

/** The plan of the next build of a line, as its jobs will follow it. */
export async function nextBuild(parts: Parts, store: ImageStore, line: LineRow): Promise<BuildInput> {
  const { expanded: steps, hardware } = await store.recipes.get(line.id, line.recipe_revision);
  const checkpoints = await store.checkpoints.snapshots(line.id);
  const usable = new Set(line.machine_id ? checkpoints.keys() : []);
  const plan = planBuild(hardware, steps, usable, new Map());
  const last = plan.steps[plan.waterline - 1];
  return {
    lineId: line.id,
    machineName: line.machine_name,
    ...(await placeForMachine(parts)),
    hardware,
    steps,
    waterline: plan.waterline,
    snapshotId: last ? (checkpoints.get(last.key) ?? null) : null,
  };
}

export function buildJob(parts: Parts, store: ImageStore): JobKind<BuildInput> {
  return {
    kind: 'build',
    paced: true,
    pausable: true,
    cleanUp: (input, jobId) => backToCheckpoint(parts, store, input.lineId, jobId),
    steps: (input) => Promise.resolve(buildSteps(parts, store, input)),
  };
}

export function buildSteps(parts: Parts, store: ImageStore, input: BuildInput): JobStep[] {
  const { hypervisor, clock } = parts.estate;
  const keys = checkpointKeys(input.hardware, input.steps);
  const list: JobStep[] = [beginStep(parts, store, input, keys)];
  for (let i = input.waterline; i < input.steps.length; i++) {
    const step = input.steps[i] as Step;
    if (step.disabled) continue;
    const { title, detail } = describeStep(step);
    list.push({
      title,
      run: async (context) => {
        const machineId = await machineOf(store, input);
        await refuseOtherSheet(parts, step);
        await context.log(`${i + 1} ${title}: ${detail}`);
        const minutes = await runRecipeStep(parts, context, { machineId, step, number: i + 1 });
        const key = keys[i] as string;
        const snapshot = await hypervisor.snapshot(`${input.lineId}/${key}`, machineId);
        await store.checkpoints.save(input.lineId, {
          key,
          snapshotId: snapshot,
          sizeBytes: await hypervisor.snapshotBytes(snapshot),
          step: i,
          at: clock.now(),
        });
        const identity = stepIdentity(step);
        await store.runs.save(input.lineId, { identity, minutes, at: clock.now(), build: context.jobId });
        await store.lines.setMachine(input.lineId, machineId, key);
        await context.log(`${i + 1} ${title}: done in ${minutes.toFixed(1)} min`);
        const freed = await store.checkpoints.evict(input.lineId, new Set(keys), context.jobId);
        if (freed > 0) await context.log(`older checkpoints made room: ${(freed / 1e9).toFixed(1)} GB`);
        parts.journal.tell(`line:${input.lineId}`);
      },
    });
  }
  return list;
}

/** A sheet that was changed meanwhile would install something else than the checkpoint's key says. */
async function refuseOtherSheet({ db }: Parts, step: Step): Promise<void> {
  if (step.kind !== 'application by option sheet') return;
  const trouble = sheetTrouble(step, await filledSheets(db));
  if (trouble) throw conflict(`${trouble.what}; take it anew in the recipe`);
}

/** A step that was cut short leaves the machine half changed; its last checkpoint is whole. */
export async function backToCheckpoint(
  parts: Parts,
  store: ImageStore,
  lineId: string,
  jobId: string,
): Promise<void> {
  const { machine_id, machine_key } = await store.lines.get(lineId);
  const snapshot =
    machine_key === null ? undefined : (await store.checkpoints.snapshots(lineId)).get(machine_key);
  if (machine_id && snapshot) await parts.estate.hypervisor.revert(`${jobId}/clean-up`, machine_id, snapshot);
}

async function machineOf(store: ImageStore, input: BuildInput): Promise<string> {
  const { machine_id } = await store.lines.get(input.lineId);
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
        await store.lines.setMachine(input.lineId, machineId, keys[input.waterline - 1] ?? null);
        await store.checkpoints.touch(input.lineId, keys.slice(0, input.waterline), parts.estate.clock.now());
        const kept = enabledSteps(input.steps.slice(0, input.waterline)).length;
        await context.log(`${kept} steps come from checkpoints`);
      },
    };
  }
  return {
    title: 'Make the machine',
    run: async (context) => {
      const line = await store.lines.get(input.lineId);
      const spec = {
        name: input.machineName,
        site: input.site,
        datastore: input.datastore,
        hardware: input.hardware,
      };
      const key = `${context.jobId}/machine`;
      if (line.machine_id && (await hypervisor.machine(line.machine_id)))
        await hypervisor.deleteMachine(`${key}/old`, line.machine_id);
      // Snapshots go with their machine.
      await store.checkpoints.drop(input.lineId);
      const id = await hypervisor.createMachine(key, spec);
      await store.lines.setMachine(input.lineId, id, null);
      await context.log(
        `${input.machineName}: ${input.hardware.processors} processors, ${input.hardware.memoryBytes / 1e9} GB of memory`,
      );
    },
  };
}
