/** Versions of image lines in the database, their inventories on disk. */
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import type { ImageVersion } from '@vatline/contract/image';
import type { VersionState } from '@vatline/core/image/version-state';
import type { Role } from '@vatline/core/roles';
import { dyeOfVersion } from '@vatline/core/dye/dyes';
import type { Hardware } from '@vatline/core/image/hardware';
import type { ApplicationEntry, Entry } from '@vatline/core/inventory/entry';
import { inventoryHeader } from '@vatline/core/inventory/text';
import { saveInventory } from '@vatline/files/inventory-file';
import { fromJson } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { indexApplications } from './application-index.ts';
import { inventoryWork } from './inventory-work.ts';
import type { LineStore } from './lines.ts';
import type { VersionRow } from './tables.ts';
import { hostUse, versionUse } from './version-use.ts';

/** An inventory that is on disk already, with what is asked of it again and again. */
export interface KeptInventory {
  readonly file: string;
  readonly applications: readonly ApplicationEntry[];
}

export class VersionStore {
  constructor(
    private readonly parts: Pick<Parts, 'db' | 'dataFolder' | 'workers'>,
    private readonly lines: LineStore,
  ) {}

  private get db() {
    return this.parts.db;
  }

  async get(id: string): Promise<VersionRow> {
    const row = await this.db.selectFrom('image_version').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such image version');
    return row;
  }

  /** All versions that are there, newest first within their line, with where each is in use. */
  async all(): Promise<ImageVersion[]> {
    const rows = await this.db
      .selectFrom('image_version')
      .selectAll()
      .where('gone_ms', 'is', null)
      .orderBy('line_id')
      .orderBy('number', 'desc')
      .execute();
    const use = await hostUse(this.db);
    const needed = await this.neededBy();
    const changes = await this.db.selectFrom('version_change').selectAll().orderBy('id', 'desc').execute();
    return rows.map((row) => ({
      id: row.id,
      lineId: row.line_id,
      number: row.number,
      dye: row.dye,
      state: row.state,
      note: row.note,
      recipeRevision: row.recipe_revision,
      cutAt: row.cut_ms,
      jobId: row.job_id,
      hardware: row.hardware_json === null ? null : fromJson<Hardware>(row.hardware_json),
      sizeBytes: row.size_bytes,
      changes: changes
        .filter((change) => change.version_id === row.id)
        .map(({ state, by_role, note, at_ms }) => ({
          state,
          by: by_role,
          note,
          at: at_ms,
        })),
      neededBy: needed.get(row.id) ?? [],
      usedBy: use.filter((u) => u.versionId === row.id).map(({ pool, hosts }) => ({ pool, hosts })),
    }));
  }

  /** What needs each version, by its id. */
  neededBy(): Promise<Map<string, string[]>> {
    return versionUse(this.db);
  }

  /** Records a captured image as the next version of its line. */
  async add(version: {
    lineId: string;
    number?: number;
    note: string;
    state?: ImageVersion['state'];
    recipeRevision: number;
    imageId: string;
    inventory: KeptInventory;
    sizeBytes: number;
    jobId?: string;
    hardware?: Hardware;
    at: number;
  }): Promise<VersionRow> {
    const line = await this.lines.get(version.lineId);
    // One transaction, so that two at once get two numbers and none is there without its applications.
    return this.db.transact(async () => {
      const last = await this.db
        .selectFrom('image_version')
        .select(({ fn }) => fn.max('number').as('n'))
        .where('line_id', '=', line.id)
        .executeTakeFirst();
      const number = version.number ?? Number(last?.n ?? 0) + 1;
      const row: VersionRow = {
        id: newId('version'),
        line_id: line.id,
        number,
        dye: dyeOfVersion(number, line.dye_offset),
        state: version.state ?? 'draft',
        note: version.note,
        recipe_revision: version.recipeRevision,
        image_id: version.imageId,
        inventory: version.inventory.file,
        size_bytes: version.sizeBytes,
        cut_ms: version.at,
        gone_ms: null,
        indexed: 0,
        job_id: version.jobId ?? null,
        hardware_json: version.hardware ? JSON.stringify(version.hardware) : null,
      };
      await this.db.insertInto('image_version').values(row).execute();
      await indexApplications(this.db, row.id, version.inventory.applications);
      return row;
    });
  }

  /** Whether a captured image is a version already. */
  async isRecorded(imageId: string): Promise<boolean> {
    const row = await this.db
      .selectFrom('image_version')
      .select('id')
      .where('image_id', '=', imageId)
      .executeTakeFirst();
    return row !== undefined;
  }

  /** Sets the state of a version and keeps who did it. */
  async setState(
    id: string,
    state: VersionState,
    by: Role | 'schedule',
    note: string,
    at: number,
  ): Promise<ImageVersion> {
    await this.get(id);
    await this.db.transact(async () => {
      await this.db.updateTable('image_version').set({ state }).where('id', '=', id).execute();
      await this.db
        .insertInto('version_change')
        .values({ version_id: id, state, by_role: by, note, at_ms: at })
        .execute();
    });
    const version = (await this.all()).find((row) => row.id === id);
    if (!version) throw notFound('such image version');
    return version;
  }

  async markGone(id: string, at: number): Promise<void> {
    await this.db.updateTable('image_version').set({ gone_ms: at }).where('id', '=', id).execute();
  }

  /** Reads what versions hold that were made before that was kept. */
  async indexOlder(): Promise<void> {
    const rows = await this.db
      .selectFrom('image_version')
      .select(['id', 'inventory'])
      .where('indexed', '=', 0)
      .where('gone_ms', 'is', null)
      .execute();
    for (const row of rows) {
      const applications = await inventoryWork(this.parts, 'applicationsIn', this.inventoryFile(row));
      await this.db.transact(() => indexApplications(this.db, row.id, applications));
    }
  }

  /** Where the inventory of a version lies. */
  inventoryFile(version: Pick<VersionRow, 'inventory'>): string {
    return join(this.inventoryFolder, version.inventory);
  }

  get inventoryFolder(): string {
    return join(this.parts.dataFolder, 'inventories');
  }

  /** Writes the inventory of a captured machine under the digest of its content. */
  keepInventory(root: string, entries: readonly Entry[], at: number): KeptInventory {
    const file = `${createHash('sha256').update(JSON.stringify(entries)).digest('hex')}.jsonl`;
    saveInventory(join(this.inventoryFolder, file), inventoryHeader(root, at, false), entries);
    return { file, applications: entries.filter((entry) => entry.kind === 'application') };
  }
}
