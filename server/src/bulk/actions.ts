/** The rows of a bulk request: what each is called, and how it is done. */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import type { BulkRequest } from '@vatline/contract/bulk';
import { manifestSchema } from '@vatline/contract/manifest';
import { formatNames, type ContainerFormat } from '@vatline/core/container/formats';
import { verdictsOn } from '@vatline/core/package/verdict';
import { assign } from '../access/assignments.ts';
import { captureSteps } from '../package/capture-jobs.ts';
import { newCapture } from '../package/new-capture.ts';
import { readJudged } from '../package/judged.ts';
import type { CertificateStore } from '../package/certificates.ts';
import { packSteps, settle } from '../package/pack-job.ts';
import type { PackageStore } from '../package/store.ts';
import { signVersion } from '../package/sign-version.ts';
import { containerWork } from '../package/work.ts';
import type { JobContext } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, notFound } from '../platform/problem.ts';

export interface BulkParts {
  readonly parts: Parts;
  readonly packages: PackageStore;
  readonly certificates: CertificateStore;
}

export interface BulkRow {
  readonly what: string;
  /** Does it, and says in a few words what came of it. Throws a refusal. */
  run(context: JobContext): Promise<string>;
}

export async function rowsOf(bulk: BulkParts, request: BulkRequest): Promise<BulkRow[]> {
  switch (request.action) {
    case 'draft':
      return request.rows.map(({ name, version }) => ({
        what: `${name} ${version}`,
        run: (context) => makeDraft(bulk, context, name, version),
      }));
    case 'assign':
      return request.rows.map((row) => ({
        what: `${row.package} to ${row.group} on ${row.pool}`,
        run: () => assignRow(bulk, row),
      }));
    case 'sign':
      return versionRows(bulk, request.versionIds, async (id) => {
        await signVersion(bulk.parts, bulk.packages, bulk.certificates, id, request.certificateId);
        return `signed by ${(await bulk.certificates.row(request.certificateId)).name}`;
      });
    default:
      return versionRows(bulk, request.versionIds, (id) => convert(bulk, id, request.format));
  }
}

async function versionRows(
  { packages }: BulkParts,
  ids: readonly string[],
  run: (id: string) => Promise<string>,
): Promise<BulkRow[]> {
  const versions = await packages.versions.named();
  return ids.map((id) => {
    const version = versions.find((row) => row.id === id);
    return { what: version ? `${version.name} ${version.version}` : id, run: () => run(id) };
  });
}

/** Captures an installer of the library, and packs what was guessed, with its updater off. */
async function makeDraft(
  { parts, packages }: BulkParts,
  context: JobContext,
  name: string,
  version: string,
): Promise<string> {
  const installers = await parts.estate.packaging.installers();
  const installer = installers.find((row) => row.name === name && row.version === version);
  if (!installer) {
    const others = installers.filter((row) => row.name === name).map((row) => row.version);
    throw notFound(
      others.length > 0
        ? `${name} ${version} in the library; it has ${others.join(', ')}`
        : `${name} in the library`,
    );
  }
  if (await packages.versions.has(name, version)) throw conflict('It is packaged already');
  const request = { installers: [installer.id], quiet: true, restarts: true };
  const input = await newCapture(parts, packages, request);
  for (const step of captureSteps(parts, packages, input)) await step.run(context);
  const { findings, guess } = readJudged(packages.captures.folder(input.captureId));
  const verdict = verdictsOn(findings).find((row) => row.delivery === 'container');
  if (verdict?.suitability === 'does not suit')
    throw conflict(`It does not suit a container: ${verdict.reasons[0]?.text ?? ''}; its capture is kept`);
  const manifest = manifestSchema.safeParse(JSON.parse(JSON.stringify(guess.manifest)));
  if (!manifest.success)
    throw conflict('Its manifest could not be guessed; fill it in by hand in its capture');
  const pack = {
    captureId: input.captureId,
    manifest: manifest.data,
    updatersOff: true,
    formats: ['squashfs'] as const,
  };
  for (const step of packSteps(parts, packages, pack)) await step.run(context);
  const care = verdict?.reasons.filter((reason) => reason.finding !== 'updater') ?? [];
  return care[0] ? `draft made; with care: ${care[0].text}` : 'draft made';
}

async function assignRow(
  { parts }: BulkParts,
  row: { readonly package: string; readonly group: string; readonly pool: string },
): Promise<string> {
  const pool = await parts.db.selectFrom('pool').select('id').where('name', '=', row.pool).executeTakeFirst();
  if (!pool) throw notFound(`pool ${row.pool}`);
  const known = await parts.db
    .selectFrom('package')
    .select('id')
    .where('name', '=', row.package)
    .executeTakeFirst();
  if (!known) throw notFound(`package ${row.package}`);
  const { users } = await assign(parts, {
    group: row.group,
    poolId: pool.id,
    target: { kind: 'package', id: known.id },
  });
  return `assigned, which reaches ${users} ${users === 1 ? 'person' : 'people'}`;
}

/** Builds another format beside what there is; which one hosts get stays as it is. */
async function convert({ parts, packages }: BulkParts, id: string, format: ContainerFormat): Promise<string> {
  const version = await packages.versions.get(id);
  if (await packages.containers.has(id, format))
    throw conflict(`It has a container of this format: ${formatNames[format]}`);
  const out = join(parts.dataFolder, 'containers', `converting-${id}`);
  for (const ending of ['', '.cdx.json']) rmSync(out + ending, { recursive: true, force: true });
  const started = performance.now();
  const packed = await containerWork(parts, 'convertContainer', {
    from: packages.containers.path(version.digest),
    out,
    format,
  });
  settle(out, packages.containers.path(packed.sha256));
  await packages.containers.add({
    version_id: id,
    format,
    digest: packed.sha256,
    size_bytes: packed.bytesOut,
    seconds: Math.round(performance.now() - started) / 1000,
    built_ms: parts.estate.clock.now(),
  });
  return `${formatNames[format]} of ${(packed.bytesOut / 1e6).toFixed(1)} MB built beside it`;
}
