/** Installed delivery over HTTP. */
import { rmSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { installationEndpoints, installationFileEndpoints } from '@vatline/contract/installation';
import { installationFaults, newInstallation, type Installation } from '@vatline/core/installed/installation';
import { readForm } from '../platform/form.ts';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Note } from '../platform/journal.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { workOf } from '../platform/workers.ts';
import { forecastInstallation, forecastRemoval, hostsOf } from './forecast.ts';
import type { InstallInput } from './install-job.ts';
import type * as sourceFunctions from './source-worker.ts';
import type { InstallationStore, KnownInstallation, MadeArchive } from './store.ts';

const sourceWork = workOf<typeof sourceFunctions>('installed/source-worker.js', 'intake');

/** As much as a payload may unpack to. */
const MOST_BYTES = 8e9;

export function installationRoutes(door: Door, parts: Parts, store: InstallationStore): void {
  keeping(door, parts, store);
  sources(door, parts, store);
  carryingOut(door, parts, store);
}

/** What is listed, begun, kept and deleted. */
function keeping(door: Door, parts: Parts, store: InstallationStore): void {
  door.serve(installationEndpoints.list, () => store.list());

  door.serve(installationEndpoints.create, async ({ body }) =>
    body.installer === null
      ? begin(parts, store, newInstallation({ name: '', publisher: '', version: '' }))
      : beginWith(parts, store, body.installer),
  );

  door.serve(installationEndpoints.keep, async ({ params, body }) => {
    await refuseAtWork(parts, params.id);
    const { basedOn, ...installation } = body;
    return change(
      parts,
      async () => ({ revision: await store.keep(params.id, installation, basedOn) }),
      ({ revision }) => installationNote(params.id, installation, `: revision ${revision} was kept`),
    );
  });

  door.serve(installationEndpoints.remove, async ({ params }) => {
    await refuseAtWork(parts, params.id);
    const row = await store.row(params.id);
    await change(
      parts,
      () => store.remove(params.id),
      () => ({ ...installationNote(params.id, row, ' was deleted'), link: '/packages/installed' }),
    );
    await store.clearArchive(row.archive_digest);
    return DONE;
  });
}

/** Begins one with an installer of the packaging machine as its source. */
async function beginWith(parts: Parts, store: InstallationStore, wanted: string): Promise<{ id: string }> {
  const { packaging } = parts.estate;
  const installer = (await packaging.installers()).find((row) => row.id === wanted);
  if (!installer)
    throw invalid([{ path: 'installer', message: `The packaging machine has no installer "${wanted}"` }]);
  const { name, publisher, version } = installer;
  const folder = join(parts.dataFolder, 'uploads', newId('source'));
  try {
    await packaging.source(folder, installer.id);
    const source = await store.archived(folder);
    return await begin(parts, store, newInstallation({ name, publisher, version }), source);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

function begin(
  parts: Parts,
  store: InstallationStore,
  installation: Installation,
  source?: MadeArchive,
): Promise<{ id: string }> {
  return change(
    parts,
    async () => {
      const id = await store.add(installation);
      if (source) await store.keepSource(id, source);
      return { id };
    },
    ({ id }) => installationNote(id, installation, ' was begun'),
  );
}

function sources(door: Door, parts: Parts, store: InstallationStore): void {
  // A form, not JSON, so it stands outside the checked endpoints.
  door.serveRaw(installationFileEndpoints.source, async ({ params, request }) => {
    const row = await store.row(params.id);
    const { id } = row;
    const folder = join(parts.dataFolder, 'uploads', newId('source'));
    try {
      const form = await readForm(request, folder, {
        source: { name: 'source.archive', maxBytes: MOST_BYTES },
      });
      const archive = form.files.get('source');
      if (archive === undefined) throw invalid([{ path: 'source', message: 'is missing; choose a file' }]);
      if (form.faults.length > 0) throw invalid(form.faults);
      const task = { archive, folder: join(folder, 'source'), out: store.unfinishedArchive() };
      const read = await sourceWork(parts, 'readUploadedSource', task).catch((error: unknown) => {
        rmSync(task.out, { force: true });
        throw error;
      });
      if (!('digest' in read)) throw invalid(read);
      await change(
        parts,
        () => store.keepSource(id, { path: task.out, ...read }),
        () => installationNote(id, row, ` has another source, ${read.files.toLocaleString('en-GB')} files`),
      );
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
    return DONE;
  });
}

/** What would come of it, and doing it. */
function carryingOut(door: Door, parts: Parts, store: InstallationStore): void {
  door.serve(installationEndpoints.forecast, async ({ params, body }) => {
    await store.row(params.id);
    const answer = await forecastInstallation(parts, store, params.id, body);
    return { ...answer, faults: answer.faults.map((fault) => ({ ...fault })) };
  });

  door.serve(installationEndpoints.begin, async ({ params }) => {
    const installation = await store.installation(params.id);
    const order = await refuseFaulty(parts, store, params.id, installation);
    for (const { id } of order) await store.forgetReports(id);
    const { name, version, hosts } = installation;
    return startJob(parts, params.id, 'install', `Install ${name} ${version} on ${hosts}`);
  });

  door.serve(installationEndpoints.removal, ({ params }) => forecastRemoval(parts, store, params.id));

  door.serve(installationEndpoints.takeAway, async ({ params }) => {
    await refuseAtWork(parts, params.id);
    const installation = await store.installation(params.id);
    const faults = installationFaults(installation);
    if (faults.length > 0) throw invalid(faults);
    await store.forgetReports(params.id);
    const { name, version, hosts } = installation;
    return startJob(parts, params.id, 'uninstall', `Remove ${name} ${version} from ${hosts}`);
  });

  door.serve(installationEndpoints.report, async ({ params }) => {
    await store.row(params.id);
    return store.reports(params.id);
  });
}

function installationNote(
  id: string,
  { name, version }: Pick<Installation, 'name' | 'version'>,
  text: string,
): Omit<Note, 'at'> {
  const title = name === '' ? 'An installation' : `The installation of ${name} ${version}`.trimEnd();
  const link = `/packages/installed/${id}`;
  return {
    kind: 'packages',
    subject: `installation:${id}`,
    text: title + text,
    link,
  };
}

async function startJob(
  { jobs }: Parts,
  id: string,
  kind: 'install' | 'uninstall',
  title: string,
): Promise<{ jobId: string }> {
  const input: InstallInput = { installationId: id };
  const jobId = await jobs.start({ kind, title, subject: `installation:${id}`, input });
  return { jobId };
}

async function refuseAtWork({ jobs }: Parts, id: string): Promise<void> {
  const job = await jobs.activeOn(`installation:${id}`);
  if (job) throw conflict(`“${job.title}” is at work; cancel it first`);
}

/** What will be installed, in order. */
async function refuseFaulty(
  parts: Parts,
  store: InstallationStore,
  id: string,
  installation: Installation,
): Promise<readonly KnownInstallation[]> {
  const { archive_digest } = await store.row(id);
  const order = await store.order(id, installation);
  const hosts = await hostsOf(parts, installation.hosts);
  const faults = [
    ...installationFaults(installation),
    ...(order.ok ? [] : order.error),
    ...(archive_digest === null
      ? [{ path: 'source', message: 'is missing; give the folder with its setup' }]
      : []),
    ...(hosts.length === 0 && installation.hosts.trim() !== ''
      ? [{ path: 'hosts', message: 'is the name of no host' }]
      : []),
  ];
  if (!order.ok || faults.length > 0) throw invalid(faults);
  return order.value;
}
