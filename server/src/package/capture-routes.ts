/** Captures over HTTP: beginning them, what they found, and the package that is made of one. */
import { existsSync } from 'node:fs';
import { extname } from 'node:path';
import { captureEndpoints, type CaptureDraft, captureFileEndpoints } from '@vatline/contract/capture';
import { containerFormats } from '@vatline/core/container/formats';
import type { PackageManifest } from '@vatline/core/container/manifest';
import { realPathIn } from '@vatline/files/inside';
import { smallTextIn } from '@vatline/files/small-texts';
import { fromJson } from '../platform/database.ts';
import { DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import { sendFile } from '../platform/send-stream.ts';
import { captureFiles } from './capture-files.ts';
import { newCapture } from './new-capture.ts';
import { readJudged, type Judged } from './judged.ts';
import type { PackInput } from './pack-job.ts';
import type { CaptureRequest } from './captures.ts';
import type { PackageStore } from './store.ts';
import { receiveCapture } from './upload.ts';
import { captureWork } from './work.ts';

export function captureRoutes(door: Door, parts: Parts, store: PackageStore): void {
  beginning(door, parts, store);
  judged(door, parts, store);
  packing(door, parts, store);
}

function beginning(door: Door, parts: Parts, store: PackageStore): void {
  const { jobs, estate } = parts;

  door.serve(captureEndpoints.installers, async () =>
    (await estate.packaging.installers()).map(({ id, name, publisher, version, files }) => ({
      id,
      name,
      publisher,
      version,
      files,
    })),
  );

  door.serve(captureEndpoints.capture, async ({ body }) => {
    const input = await newCapture(parts, store, body);
    const { captureId } = input;
    const title = input.installers.at(-1)?.name ?? '';
    const jobId = await jobs.start({
      kind: 'capture',
      title: `Capture ${title}`,
      subject: `capture:${captureId}`,
      input,
    });
    return { captureId, jobId };
  });

  // A form, not JSON, so it stands outside the checked endpoints; `receiveCapture` checks every part.
  door.serveRaw(captureFileEndpoints.upload, async ({ request }) => {
    const captureId = newId('capture');
    const { name, publisher, version } = await receiveCapture(
      request,
      parts,
      store.captures.folder(captureId),
    );
    const none: CaptureRequest = { installers: [], quiet: false, restarts: false };
    await store.captures.add({
      id: captureId,
      package_name: name,
      source: 'upload',
      request_json: JSON.stringify(none),
      state: 'capturing',
      proposal_json: JSON.stringify({ name, publisher, version, entryPoints: [] }),
      created_ms: estate.clock.now(),
    });
    const jobId = await jobs.start({
      kind: 'compare',
      title: `Compare the inventories of ${name} ${version}`,
      subject: `capture:${captureId}`,
      input: { captureId },
    });
    return { captureId, jobId };
  });
}

function judged(door: Door, parts: Parts, store: PackageStore): void {
  door.serve(captureEndpoints.getCapture, async ({ params }) =>
    store.captures.present(await store.captures.get(params.id)),
  );

  // As it was written down: reading and checking hundreds of thousands of rows would hold up everybody.
  door.serveRaw(captureFileEndpoints.comparison, async ({ params, response }) => {
    const { id } = await store.captures.get(params.id);
    const { comparison } = captureFiles(store.captures.folder(id));
    if (!existsSync(comparison)) throw conflict('This capture has not been compared yet');
    await sendFile(comparison, response.type('application/json'));
  });

  door.serve(captureEndpoints.judgement, async ({ params }) => {
    const { findings, facts, bytes } = await readJudgement(store, params.id);
    const { hosts } = await parts.db
      .selectFrom('host')
      .select(({ fn }) => fn.countAll<number>().as('hosts'))
      .executeTakeFirstOrThrow();
    const { users } = await parts.estate.directory.counts();
    const answer = {
      findings,
      clean: facts.clean,
      pictures: facts.pictures,
      placement: { people: users, hosts, gigabytes: bytes / 1e9 },
    };
    return answer as never;
  });

  door.serve(captureEndpoints.owners, async ({ params }) => {
    const { facts } = await readJudgement(store, params.id);
    return facts.owners.map(({ name, entries }) => ({ name, entries: [...entries] }));
  });

  door.serve(captureEndpoints.text, async ({ params, query }) => {
    await store.captures.get(params.id);
    const files = captureFiles(store.captures.folder(params.id));
    return {
      before: smallTextIn(files.textsBefore, query.path) ?? null,
      after: smallTextIn(files.payload, query.path) ?? null,
    };
  });

  // A picture, so it stands outside the checked endpoints; only pictures that were found are given out.
  door.serveRaw(captureFileEndpoints.picture, async ({ params, query, response }) => {
    const { facts } = await readJudgement(store, params.id);
    const path = query.path;
    if (!Object.hasOwn(facts.pictures, path)) throw notFound(`picture ${path} in this capture`);
    const { payload } = captureFiles(store.captures.folder(params.id));
    const real = realPathIn(payload, path);
    if (real === undefined) throw notFound(`picture ${path} in this capture`);
    const type = extname(path).toLowerCase() === '.png' ? 'image/png' : 'image/x-icon';
    await sendFile(real, response.type(type));
  });
}

async function readJudgement(store: PackageStore, id: string): Promise<Judged> {
  await store.captures.get(id);
  const folder = store.captures.folder(id);
  if (!existsSync(captureFiles(folder).judged)) throw conflict('This capture has not been compared yet');
  return readJudged(folder);
}

function packing(door: Door, parts: Parts, store: PackageStore): void {
  door.serve(captureEndpoints.draft, async ({ params }) => {
    const { guess } = await readJudgement(store, params.id);
    const capture = await store.captures.get(params.id);
    const kept = capture.draft_json === null ? undefined : fromJson<CaptureDraft>(capture.draft_json);
    const draft = kept ?? { manifest: { ...guess.manifest }, confirmed: [], updatersOff: false };
    return { ...draft, sources: { ...guess.sources } };
  });

  door.serve(captureEndpoints.keepDraft, async ({ params, body }) => {
    await store.captures.get(params.id);
    await store.captures.update(params.id, { draft_json: JSON.stringify(body) });
    // Kept as it is typed, so nobody else's packages are asked for anew.
    return DONE;
  });

  door.serve(captureEndpoints.estimate, async ({ params, query }) => {
    await readJudgement(store, params.id);
    const folder = store.captures.folder(params.id);
    const updatersOff = query.updatersOff === 'true';
    const estimated = await captureWork(parts, 'estimatePackage', { folder, updatersOff });
    const pace = await store.containers.secondsPerByte();
    const { files, bytes, settings, obstacles, sizes, losses } = estimated;
    const containers = containerFormats.map((format) => {
      const secondsPerByte = pace.get(format);
      return {
        format,
        bytes: sizes[format] ?? null,
        seconds: secondsPerByte === undefined ? null : secondsPerByte * bytes,
        lost: losses[format].map((loss) => ({ ...loss, paths: [...loss.paths] })),
      };
    });
    return { files, bytes, settings, containers, obstacles: [...obstacles] };
  });

  door.serve(captureEndpoints.pack, async ({ params, body }) => {
    const capture = await store.captures.get(params.id);
    if (capture.state === 'capturing') throw conflict('The capture is not finished');
    const { updatersOff, formats, ...manifest } = body;
    if (await store.versions.has(body.name, body.version))
      throw invalid([
        {
          path: 'version',
          message: `${body.name} ${body.version} is packaged already; give another version`,
        },
      ]);
    await refuseMissing(parts, store, capture.id, manifest, updatersOff);
    const input: PackInput = { captureId: capture.id, manifest, updatersOff, formats };
    const jobId = await parts.jobs.start({
      kind: 'pack',
      title: `Build containers of ${body.name} ${body.version}`,
      subject: `capture:${capture.id}`,
      input,
    });
    return { jobId };
  });
}

/** Programs and pictures that entry points name must be in the container. */
async function refuseMissing(
  parts: Parts,
  store: PackageStore,
  captureId: string,
  { entryPoints }: Pick<PackageManifest, 'entryPoints'>,
  updatersOff: boolean,
): Promise<void> {
  const named = entryPoints.flatMap(({ path, icon }, i) => [
    { at: `entryPoints.${i}.path`, path },
    ...(icon ? [{ at: `entryPoints.${i}.icon`, path: icon }] : []),
  ]);
  const missing = await captureWork(parts, 'missingPaths', {
    folder: store.captures.folder(captureId),
    updatersOff,
    paths: named.map((one) => one.path),
  });
  const faults = named.filter((one) => missing.includes(one.path));
  if (faults.length > 0)
    throw invalid(
      faults.map(({ at, path }) => ({
        path: at,
        message: `${path} is not among the files of the container`,
      })),
    );
}
