/** Packages, captures and containers: rows in the database, bytes in folders. */
import { X509Certificate } from 'node:crypto';
import { join } from 'node:path';
import type { Capture, CaptureState } from '@vatline/contract/capture';
import type {
  CheckFinding,
  PackageSummary,
  PackageVersion,
  PresentDelivery,
  SignInFacts,
} from '@vatline/contract/package';
import { compareVersionText } from '@vatline/core/version/text';
import type { ContainerFormat } from '@vatline/core/container/formats';
import { fromJson } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid, notFound } from '../platform/problem.ts';
import { packageUse } from './version-use.ts';
import { newestRuleRevision, USUAL_RULES } from './rule-sets.ts';
import type { CaptureRow, ContainerRow, VersionRow } from './tables.ts';

/** A version whose container nobody has signed or verified. */
export const unsigned = {
  certificate_id: null,
  signed_ms: null,
  signer_pem: null,
  verified_json: null,
  verified_ms: null,
} as const;

/** What was asked for when a capture began. */
export interface CaptureRequest {
  readonly installers: readonly string[];
  readonly quiet: boolean;
  readonly restarts: boolean;
}

export class PackageStore {
  constructor(private readonly parts: Pick<Parts, 'db' | 'dataFolder' | 'jobs' | 'estate'>) {}

  private get db() {
    return this.parts.db;
  }

  captureFolder(id: string): string {
    return join(this.parts.dataFolder, 'captures', id);
  }

  /** A file, or of an image layout a folder. */
  containerPath(digest: string): string {
    return join(this.parts.dataFolder, 'containers', digest);
  }

  async capture(id: string): Promise<CaptureRow> {
    const row = await this.db.selectFrom('capture').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such capture');
    return row;
  }

  async packageVersion(id: string): Promise<VersionRow> {
    const row = await this.db
      .selectFrom('package_version')
      .selectAll()
      .where('id', '=', id)
      .executeTakeFirst();
    if (!row) throw notFound('such package version');
    return row;
  }

  /** Those of the versions that there are. */
  packageVersions(ids: readonly string[]): Promise<VersionRow[]> {
    return this.db.selectFrom('package_version').selectAll().where('id', 'in', ids).execute();
  }

  /** Names with versions of what a capture installs; none for one that was brought. */
  async installerNames(capture: CaptureRow): Promise<string[]> {
    return namesOf(capture, await this.parts.estate.packaging.installers());
  }

  /** Adds a capture, to be judged by the usual rules where there are any. */
  async addCapture(
    row: Omit<CaptureRow, 'counts_json' | 'draft_json' | 'rules_name' | 'rules_revision'>,
  ): Promise<void> {
    const revision = await newestRuleRevision(this.db, USUAL_RULES);
    const rules = { rules_name: revision > 0 ? USUAL_RULES : '', rules_revision: revision };
    await this.db
      .insertInto('capture')
      .values({ ...row, ...rules, counts_json: null, draft_json: null })
      .execute();
  }

  async updateCapture(id: string, change: Partial<Omit<CaptureRow, 'id'>>): Promise<void> {
    await this.db.updateTable('capture').set(change).where('id', '=', id).execute();
  }

  async addPackage(row: {
    name: string;
    publisher: string;
    delivery: PresentDelivery;
    note: string;
  }): Promise<string> {
    const known = await this.db
      .selectFrom('package')
      .selectAll()
      .where('name', '=', row.name)
      .executeTakeFirst();
    if (known) {
      if (row.delivery === 'container')
        await this.db
          .updateTable('package')
          .set({ delivery: 'container' })
          .where('id', '=', known.id)
          .execute();
      return known.id;
    }
    const id = newId('package');
    await this.db
      .insertInto('package')
      .values({ id, ...row })
      .execute();
    return id;
  }

  async hasVersion(name: string, version: string): Promise<boolean> {
    const row = await this.db
      .selectFrom('package_version')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .select('package_version.id')
      .where('package.name', '=', name)
      .where('package_version.version', '=', version)
      .executeTakeFirst();
    return row !== undefined;
  }

  /** Adds a version, or finds the one that is there already; gives its id. */
  async addVersion(row: Omit<VersionRow, 'id'>): Promise<string> {
    await this.db
      .insertInto('package_version')
      .values({ id: newId('container'), ...row })
      .onConflict((c) => c.columns(['package_id', 'version']).doNothing())
      .execute();
    const { id } = await this.db
      .selectFrom('package_version')
      .select('id')
      .where('package_id', '=', row.package_id)
      .where('version', '=', row.version)
      .executeTakeFirstOrThrow();
    return id;
  }

  async addContainer(row: ContainerRow): Promise<void> {
    await this.db
      .insertInto('container')
      .values(row)
      .onConflict((c) => c.columns(['version_id', 'format']).doUpdateSet(row))
      .execute();
  }

  async hasContainer(versionId: string, format: ContainerFormat): Promise<boolean> {
    const row = await this.db
      .selectFrom('container')
      .select('digest')
      .where('version_id', '=', versionId)
      .where('format', '=', format)
      .executeTakeFirst();
    return row !== undefined;
  }

  async updateVersion(id: string, change: Partial<Omit<VersionRow, 'id'>>): Promise<void> {
    await this.db.updateTable('package_version').set(change).where('id', '=', id).execute();
  }

  /** Makes another container the one that hosts get. Throws when it was not built. */
  async choose(id: string, format: ContainerFormat): Promise<void> {
    const container = await this.db
      .selectFrom('container')
      .selectAll()
      .where('version_id', '=', id)
      .where('format', '=', format)
      .executeTakeFirst();
    if (!container) throw invalid([{ path: 'format', message: `No container of this format was built` }]);
    await this.updateVersion(id, {
      format,
      digest: container.digest,
      container_bytes: container.size_bytes,
      state: 'draft',
      share: null,
      sign_in_json: null,
      ...unsigned,
    });
  }

  async presentCapture(row: CaptureRow): Promise<Capture> {
    const activeJob = await this.parts.jobs.activeOn(`capture:${row.id}`);
    return presented(row, await this.installerNames(row), activeJob);
  }

  /** Every version by its name alone. */
  async named(): Promise<{ id: string; name: string; version: string }[]> {
    return this.db
      .selectFrom('package_version')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .select(['package_version.id', 'package.name', 'package_version.version'])
      .execute();
  }

  async versions(): Promise<PackageVersion[]> {
    const rows = await this.db
      .selectFrom('package_version')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .selectAll('package_version')
      .select(['package.name', 'package.publisher'])
      .execute();
    const containers = await this.containersByVersion();
    const signers = await this.signers();
    const needs = await packageUse(this.db);
    const blends = await this.db
      .selectFrom('pool')
      .innerJoin('blend', 'blend.id', 'pool.blend_id')
      .select(['pool.name', 'blend.packages_json'])
      .execute();
    const use = blends.map((blend) => ({
      pool: blend.name,
      ids: new Set(fromJson<string[]>(blend.packages_json)),
    }));
    const jobs = await this.parts.jobs.activeBySubject('package-version:');
    return rows
      .map((row) => ({
        id: row.id,
        activeJob: jobs.get(`package-version:${row.id}`) ?? null,
        packageId: row.package_id,
        name: row.name,
        publisher: row.publisher,
        version: row.version,
        state: row.state,
        format: row.format,
        digest: row.digest,
        containers: containers.get(row.id) ?? [],
        captureId: row.capture_id,
        signed: signatureOf(row, signers),
        verified:
          row.verified_json && row.verified_ms !== null
            ? { at: row.verified_ms, findings: fromJson<CheckFinding[]>(row.verified_json) }
            : null,
        files: row.files,
        sizeBytes: row.size_bytes,
        containerBytes: row.container_bytes,
        entryPoints: fromJson<PackageVersion['entryPoints']>(row.entry_points_json),
        details: fromJson<PackageVersion['details']>(row.details_json),
        builtAt: row.built_ms,
        usedBy: use.filter((u) => u.ids.has(row.id)).map((u) => u.pool),
        neededBy: needs.get(row.id) ?? [],
        share: row.share,
        signIn: row.sign_in_json === null ? null : fromJson<SignInFacts>(row.sign_in_json),
      }))
      .sort((a, b) => compareVersionText(b.version, a.version));
  }

  /** Name and end of every certificate, by id. */
  private async signers(): Promise<Map<string, Signer>> {
    const rows = await this.db.selectFrom('certificate').select(['id', 'name', 'chain_pem']).execute();
    return new Map(
      rows.map(({ id, name, chain_pem }) => [
        id,
        { name, validTo: Date.parse(new X509Certificate(chain_pem).validTo) },
      ]),
    );
  }

  private async containersByVersion(): Promise<Map<string, PackageVersion['containers']>> {
    const rows = await this.db.selectFrom('container').selectAll().orderBy('size_bytes').execute();
    const byVersion = new Map<string, PackageVersion['containers']>();
    for (const row of rows) {
      const list = byVersion.get(row.version_id) ?? [];
      list.push({
        format: row.format,
        digest: row.digest,
        bytes: row.size_bytes,
        seconds: row.seconds,
        builtAt: row.built_ms,
      });
      byVersion.set(row.version_id, list);
    }
    return byVersion;
  }

  /** Name and version. */
  async titleOf({ package_id, version }: Pick<VersionRow, 'package_id' | 'version'>): Promise<string> {
    const { name } = await this.db
      .selectFrom('package')
      .select('name')
      .where('id', '=', package_id)
      .executeTakeFirstOrThrow();
    return `${name} ${version}`;
  }

  /** Packages of which several versions may reach a person at once. */
  async sideBySide(): Promise<Set<string>> {
    const rows = await this.db.selectFrom('package').select('id').where('side_by_side', '=', 1).execute();
    return new Set(rows.map((row) => row.id));
  }

  /** How long building took for each byte of content, by format, over all that were built here. */
  async secondsPerByte(): Promise<Map<string, number>> {
    const rows = await this.db
      .selectFrom('container')
      .innerJoin('package_version', 'package_version.id', 'container.version_id')
      .select(({ fn }) => [
        'container.format',
        fn.sum<number>('container.seconds').as('seconds'),
        fn.sum<number>('package_version.size_bytes').as('bytes'),
      ])
      .where('container.seconds', '>', 0)
      .groupBy('container.format')
      .execute();
    return new Map(rows.map((row) => [row.format, row.seconds / Math.max(1, row.bytes)]));
  }

  async summaries(): Promise<PackageSummary[]> {
    const packages = await this.db.selectFrom('package').selectAll().orderBy('name').execute();
    const versions = await this.versions();
    const captures = await this.db.selectFrom('capture').selectAll().orderBy('created_ms', 'desc').execute();
    const installers = await this.parts.estate.packaging.installers();
    const jobs = await this.parts.jobs.activeBySubject('capture:');
    const lastCapture = new Map([...captures].reverse().map((row) => [row.package_name, row]));
    const known = new Set(packages.map((row) => row.name));
    const strays = [...lastCapture.keys()].filter((name) => !known.has(name));
    const rows = [
      ...packages,
      ...strays.map((name) => ({
        id: `new-${name}`,
        name,
        publisher: '',
        delivery: 'not packaged' as const,
        note: captureNotes[lastCapture.get(name)?.state ?? 'capturing'],
        side_by_side: 0,
        keep_versions: null,
      })),
    ];
    return rows.map((row) => {
      const own = versions.filter((version) => version.packageId === row.id);
      const newest = installers
        .filter((installer) => installer.name === row.name)
        .sort((a, b) => compareVersionText(b.version, a.version))[0];
      const isNewer = newest && own[0] && compareVersionText(newest.version, own[0].version) > 0;
      return {
        id: row.id,
        name: row.name,
        publisher: row.publisher,
        delivery: row.delivery,
        note: row.note,
        versions: own,
        captures: captures
          .filter((capture) => capture.package_name === row.name)
          .map((capture) =>
            presented(capture, namesOf(capture, installers), jobs.get(`capture:${capture.id}`) ?? null),
          ),
        waiting: isNewer ? newest.version : null,
        sideBySide: row.side_by_side === 1,
        keepVersions: row.keep_versions,
      };
    });
  }
}

function namesOf(
  { request_json }: CaptureRow,
  known: readonly { readonly id: string; readonly name: string; readonly version: string }[],
): string[] {
  return fromJson<CaptureRequest>(request_json).installers.map((id) => {
    const found = known.find((row) => row.id === id);
    return found ? `${found.name} ${found.version}` : id;
  });
}

/** What the library says of an application that has a capture and no version yet. */
const captureNotes: Record<CaptureState, string> = {
  capturing: 'being captured',
  ready: 'captured, no container built yet',
  packaged: 'captured, no container built yet',
  failed: 'its capture failed',
};

function presented(row: CaptureRow, installers: string[], activeJob: Capture['activeJob']): Capture {
  const { quiet } = fromJson<CaptureRequest>(row.request_json);
  return {
    id: row.id,
    name: row.package_name,
    source: row.source,
    installers,
    quiet,
    rules: row.rules_name === '' ? null : { name: row.rules_name, revision: row.rules_revision },
    state: row.state,
    createdAt: row.created_ms,
    counts: row.counts_json ? fromJson(row.counts_json) : null,
    proposal: fromJson(row.proposal_json),
    activeJob,
  };
}

interface Signer {
  readonly name: string;
  /** Milliseconds. */
  readonly validTo: number;
}

function signatureOf(
  { certificate_id, signed_ms }: Pick<VersionRow, 'certificate_id' | 'signed_ms'>,
  signers: ReadonlyMap<string, Signer>,
): PackageVersion['signed'] {
  const signer = certificate_id === null ? undefined : signers.get(certificate_id);
  if (certificate_id === null || signed_ms === null || !signer) return null;
  return { certificateId: certificate_id, at: signed_ms, ...signer };
}
