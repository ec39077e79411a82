/** Cutting a version: a copy of the build machine is generalised and captured; the machine stays as it is. */
import { checkLine } from '@vatline/core/image/checks/check-line';
import type { CapturedImage } from '../estate/driver/hypervisor.ts';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import { lineUnderCheck } from './line-facts.ts';
import type { ImageStore } from './store.ts';
import type { LineRow, VersionRow } from './tables.ts';

export interface CutInput {
  readonly lineId: string;
  readonly recipeRevision: number;
  readonly note: string;
  readonly copyName: string;
}

/** What a cut of the line as it stands is given. */
export function cutInput(line: LineRow, note: string): CutInput {
  return {
    lineId: line.id,
    recipeRevision: line.recipe_revision,
    note,
    copyName: `CUT-${line.machine_name.slice('BUILD-'.length)}`,
  };
}

/** Throws a conflict that names everything that stops a cut. */
export async function refuseUnlessReady(parts: Parts, store: ImageStore, line: LineRow): Promise<string> {
  const off = (await store.lines.checksOff(line.id)).map((check) => check.id);
  const { findings } = checkLine(await lineUnderCheck(parts, store, line), off);
  const stopping = findings.filter((finding) => finding.severity === 'stops the cut');
  if (stopping.length > 0 || !line.machine_id)
    throw conflict(stopping.map((f) => `${f.title}: ${f.reason}`).join('; '));
  return line.machine_id;
}

export function cutJob(parts: Parts, store: ImageStore): JobKind<CutInput> {
  return {
    kind: 'cut',
    paced: true,
    cleanUp: (_input, jobId) => dropCopy(parts, jobId),
    steps: (input) => Promise.resolve(cutSteps(parts, store, input)),
  };
}

/** The copy of a cut that was cancelled. */
export async function dropCopy({ estate }: Parts, jobId: string): Promise<void> {
  for (let attempt = 0; ; attempt++) {
    const copy = await estate.operations.get(`${jobId}/copy/${attempt}`);
    if (!copy) return;
    if (copy.result) await estate.hypervisor.deleteMachine(`${jobId}/clean-up/${attempt}`, copy.result);
  }
}

/** What else becomes true with a new version, in the same change. */
type Recorded = (version: VersionRow) => Promise<void>;

export function cutSteps(
  parts: Parts,
  store: ImageStore,
  input: CutInput,
  recorded: Recorded = () => Promise.resolve(),
): JobStep[] {
  const { hypervisor } = parts.estate;
  const machineOf = async () => (await store.lines.get(input.lineId)).machine_id ?? '';
  const copyOf = async (context: JobContext) =>
    (
      await context.operation(async (attempt) =>
        hypervisor.copy(`${context.jobId}/copy/${attempt}`, await machineOf(), input.copyName),
      )
    ).result;
  const imageOf = async (context: JobContext) => {
    const copy = await copyOf(context);
    return (
      await context.operation((attempt) => hypervisor.capture(`${context.jobId}/capture/${attempt}`, copy))
    ).result;
  };
  return [
    {
      title: 'Check once more',
      run: async () => {
        await refuseUnlessReady(parts, store, await store.lines.get(input.lineId));
      },
    },
    {
      title: 'Copy the machine',
      run: async (context) => {
        await copyOf(context);
        await context.log(`${input.copyName}: the build machine itself stays as it is`);
      },
    },
    {
      title: 'Generalise the copy',
      run: async (context) => {
        const copy = await copyOf(context);
        await context.operation((attempt) =>
          hypervisor.generalise(`${context.jobId}/generalise/${attempt}`, copy),
        );
      },
    },
    { title: 'Capture', run: async (context) => void (await imageOf(context)) },
    {
      title: 'Record the version',
      run: async (context) => {
        const image = await hypervisor.image(await imageOf(context));
        if (!image) throw conflict('the captured image is gone');
        await record({ parts, store, input, context, recorded }, image);
      },
    },
    {
      title: 'Take the copy away',
      run: async (context) => hypervisor.deleteMachine(`${context.jobId}/delete`, await copyOf(context)),
    },
  ];
}

interface Recording {
  readonly parts: Parts;
  readonly store: ImageStore;
  readonly input: CutInput;
  readonly context: JobContext;
  readonly recorded: Recorded;
}

/** The version, what follows from it and what is told of it are one change, made once however often it is tried. */
async function record(
  { parts, store, input, context, recorded }: Recording,
  image: CapturedImage,
): Promise<void> {
  const { lineId, recipeRevision, note } = input;
  const line = await store.lines.get(lineId);
  const at = parts.estate.clock.now();
  const inventory = store.versions.keepInventory(line.name, image.entries, at);
  await parts.db.transact(async () => {
    if (await store.versions.isRecorded(image.id)) return;
    const { id: imageId, sizeBytes } = image;
    const { jobId } = context;
    const version = await store.versions.add({
      lineId,
      recipeRevision,
      note,
      imageId,
      inventory,
      sizeBytes,
      jobId,
      at,
    });
    await recorded(version);
    await context.log(`version ${version.number}: ${image.entries.length} inventory entries`);
    await parts.journal.note({
      at,
      kind: 'cut',
      subject: `line:${lineId}`,
      text: `${line.name} ${version.number} was cut`,
      link: `/images/${lineId}/versions`,
    });
  });
  parts.journal.tell(`line:${lineId}`);
}
