/** Versions of packages in the database. */
import { X509Certificate } from 'node:crypto';
import type { CheckFinding, PackageVersion, SignInFacts } from '@vatline/contract/package';
import { compareVersionText } from '@vatline/core/version/text';
import type { EntryPoint } from '@vatline/core/container/manifest';
import { fromJson } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { addEntryPoints, entryPointsByVersion, type LastingEntryPoint } from './entry-points.ts';
import type { VersionRow } from './tables.ts';
import { packageUse } from './version-use.ts';

/** A version whose container nobody has signed or verified. */
export const unsigned = {
  certificate_id: null,
  signed_ms: null,
  signer_pem: null,
  verified_json: null,
  verified_ms: null,
} as const;

function presentEntryPoint({
  associations,
  protocols,
  ...entry
}: LastingEntryPoint): PackageVersion['entryPoints'][number] {
  return {
    ...entry,
    ...(associations ? { associations: [...associations] } : {}),
    ...(protocols ? { protocols: [...protocols] } : {}),
  };
}

export class PackageVersionStore {
  /** Ends of certificates by id: a certificate never changes, and reading one takes a while. */
  private readonly ends = new Map<string, number>();

  constructor(private readonly parts: Pick<Parts, 'db' | 'jobs' | 'estate'>) {}

  private get db() {
    return this.parts.db;
  }

  async get(id: string): Promise<VersionRow> {
    const row = await this.db
      .selectFrom('package_version')
      .selectAll()
      .where('id', '=', id)
      .executeTakeFirst();
    if (!row) throw notFound('such package version');
    return row;
  }

  /** Those of the versions that there are. */
  some(ids: readonly string[]): Promise<VersionRow[]> {
    return this.db.selectFrom('package_version').selectAll().where('id', 'in', ids).execute();
  }

  /** Every version by its name alone. */
  async named(): Promise<{ id: string; name: string; version: string }[]> {
    return this.db
      .selectFrom('package_version')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .select(['package_version.id', 'package.name', 'package_version.version'])
      .execute();
  }

  all(): Promise<PackageVersion[]> {
    return this.ofPackages();
  }

  /** Versions as the API gives them, newest first; those of some packages, or all. */
  async ofPackages(packageIds?: readonly string[]): Promise<PackageVersion[]> {
    const all = this.db
      .selectFrom('package_version')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .selectAll('package_version')
      .select(['package.name', 'package.publisher']);
    const rows = await (packageIds ? all.where('package_id', 'in', packageIds) : all).execute();
    const containers = await this.containersByVersion();
    const signers = await this.signers();
    const needs = await packageUse(this.parts);
    const use = await this.db
      .selectFrom('pool')
      .innerJoin('blend_package', 'blend_package.blend_id', 'pool.blend_id')
      .select(['pool.name as pool', 'package_version_id as version'])
      .execute();
    const entryPoints = await entryPointsByVersion(this.db);
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
        entryPoints: (entryPoints.get(row.id) ?? []).map(presentEntryPoint),
        details: fromJson<PackageVersion['details']>(row.details_json),
        builtAt: row.built_ms,
        usedBy: use.filter(({ version }) => version === row.id).map(({ pool }) => pool),
        neededBy: needs.get(row.id) ?? [],
        share: row.share,
        signIn: row.sign_in_json === null ? null : fromJson<SignInFacts>(row.sign_in_json),
      }))
      .sort((a, b) => compareVersionText(b.version, a.version));
  }

  async has(name: string, version: string): Promise<boolean> {
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
  add(row: Omit<VersionRow, 'id'>, entryPoints: readonly EntryPoint[]): Promise<string> {
    return this.db.transact(async () => {
      const there = await this.db
        .selectFrom('package_version')
        .select('id')
        .where('package_id', '=', row.package_id)
        .where('version', '=', row.version)
        .executeTakeFirst();
      if (there) return there.id;
      const id = newId('container');
      await this.db
        .insertInto('package_version')
        .values({ id, ...row })
        .execute();
      await addEntryPoints(this.db, { id, package_id: row.package_id }, entryPoints);
      return id;
    });
  }

  async update(id: string, change: Partial<Omit<VersionRow, 'id'>>): Promise<void> {
    await this.db.updateTable('package_version').set(change).where('id', '=', id).execute();
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

  /** Name and end of every certificate, by id. */
  private async signers(): Promise<Map<string, Signer>> {
    const rows = await this.db.selectFrom('certificate').select(['id', 'name', 'chain_pem']).execute();
    return new Map(
      rows.map(({ id, name, chain_pem }) => {
        const validTo = this.ends.get(id) ?? Date.parse(new X509Certificate(chain_pem).validTo);
        this.ends.set(id, validTo);
        return [id, { name, validTo }];
      }),
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
