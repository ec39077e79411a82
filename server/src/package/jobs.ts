/** Capturing installers and building containers. */
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import { compareEntries, inventoryHeader } from '@vatline/core/image/inventory';
import type { PackageManifest } from '@vatline/core/package/manifest';
import { formatNames, type ContainerFormat } from '@vatline/core/container/formats';
import { keptEntries } from '@vatline/core/package/findings';
import type { CaptureComparison, ChangeCounts } from '@vatline/core/package/noise';
import { findUpdaters } from '@vatline/core/package/updaters';
import { InputError } from '@vatline/files/input-error';
import { saveInventory } from '@vatline/files/inventory-file';
import { scanTree } from '@vatline/files/scan';
import type { Packed } from '@vatline/files/pack-container';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { workerFile } from '../platform/workers.ts';
import type { PackTask } from './heavy-worker.ts';
import { unsigned, type PackageStore } from './store.ts';

export interface CaptureInput {
  readonly captureId: string;
  readonly installer: string;
  readonly name: string;
}

export interface CompareInput {
  readonly captureId: string;
}

export interface PackInput {
  readonly captureId: string;
  readonly manifest: PackageManifest;
  readonly withoutUpdaters: boolean;
  readonly formats: readonly ContainerFormat[];
}

const heavy = workerFile('package/heavy-worker.js');

export function packageJobs(parts: Parts, store: PackageStore): void {
  parts.jobs.register(captureJob(parts, store));
  parts.jobs.register(compareJob(parts, store));
  parts.jobs.register(packJob(parts, store));
}

/** What the packer may leave out or must take: the paths that a comparison says were put there. */
export function pathsToPack(comparison: CaptureComparison, withoutUpdaters: boolean): string[] {
  const entries = keptEntries(comparison);
  const updaters = new Set(withoutUpdaters ? findUpdaters(entries).map((finding) => finding.entry) : []);
  return entries.flatMap((entry) =>
    ['file', 'link', 'folder'].includes(entry.kind) && !updaters.has(entry) && 'path' in entry
      ? [entry.path]
      : [],
  );
}

function captureJob(parts: Parts, store: PackageStore): JobKind<CaptureInput> {
  const { packaging, clock } = parts.estate;
  const payload = (input: CaptureInput) => join(store.captureFolder(input.captureId), 'payload');
  const inventory = async (input: CaptureInput, context: JobContext, which: 'before' | 'after') => {
    const folder = payload(input);
    const scan = await scanTree(folder);
    const settings = await packaging.settings(folder, which === 'after' ? input.installer : null);
    const entries = [...scan.entries, ...settings].sort(compareEntries);
    saveInventory(
      join(store.captureFolder(input.captureId), `${which}.jsonl`),
      inventoryHeader('packaging machine', clock.now(), true),
      entries,
    );
    await context.log(`${entries.length.toLocaleString('en-GB')} entries ${which}`);
  };
  return {
    kind: 'capture',
    paced: true,
    steps: (input) =>
      Promise.resolve<JobStep[]>([
        {
          title: 'Lay out a clean machine',
          run: async (context) => {
            mkdirSync(store.captureFolder(input.captureId), { recursive: true });
            await packaging.prepare(context.jobId, payload(input));
          },
        },
        { title: 'Inventory before', run: (context) => inventory(input, context, 'before') },
        {
          title: `Install ${input.name}`,
          run: async (context) => {
            await context.operation((attempt) =>
              packaging.install(`${context.jobId}/install/${attempt}`, payload(input), input.installer),
            );
          },
        },
        { title: 'Inventory after', run: (context) => inventory(input, context, 'after') },
        compareStep(parts, store, input.captureId),
      ]),
    ended: (input, state) =>
      state === 'done' ? Promise.resolve() : store.updateCapture(input.captureId, { state: 'failed' }),
  };
}

function compareStep(parts: Parts, store: PackageStore, captureId: string): JobStep {
  return {
    title: 'Compare and drop the noise',
    run: async (context) => {
      const folder = store.captureFolder(captureId);
      const task = {
        before: join(folder, 'before.jsonl'),
        after: join(folder, 'after.jsonl'),
        out: join(folder, 'comparison.json'),
      };
      const counts = (await parts.workers.run(task, {
        filename: heavy,
        name: 'compareCapture',
      })) as ChangeCounts;
      await store.updateCapture(captureId, { state: 'ready', counts_json: JSON.stringify(counts) });
      await context.log(
        `${counts.added} added, ${counts.changed} changed, ${counts.dropped} dropped as noise`,
      );
      parts.journal.tell('packages');
    },
  };
}

function compareJob(parts: Parts, store: PackageStore): JobKind<CompareInput> {
  return {
    kind: 'compare',
    paced: false,
    steps: (input) => Promise.resolve([compareStep(parts, store, input.captureId)]),
    ended: (input, state) =>
      state === 'done' ? Promise.resolve() : store.updateCapture(input.captureId, { state: 'failed' }),
  };
}

function packJob(parts: Parts, store: PackageStore): JobKind<PackInput> {
  return {
    kind: 'pack',
    paced: false,
    steps: (input) =>
      Promise.resolve<JobStep[]>(
        input.formats.map((format) => ({
          title: `Build the container: ${formatNames[format]}`,
          run: (context) => buildOne(parts, store, input, format, context),
        })),
      ),
  };
}

/** The version is there as a draft with its first container; the first built is the one chosen, until another is. */
async function buildOne(
  parts: Parts,
  store: PackageStore,
  input: PackInput,
  format: ContainerFormat,
  context: JobContext,
): Promise<void> {
  const started = performance.now();
  const packed = await packInWorker(parts, store, input, format, context);
  const seconds = Math.round(performance.now() - started) / 1000;
  await context.log(
    `${formatNames[format]}: ${packed.files.toLocaleString('en-GB')} files, ${packed.bytesOut.toLocaleString('en-GB')} bytes, sha256 ${packed.sha256}`,
  );
  const { manifest, captureId } = input;
  const packageId = await store.addPackage({
    name: manifest.name,
    publisher: manifest.publisher,
    delivery: 'container',
    note: '',
  });
  const now = parts.estate.clock.now();
  const versionId = await store.addVersion({
    package_id: packageId,
    version: manifest.version,
    state: 'draft',
    format,
    digest: packed.sha256,
    files: packed.files,
    size_bytes: packed.bytesIn,
    container_bytes: packed.bytesOut,
    entry_points_json: JSON.stringify(manifest.entryPoints),
    built_ms: now,
    capture_id: captureId,
    ...unsigned,
  });
  await store.addContainer({
    version_id: versionId,
    format,
    digest: packed.sha256,
    size_bytes: packed.bytesOut,
    seconds,
    built_ms: now,
  });
  await store.updateCapture(captureId, { state: 'packaged' });
  parts.journal.tell('packages', 'estate');
}

/** Packs beside its final place, then renames to its digest; what an interrupted try left is cleared first. */
async function packInWorker(
  parts: Parts,
  store: PackageStore,
  input: PackInput,
  format: ContainerFormat,
  context: JobContext,
): Promise<Packed> {
  const containers = join(parts.dataFolder, 'containers');
  const temporary = join(containers, `building-${input.captureId}`);
  mkdirSync(containers, { recursive: true });
  const clear = () => {
    for (const name of readdirSync(containers))
      if (join(containers, name).startsWith(temporary))
        rmSync(join(containers, name), { recursive: true, force: true });
  };
  clear();
  const only = pathsToPack(store.comparison(input.captureId), input.withoutUpdaters);
  if (only.length === 0) throw InputError.of('capture', 'holds no file to pack');
  const { port1, port2 } = new MessageChannel();
  const abort = new AbortController();
  port1.on('message', (share: number) => {
    context.progress(share);
    if (context.cancelled()) abort.abort();
  });
  const task: PackTask = {
    folder: join(store.captureFolder(input.captureId), 'payload'),
    format,
    out: temporary,
    manifest: input.manifest,
    only,
    port: port2,
  };
  try {
    const packed = (await parts.workers.run(task, {
      filename: heavy,
      name: 'packContainer',
      transferList: [port2],
      signal: abort.signal,
    })) as Packed;
    settle(temporary, store.containerPath(packed.sha256));
    return packed;
  } catch (error) {
    clear();
    throw context.cancelled() ? new Error('cancelled') : error;
  } finally {
    port1.close();
  }
}

/** The same bytes under the same digest need not be kept twice. */
function settle(temporary: string, final: string): void {
  if (existsSync(final)) {
    rmSync(temporary, { recursive: true });
    rmSync(`${temporary}.cdx.json`);
    return;
  }
  renameSync(`${temporary}.cdx.json`, `${final}.cdx.json`);
  renameSync(temporary, final);
}
