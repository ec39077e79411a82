/** Building containers of a capture. */
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import type { PackageManifest } from '@vatline/core/container/manifest';
import { formatNames, type ContainerFormat } from '@vatline/core/container/formats';
import type { Packed } from '@vatline/files/pack-container';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { captureFiles } from './capture-files.ts';
import { unsigned } from './versions.ts';
import type { PackageStore } from './store.ts';
import { containerWork } from './work.ts';
import { Cancelled } from '../platform/jobs/cancelled.ts';

export interface PackInput {
  readonly captureId: string;
  readonly manifest: PackageManifest;
  readonly updatersOff: boolean;
  readonly formats: readonly ContainerFormat[];
}

export function packJob(parts: Parts, store: PackageStore): JobKind<PackInput> {
  return {
    kind: 'pack',
    paced: false,
    steps: (input) => Promise.resolve(packSteps(parts, store, input)),
  };
}

/** One step for each format. */
export function packSteps(parts: Parts, store: PackageStore, input: PackInput): JobStep[] {
  return input.formats.map((format) => ({
    title: `Build the container: ${formatNames[format]}`,
    run: (context) => buildOne(parts, store, input, format, context),
  }));
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
  await parts.db.transact(() => record(parts, store, input, { packed, format, seconds }));
  parts.journal.tell('package', 'estate');
}

interface Built {
  readonly packed: Packed & { settings: number };
  readonly format: ContainerFormat;
  readonly seconds: number;
}

/** The draft is there with its container, and its capture is packaged. */
async function record(
  parts: Parts,
  store: PackageStore,
  { manifest, captureId }: PackInput,
  { packed, format, seconds }: Built,
): Promise<void> {
  const packageId = await store.library.add({
    name: manifest.name,
    publisher: manifest.publisher,
    delivery: 'container',
    note: '',
  });
  const now = parts.estate.clock.now();
  const row = {
    package_id: packageId,
    version: manifest.version,
    state: 'draft',
    format,
    digest: packed.sha256,
    files: packed.files,
    size_bytes: packed.bytesIn,
    container_bytes: packed.bytesOut,
    details_json: detailsOf(manifest, packed.settings),
    built_ms: now,
    capture_id: captureId,
    share: null,
    sign_in_json: null,
    ...unsigned,
  } as const;
  const versionId = await store.versions.add(row, manifest.entryPoints);
  await store.containers.add({
    version_id: versionId,
    format,
    digest: packed.sha256,
    size_bytes: packed.bytesOut,
    seconds,
    built_ms: now,
  });
  await store.captures.update(captureId, { state: 'packaged' });
}

/** Packs beside its final place, then renames to its digest; what an interrupted try left is cleared first. */
async function packInWorker(
  parts: Parts,
  store: PackageStore,
  input: PackInput,
  format: ContainerFormat,
  context: JobContext,
): Promise<Packed & { settings: number }> {
  const containers = join(parts.dataFolder, 'containers');
  const temporary = join(containers, `building-${input.captureId}`);
  mkdirSync(containers, { recursive: true });
  const clear = () => {
    for (const name of readdirSync(containers))
      if (join(containers, name).startsWith(temporary))
        rmSync(join(containers, name), { recursive: true, force: true });
  };
  clear();
  const { port1, port2 } = new MessageChannel();
  const abort = new AbortController();
  port1.on('message', (share: number) => {
    context.progress(share);
    if (context.cancelled()) abort.abort();
  });
  const files = captureFiles(store.captures.folder(input.captureId));
  const task = {
    folder: files.payload,
    comparison: files.comparison,
    updatersOff: input.updatersOff,
    format,
    out: temporary,
    manifest: input.manifest,
    port: port2,
  };
  try {
    const packed = await containerWork(parts, 'packContainer', task, {
      transferList: [port2],
      signal: abort.signal,
    });
    settle(temporary, store.containers.path(packed.sha256));
    return packed;
  } catch (error) {
    clear();
    throw context.cancelled() ? new Cancelled() : error;
  } finally {
    port1.close();
  }
}

/** Moves a finished container and its bill of materials to its digest; the same bytes need not be kept twice. */
export function settle(temporary: string, final: string): void {
  if (existsSync(final)) {
    rmSync(temporary, { recursive: true });
    rmSync(`${temporary}.cdx.json`);
    return;
  }
  renameSync(`${temporary}.cdx.json`, `${final}.cdx.json`);
  renameSync(temporary, final);
}

/** What the manifest says besides its name, publisher, version and entry points. */
export function detailsOf(manifest: PackageManifest, settings: number): string {
  const { description, licence, notes, dependencies, environment, attach } = manifest;
  return JSON.stringify({ description, licence, notes, dependencies, environment, attach, settings });
}
