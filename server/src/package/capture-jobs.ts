/** Capturing installers on the practice machine, and comparing inventories that were brought. */
import { mkdirSync } from 'node:fs';
import { compareEntries, type Entry } from '@vatline/core/inventory/entry';
import { inventoryHeader } from '@vatline/core/inventory/text';
import { saveInventory } from '@vatline/files/inventory-file';
import { scanTree } from '@vatline/files/scan';
import { keepSmallTexts } from '@vatline/files/small-texts';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { captureFiles } from './capture-files.ts';
import { judgingOf } from './judging.ts';
import type { PackageStore } from './store.ts';
import { captureWork } from './work.ts';

export interface CaptureInput {
  readonly captureId: string;
  readonly installers: readonly { readonly id: string; readonly name: string }[];
  readonly quiet: boolean;
  readonly restarts: boolean;
}

export interface CompareInput {
  readonly captureId: string;
}

/** What an installer ends with when it wants a restart to finish. */
const RESTART_REQUIRED = '3010';

export function captureJobs(parts: Parts, store: PackageStore): void {
  parts.jobs.register(captureJob(parts, store));
  parts.jobs.register(compareJob(parts, store));
}

function captureJob(parts: Parts, store: PackageStore): JobKind<CaptureInput> {
  return {
    kind: 'capture',
    paced: true,
    steps: (input) => Promise.resolve(captureSteps(parts, store, input)),
    ended: (input, state) => failUnlessDone(store, input.captureId, state),
  };
}

/** The steps of one capture. */
export function captureSteps(parts: Parts, store: PackageStore, input: CaptureInput): JobStep[] {
  const { packaging } = parts.estate;
  const folder = store.captures.folder(input.captureId);
  const files = captureFiles(folder);
  const several = input.installers.length > 1;
  return [
    {
      title: 'Lay out a clean machine',
      run: async (context) => {
        mkdirSync(folder, { recursive: true });
        await packaging.prepare(context.jobId, files.payload, { quiet: input.quiet });
      },
    },
    {
      title: 'Inventory before',
      run: async (context) => {
        const entries = await takeInventory(parts, context, files.payload, files.before);
        keepSmallTexts(files.payload, entries, files.textsBefore);
      },
    },
    ...input.installers.flatMap(({ id, name }, i): JobStep[] => [
      {
        title: `Install ${name}`,
        run: (context) => install(parts, context, { ...input, folder: files.payload, installer: id, i }),
      },
      ...(several
        ? [
            {
              title: `Inventory after ${name}`,
              run: async (context: JobContext) =>
                void (await takeInventory(parts, context, files.payload, files.between(i + 1))),
            },
          ]
        : []),
    ]),
    {
      title: 'Inventory after',
      run: async (context) => void (await takeInventory(parts, context, files.payload, files.after)),
    },
    compareStep(parts, store, input.captureId),
  ];
}

/** Runs one installer, and restarts the machine if it asks for that and may. */
async function install(
  { estate: { packaging } }: Parts,
  context: JobContext,
  {
    captureId,
    folder,
    installer,
    restarts,
    i,
  }: { captureId: string; folder: string; installer: string; restarts: boolean; i: number },
): Promise<void> {
  const { result } = await context.operation((attempt) =>
    packaging.install(`${context.jobId}/${captureId}/install/${i}/${attempt}`, folder, installer),
  );
  await context.log(`${installer} ended with ${result}`);
  if (result !== RESTART_REQUIRED) return;
  if (!restarts) return context.log('It wants a restart; what comes with that is not captured');
  await context.operation((attempt) =>
    packaging.restart(`${context.jobId}/${captureId}/restart/${i}/${attempt}`, folder),
  );
  await context.log('The machine was restarted, as the installer asked');
}

async function takeInventory(
  { estate: { packaging, clock } }: Parts,
  context: JobContext,
  folder: string,
  out: string,
): Promise<Entry[]> {
  const scan = await scanTree(folder);
  const settings = await packaging.settings(folder);
  const entries = [...scan.entries, ...settings].sort(compareEntries);
  saveInventory(out, inventoryHeader('packaging machine', clock.now(), true), entries);
  await context.log(`${entries.length.toLocaleString('en-GB')} entries`);
  return entries;
}

function compareStep(parts: Parts, store: PackageStore, captureId: string): JobStep {
  return {
    title: 'Compare, drop the noise, look into the files',
    run: async (context) => {
      const capture = await store.captures.get(captureId);
      const judging = await judgingOf(parts, store, capture);
      const counts = await captureWork(parts, 'compareCapture', {
        ...judging,
        installers: await store.captures.installerNames(capture),
      });
      await store.captures.update(captureId, { state: 'ready', counts_json: JSON.stringify(counts) });
      await context.log(
        `${counts.added} added, ${counts.changed} changed, ${counts.dropped} dropped as noise`,
      );
      parts.journal.tell('package');
    },
  };
}

function compareJob(parts: Parts, store: PackageStore): JobKind<CompareInput> {
  return {
    kind: 'compare',
    paced: false,
    steps: (input) => Promise.resolve([compareStep(parts, store, input.captureId)]),
    ended: (input, state) => failUnlessDone(store, input.captureId, state),
  };
}

function failUnlessDone(store: PackageStore, captureId: string, state: string): Promise<void> {
  return state === 'done' ? Promise.resolve() : store.captures.update(captureId, { state: 'failed' });
}
