/** Installations and what came of them: rows in the database, archives in a folder. */
import { existsSync, mkdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { InstallationRow, InstallReport } from '@vatline/contract/installation';
import type { Installation } from '@vatline/core/installed/installation';
import { installationOrder } from '@vatline/core/installed/order';
import { ok, type Result } from '@vatline/core/result';
import { archiveFolder, type Archived } from '@vatline/files/archive-folder';
import { fromJson } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';
import type { InstallationDbRow as Row } from './tables.ts';

/** SQLite takes about 32,000 values in a statement. */
const REPORTS_AT_ONCE = 1000;

export interface KnownInstallation {
  readonly id: string;
  readonly installation: Installation;
}

/** An archive that is finished and lies where it was made. */
export interface MadeArchive extends Archived {
  readonly path: string;
}

export class InstallationStore {
  constructor(private readonly parts: Pick<Parts, 'db' | 'dataFolder' | 'jobs' | 'estate'>) {}

  async row(id: string): Promise<Row> {
    const row = await this.parts.db
      .selectFrom('installation')
      .selectAll()
      .where('id', '=', id)
      .executeTakeFirst();
    if (!row) throw notFound('such installation');
    return row;
  }

  async installation(id: string): Promise<Installation> {
    return fromJson<Installation>((await this.row(id)).installation_json);
  }

  async all(): Promise<KnownInstallation[]> {
    const rows = await this.parts.db.selectFrom('installation').selectAll().orderBy('name').execute();
    return rows.map((row) => ({ id: row.id, installation: fromJson<Installation>(row.installation_json) }));
  }

  async list(): Promise<InstallationRow[]> {
    const rows = await this.parts.db
      .selectFrom('installation')
      .selectAll()
      .orderBy('name')
      .orderBy('created_ms')
      .execute();
    const counts = await this.parts.db
      .selectFrom('install_report')
      .select(({ fn }) => ['installation_id', 'state', fn.countAll<number>().as('hosts')])
      .groupBy(['installation_id', 'state'])
      .execute();
    const jobs = await this.parts.jobs.activeBySubject('installation:');
    return rows.map((row) => ({
      id: row.id,
      installation: fromJson<InstallationRow['installation']>(row.installation_json),
      archive:
        row.archive_digest === null
          ? null
          : { digest: row.archive_digest, bytes: row.archive_bytes ?? 0, files: row.archive_files ?? 0 },
      createdAt: row.created_ms,
      revision: row.revision,
      counts: Object.fromEntries(
        counts.filter((one) => one.installation_id === row.id).map((one) => [one.state, one.hosts]),
      ),
      activeJob: jobs.get(`installation:${row.id}`) ?? null,
    }));
  }

  async add(installation: Installation): Promise<string> {
    const id = newId('installation');
    await this.parts.db
      .insertInto('installation')
      .values({
        id,
        name: installation.name,
        version: installation.version,
        installation_json: JSON.stringify(installation),
        archive_digest: null,
        archive_bytes: null,
        archive_files: null,
        created_ms: this.parts.estate.clock.now(),
      })
      .execute();
    return id;
  }

  /** Keeps a change; gives its revision. Throws a conflict when somebody kept another one meanwhile. */
  async keep(id: string, installation: Installation, basedOn: number): Promise<number> {
    const { name, version } = installation;
    return this.parts.db.transact(async () => {
      const row = await this.parts.db
        .selectFrom('installation')
        .select('revision')
        .where('id', '=', id)
        .executeTakeFirst();
      if (!row) throw notFound('such installation');
      refuseStale('installation', name || 'without a name', row.revision, basedOn);
      const revision = basedOn + 1;
      await this.parts.db
        .updateTable('installation')
        .set({ name, version, installation_json: JSON.stringify(installation), revision })
        .where('id', '=', id)
        .execute();
      return revision;
    });
  }

  async remove(id: string): Promise<void> {
    const { db } = this.parts;
    await db.deleteFrom('install_report').where('installation_id', '=', id).execute();
    const gone = await db.deleteFrom('installation').where('id', '=', id).executeTakeFirst();
    if (gone.numDeletedRows === 0n) throw notFound('such installation');
  }

  /** Deletes an archive that no installation has any more. */
  async clearArchive(digest: string | null): Promise<void> {
    if (digest === null) return;
    const other = await this.parts.db
      .selectFrom('installation')
      .select('id')
      .where('archive_digest', '=', digest)
      .executeTakeFirst();
    if (!other) rmSync(this.archivePath(digest), { force: true });
  }

  archivePath(digest: string): string {
    return join(this.parts.dataFolder, 'archives', `${digest}.tar.gz`);
  }

  /** Makes one archive of a source folder; the same folder gives the same archive. */
  async archived(folder: string): Promise<MadeArchive> {
    const path = this.unfinishedArchive();
    return { path, ...(await archiveFolder(folder, path)) };
  }

  /** Where an archive is made before it is kept; a name of its own, since two may be made at once. */
  unfinishedArchive(): string {
    const archives = join(this.parts.dataFolder, 'archives');
    mkdirSync(archives, { recursive: true });
    return join(archives, `${newId('making')}.part`);
  }

  /** Keeps a finished archive as the source of an installation. */
  async keepSource(id: string, { path, digest, bytes, files }: MadeArchive): Promise<void> {
    if (existsSync(this.archivePath(digest))) rmSync(path);
    else renameSync(path, this.archivePath(digest));
    await this.parts.db
      .updateTable('installation')
      .set({ archive_digest: digest, archive_bytes: bytes, archive_files: files })
      .where('id', '=', id)
      .execute();
  }

  async reports(id: string): Promise<InstallReport[]> {
    const rows = await this.parts.db
      .selectFrom('install_report')
      .leftJoin('host', 'host.name', 'install_report.host')
      .leftJoin('pool', 'pool.id', 'host.pool_id')
      .selectAll('install_report')
      .select('pool.name as pool')
      .where('installation_id', '=', id)
      .orderBy('install_report.host')
      .execute();
    return rows.map(({ host, pool, state, code, why, at_ms }) => ({
      host,
      pool: pool ?? '',
      state,
      code,
      why,
      at: at_ms,
    }));
  }

  /** One report a host; the newest counts. */
  async setReports(id: string, reports: readonly Omit<InstallReport, 'pool'>[]): Promise<void> {
    for (let i = 0; i < reports.length; i += REPORTS_AT_ONCE)
      await this.parts.db
        .insertInto('install_report')
        .values(
          reports.slice(i, i + REPORTS_AT_ONCE).map(({ host, state, code, why, at }) => ({
            installation_id: id,
            host,
            state,
            code,
            why,
            at_ms: at,
          })),
        )
        .onConflict((conflict) =>
          conflict.columns(['installation_id', 'host']).doUpdateSet(({ ref }) => ({
            state: ref('excluded.state'),
            code: ref('excluded.code'),
            why: ref('excluded.why'),
            at_ms: ref('excluded.at_ms'),
          })),
        )
        .execute();
  }

  /** The job ended before the agents of these hosts began. */
  async cancelWaiting(id: string): Promise<void> {
    await this.parts.db
      .updateTable('install_report')
      .set({ state: 'cancelled', why: 'the job ended before its agent began' })
      .where('installation_id', '=', id)
      .where('state', '=', 'waiting')
      .execute();
  }

  /** An installation as it is or would be, itself last, after those that it needs. Errors as of `installationOrder`. */
  async order(id: string, installation: Installation): Promise<Result<KnownInstallation[]>> {
    const others = (await this.all()).filter((row) => row.id !== id);
    const idOf = new Map([...others, { id, installation }].map((row) => [row.installation, row.id]));
    const order = installationOrder(
      installation,
      others.map((row) => row.installation),
    );
    return order.ok ? ok(order.value.map((one) => ({ id: idOf.get(one) ?? id, installation: one }))) : order;
  }

  async forgetReports(id: string): Promise<void> {
    await this.parts.db.deleteFrom('install_report').where('installation_id', '=', id).execute();
  }
}
