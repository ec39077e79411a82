/** Layers from one version to another: planned from inventories, written from the image's own files. */
import { existsSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { imageEndpoints, imageFileEndpoints } from '@vatline/contract/image';
import { writeDelta, type WrittenDelta } from '@vatline/files/oci-delta';
import { tarFolder } from '@vatline/files/tar-folder';
import type { Door } from '../platform/door.ts';
import type { JobKind } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid, notFound } from '../platform/problem.ts';
import { sendStream } from '../platform/send-stream.ts';
import { inventoryWork } from './inventory-work.ts';
import type { ImageStore } from './store.ts';
import type { VersionRow } from './tables.ts';

interface DeltaInput {
  readonly from: string;
  readonly to: string;
}

const subjectOf = ({ from, to }: DeltaInput) => `delta:${from}:${to}`;

export function deltaRoutes(door: Door, parts: Parts, store: ImageStore): void {
  door.serve(imageEndpoints.delta, async ({ query }) => {
    const { delta } = await planned(parts, store, query);
    const [job] = await parts.jobs.newest(subjectOf(query), 1);
    return {
      puts: delta.puts.length,
      putBytes: delta.putBytes,
      whiteouts: delta.whiteouts.length,
      removedBytes: delta.removedBytes,
      made: madeLayer(parts, query) ?? null,
      job: job && job.state !== 'done' ? job : null,
    };
  });

  door.serve(imageEndpoints.makeDelta, async ({ body }) => {
    const { from, to } = await planned(parts, store, body);
    const jobId = await parts.jobs.start({
      kind: 'delta',
      title: `Make the layer from version ${from.number} to ${to.number}`,
      subject: subjectOf(body),
      input: { from: from.id, to: to.id } satisfies DeltaInput,
    });
    return { jobId };
  });

  door.serveRaw(imageFileEndpoints.delta, async ({ query, response }) => {
    const { from, to } = query;
    const versions = { from: await store.versions.get(from), to: await store.versions.get(to) };
    if (!madeLayer(parts, { from, to })) throw notFound('such layer; make it first');
    const name = `${versions.from.number}-to-${versions.to.number}.oci`;
    response.attachment(`${name}.tar`).type('application/x-tar');
    await sendStream(tarFolder(folderOf(parts, { from, to }), name), response);
  });
}

function folderOf({ dataFolder }: Parts, { from, to }: DeltaInput): string {
  return join(dataFolder, 'deltas', `${from}--${to}`);
}

/** Deletes every layer from or to a version. */
export function dropLayers({ dataFolder }: Pick<Parts, 'dataFolder'>, versionId: string): void {
  const folder = join(dataFolder, 'deltas');
  for (const name of existsSync(folder) ? readdirSync(folder) : [])
    if (
      name
        .replace(/\.json$/, '')
        .split('--')
        .includes(versionId)
    )
      rmSync(join(folder, name), { recursive: true, force: true });
}

/** What is known of a finished layer stands beside it, written once all of it is there. */
const noteOf = (parts: Parts, input: DeltaInput) => `${folderOf(parts, input)}.json`;

function madeLayer(parts: Parts, input: DeltaInput): WrittenDelta | undefined {
  const note = noteOf(parts, input);
  return existsSync(note) ? (JSON.parse(readFileSync(note, 'utf8')) as WrittenDelta) : undefined;
}

async function planned(parts: Parts, store: ImageStore, { from, to }: DeltaInput) {
  const versions = { from: await store.versions.get(from), to: await store.versions.get(to) };
  const faults = (['from', 'to'] as const).flatMap((path) =>
    versions[path].gone_ms === null ? [] : [{ path, message: 'the version was deleted' }],
  );
  if (from === to) faults.push({ path: 'to', message: 'is the same version' });
  if (faults.length > 0) throw invalid(faults);
  const delta = await inventoryWork(parts, 'deltaBetween', {
    from: store.versions.inventoryFile(versions.from),
    to: store.versions.inventoryFile(versions.to),
  });
  return { ...versions, delta };
}

export function deltaJob(parts: Parts, store: ImageStore): JobKind<DeltaInput> {
  const { hypervisor } = parts.estate;
  return {
    kind: 'delta',
    paced: false,
    steps: (input) =>
      Promise.resolve([
        {
          title: 'Write the layer',
          run: async (context) => {
            const { delta, to } = await planned(parts, store, input);
            const written = await writeDelta({
              delta,
              read: (path) => hypervisor.readFile(to.image_id, path),
              out: folderOf(parts, input),
              about: await aboutLayer(store, input, to),
              epoch: Math.floor(to.cut_ms / 1000),
              onProgress: context.progress,
              cancelled: context.cancelled,
            });
            writeFileSync(noteOf(parts, input), JSON.stringify(written));
            await context.log(
              `${delta.puts.length} entries put, ${delta.whiteouts.length} hidden, ${written.sizeBytes.toLocaleString('en-GB')} bytes`,
            );
            parts.journal.tell('line');
          },
        },
      ]),
  };
}

async function aboutLayer(store: ImageStore, input: DeltaInput, to: VersionRow) {
  const [line, from] = [await store.lines.get(to.line_id), await store.versions.get(input.from)];
  return {
    name: `${line.name}, from version ${from.number}`,
    version: String(to.number),
    publisher: '',
    entryPoints: [],
  };
}
