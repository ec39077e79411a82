/** Image lines, recipes, checkpoints and versions in the database. */
import { join } from 'node:path';
import {
  sourcesSchema,
  type ImageVersion,
  type LineDetail,
  type LineRevision,
  type LineSummary,
  type Role,
  type VersionState,
} from '@vatline/contract/image';
import { compareVersionText } from '@vatline/core/version/text';
import { dyeOfVersion } from '@vatline/core/dye/dyes';
import { expandRecipe, type FragmentLibrary } from '@vatline/core/image/fragments';
import type { Hardware } from '@vatline/core/image/hardware';
import { machineName } from '@vatline/core/image/machine-name';
import type { Step } from '@vatline/core/image/recipe';
import type { StepRun } from '@vatline/core/image/build-history';
import { must } from '@vatline/core/result';
import type { ApplicationEntry, Entry } from '@vatline/core/inventory/entry';
import { inventoryHeader } from '@vatline/core/inventory/text';
import { saveInventory } from '@vatline/files/inventory-file';
import { createHash } from 'node:crypto';
import { fromJson } from '../platform/database.ts';
import { indexApplications } from './application-index.ts';
import { CHECKPOINT_BUDGET_BYTES, CheckpointStore } from './checkpoint-store.ts';
import { filledSheets } from '../option-sheet/store.ts';
import { fragmentLibrary } from './fragment-store.ts';
import { newId } from '../platform/ids.ts';
import { inventoryWork } from './inventory-work.ts';
import { machineFacts, poolsOf } from './line-facts.ts';
import { hostUse, versionUse } from './version-use.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';
import type { LineRow, VersionRow } from './tables.ts';

/** An inventory that is on disk already, with what is asked of it again and again. */
export interface KeptInventory {
  readonly file: string;
  readonly applications: readonly ApplicationEntry[];
}

/** A revision of a recipe: as it was written, and with the steps of its fragments in their place. */
export interface KeptRecipe {
  readonly steps: Step[];
  readonly expanded: readonly Step[];
  readonly hardware: Hardware;
}

export class ImageStore {
  readonly checkpoints: CheckpointStore;

  constructor(private readonly parts: Pick<Parts, 'db' | 'dataFolder' | 'jobs' | 'estate' | 'workers'>) {
    this.checkpoints = new CheckpointStore(parts);
  }

  private get db() {
    return this.parts.db;
  }

  async line(id: string): Promise<LineRow> {
    const row = await this.db.selectFrom('image_line').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such image line');
    return row;
  }

  async version(id: string): Promise<VersionRow> {
    const row = await this.db.selectFrom('image_version').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such image version');
    return row;
  }

  /** Every revision of every fragment. */
  library(): Promise<FragmentLibrary> {
    return fragmentLibrary(this.db);
  }

  async recipe(lineId: string, revision: number): Promise<KeptRecipe> {
    const row = await this.db
      .selectFrom('recipe')
      .selectAll()
      .where('line_id', '=', lineId)
      .where('revision', '=', revision)
      .executeTakeFirstOrThrow();
    const steps = fromJson<Step[]>(row.steps_json);
    const { steps: expanded } = must(expandRecipe(steps, await this.library()));
    return { steps, expanded, hardware: fromJson(row.hardware_json) };
  }

  /** The recipe of every line as it is written now. */
  async currentRecipes(): Promise<{ lineId: string; line: string; steps: Step[] }[]> {
    const rows = await this.db
      .selectFrom('image_line')
      .innerJoin('recipe', (join) =>
        join
          .onRef('recipe.line_id', '=', 'image_line.id')
          .onRef('recipe.revision', '=', 'image_line.recipe_revision'),
      )
      .select(['image_line.id as lineId', 'image_line.name as line', 'recipe.steps_json as steps'])
      .orderBy('image_line.created_ms')
      .execute();
    return rows.map((row) => ({ ...row, steps: fromJson<Step[]>(row.steps) }));
  }

  /** The newest hundred revisions of a line's recipe, newest first, with the versions that were cut from each. */
  async revisions(lineId: string): Promise<LineRevision[]> {
    const rows = await this.db
      .selectFrom('recipe')
      .selectAll()
      .where('line_id', '=', lineId)
      .orderBy('revision', 'desc')
      .limit(100)
      .execute();
    const versions = await this.db
      .selectFrom('image_version')
      .select(['number', 'recipe_revision'])
      .where('line_id', '=', lineId)
      .orderBy('number')
      .execute();
    return rows.map((row) => ({
      revision: row.revision,
      createdAt: row.created_ms,
      steps: fromJson(row.steps_json),
      hardware: fromJson(row.hardware_json),
      versions: versions.filter((v) => v.recipe_revision === row.revision).map((v) => v.number),
    }));
  }

  async summaries(): Promise<LineSummary[]> {
    const lines = await this.db
      .selectFrom('image_line')
      .selectAll()
      .orderBy('created_ms')
      .orderBy('name')
      .execute();
    const versions = await this.versions();
    return Promise.all(
      lines.map((line) =>
        this.summary(
          line,
          versions.filter((v) => v.lineId === line.id),
        ),
      ),
    );
  }

  private async summary(line: LineRow, versions: ImageVersion[]): Promise<LineSummary> {
    const { steps } = await this.recipe(line.id, line.recipe_revision);
    return {
      id: line.id,
      name: line.name,
      purpose: line.purpose,
      recipeRevision: line.recipe_revision,
      steps: steps.length,
      versions,
      activeJob: await this.parts.jobs.activeOn(`line:${line.id}`),
      forkedFrom: line.forked_from,
    };
  }

  async detail(id: string): Promise<LineDetail> {
    const line = await this.line(id);
    const versions = (await this.versions()).filter((version) => version.lineId === id);
    const recipe = await this.recipe(id, line.recipe_revision);
    const lastRevision = versions.find((version) => version.recipeRevision > 0)?.recipeRevision;
    const lastCut = lastRevision === undefined ? undefined : await this.recipe(id, lastRevision);
    return {
      ...(await this.summary(line, versions)),
      hardware: recipe.hardware,
      recipe: recipe.steps,
      machine: (await machineFacts(this.parts, line)) ?? null,
      fragments: Object.fromEntries([...(await this.library())].map(([key, steps]) => [key, [...steps]])),
      checkpoints: await this.checkpoints.kept(id),
      checkpointBudgetBytes: line.checkpoint_budget_bytes,
      runs: await this.runs(id),
      handNotes: await this.handNotes(id),
      lastCutRecipe: lastCut?.steps ?? [],
      jobs: await this.parts.jobs.newest(`line:${id}`, 20),
      sources: sourcesSchema.parse(await this.parts.estate.sources.current()),
      optionSheets: await filledSheets(this.db),
      pools: await poolsOf(this.parts, id),
      checksOff: await this.checksOff(id),
      keepVersions: line.keep_versions,
    };
  }

  async checksOff(lineId: string): Promise<LineDetail['checksOff']> {
    return this.db
      .selectFrom('check_off')
      .select(['check_id as id', 'reason', 'at_ms as at'])
      .where('line_id', '=', lineId)
      .orderBy('check_id')
      .execute();
  }

  async switchCheckOff(lineId: string, checkId: string, reason: string, at: number): Promise<void> {
    await this.db
      .insertInto('check_off')
      .values({ line_id: lineId, check_id: checkId, reason, at_ms: at })
      .onConflict((c) => c.columns(['line_id', 'check_id']).doUpdateSet({ reason, at_ms: at }))
      .execute();
  }

  async switchCheckOn(lineId: string, checkId: string): Promise<void> {
    await this.db
      .deleteFrom('check_off')
      .where('line_id', '=', lineId)
      .where('check_id', '=', checkId)
      .execute();
  }

  /** All versions that are there, newest first within their line, with where each is in use. */
  async versions(): Promise<ImageVersion[]> {
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

  /** Runs of steps in past builds, newest first. */
  async runs(lineId: string): Promise<StepRun[]> {
    return this.db
      .selectFrom('step_duration')
      .select(['identity', 'minutes', 'at_ms as at', 'build'])
      .where('line_id', '=', lineId)
      .orderBy('id', 'desc')
      .limit(2_000)
      .execute();
  }

  async saveRun(lineId: string, { identity, minutes, at, build }: StepRun): Promise<void> {
    await this.db
      .insertInto('step_duration')
      .values({ line_id: lineId, identity, minutes, at_ms: at, build })
      .execute();
  }

  async handNotes(lineId: string): Promise<{ text: string; at: number }[]> {
    return this.db
      .selectFrom('hand_note')
      .select(['text', 'at_ms as at'])
      .where('line_id', '=', lineId)
      .orderBy('id', 'desc')
      .limit(50)
      .execute();
  }

  async addHandNote(lineId: string, text: string, at: number): Promise<void> {
    await this.db.insertInto('hand_note').values({ line_id: lineId, text, at_ms: at }).execute();
  }

  async setMachine(lineId: string, machineId: string, key: string | null): Promise<void> {
    await this.db
      .updateTable('image_line')
      .set({ machine_id: machineId, machine_key: key })
      .where('id', '=', lineId)
      .execute();
  }

  async createLine(line: {
    name: string;
    purpose: string;
    hardware: Hardware;
    steps?: readonly Step[];
    dyeOffset?: number;
    forkedFrom?: string;
    at: number;
  }): Promise<string> {
    const id = newId('line');
    await this.db.transaction().execute(async (tx) => {
      const others = await tx.selectFrom('image_line').select('machine_name').execute();
      const machines = new Set(others.map((other) => other.machine_name));
      await tx
        .insertInto('image_line')
        .values({
          id,
          name: line.name,
          purpose: line.purpose,
          hardware_json: JSON.stringify(line.hardware),
          recipe_revision: 1,
          machine_name: machineName(line.name, machines),
          machine_id: null,
          machine_key: null,
          dye_offset: line.dyeOffset ?? others.length * 5,
          created_ms: line.at,
          keep_versions: null,
          forked_from: line.forkedFrom ?? null,
          checkpoint_budget_bytes: CHECKPOINT_BUDGET_BYTES,
        })
        .execute();
      await tx
        .insertInto('recipe')
        .values({
          line_id: id,
          revision: 1,
          steps_json: JSON.stringify(line.steps ?? []),
          hardware_json: JSON.stringify(line.hardware),
          created_ms: line.at,
        })
        .execute();
    });
    return id;
  }

  /**
   * Keeps a new revision of the recipe. Throws a conflict when it is no longer the next one after
   * what the change is based on.
   */
  async addRevision(
    lineId: string,
    steps: readonly Step[],
    hardware: Hardware,
    at: number,
    basedOn?: number,
  ): Promise<number> {
    const line = await this.line(lineId);
    return this.db.transaction().execute(async (tx) => {
      const { recipe_revision: kept } = await tx
        .selectFrom('image_line')
        .select('recipe_revision')
        .where('id', '=', lineId)
        .executeTakeFirstOrThrow();
      refuseStale('recipe', line.name, kept, basedOn ?? kept);
      const revision = kept + 1;
      const hardware_json = JSON.stringify(hardware);
      await tx
        .insertInto('recipe')
        .values({
          line_id: lineId,
          revision,
          steps_json: JSON.stringify(steps),
          hardware_json,
          created_ms: at,
        })
        .execute();
      await tx
        .updateTable('image_line')
        .set({ recipe_revision: revision, hardware_json })
        .where('id', '=', lineId)
        .execute();
      return revision;
    });
  }

  /** Records a captured image as the next version of its line. */
  async addVersion(version: {
    lineId: string;
    number?: number;
    note: string;
    state?: ImageVersion['state'];
    recipeRevision: number;
    imageId: string;
    inventory: readonly Entry[] | KeptInventory;
    sizeBytes: number;
    jobId?: string;
    hardware?: Hardware;
    at: number;
  }): Promise<VersionRow> {
    const line = await this.line(version.lineId);
    const kept =
      'file' in version.inventory
        ? version.inventory
        : this.saveInventory(line.name, version.inventory, version.at);
    // One transaction, so that two at once get two numbers and none is there without its applications.
    return this.db.transaction().execute(async (tx) => {
      const known = await tx
        .selectFrom('image_version')
        .selectAll()
        .where('image_id', '=', version.imageId)
        .executeTakeFirst();
      if (known) return known;
      const last = await tx
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
        inventory: kept.file,
        size_bytes: version.sizeBytes,
        cut_ms: version.at,
        gone_ms: null,
        indexed: 0,
        job_id: version.jobId ?? null,
        hardware_json: version.hardware ? JSON.stringify(version.hardware) : null,
      };
      await tx.insertInto('image_version').values(row).execute();
      await indexApplications(tx, row.id, kept.applications);
      return row;
    });
  }

  get inventoryFolder(): string {
    return join(this.parts.dataFolder, 'inventories');
  }

  /** Writes an inventory under the digest of its content and gives its file name. */
  private saveInventory(root: string, entries: readonly Entry[], at: number): KeptInventory {
    const file = `${createHash('sha256').update(JSON.stringify(entries)).digest('hex')}.jsonl`;
    saveInventory(join(this.inventoryFolder, file), inventoryHeader(root, at, false), entries);
    return { file, applications: entries.filter((entry) => entry.kind === 'application') };
  }

  /** Where the inventory of a version lies. */
  inventoryFile(version: Pick<VersionRow, 'inventory'>): string {
    return join(this.inventoryFolder, version.inventory);
  }

  /** Reads what versions hold that were made before that was kept. */
  async indexOlderVersions(): Promise<void> {
    const rows = await this.db
      .selectFrom('image_version')
      .select(['id', 'inventory'])
      .where('indexed', '=', 0)
      .where('gone_ms', 'is', null)
      .execute();
    for (const row of rows) {
      const applications = await inventoryWork(this.parts, 'applicationsIn', this.inventoryFile(row));
      await this.db.transaction().execute((tx) => indexApplications(tx, row.id, applications));
    }
  }

  /** Sets the state of a version and keeps who did it. */
  async setState(
    id: string,
    state: VersionState,
    by: Role | 'schedule',
    note: string,
    at: number,
  ): Promise<ImageVersion> {
    await this.version(id);
    await this.db.transaction().execute(async (tx) => {
      await tx.updateTable('image_version').set({ state }).where('id', '=', id).execute();
      await tx
        .insertInto('version_change')
        .values({ version_id: id, state, by_role: by, note, at_ms: at })
        .execute();
    });
    const version = (await this.versions()).find((row) => row.id === id);
    if (!version) throw notFound('such image version');
    return version;
  }

  async markGone(id: string, at: number): Promise<void> {
    await this.db.updateTable('image_version').set({ gone_ms: at }).where('id', '=', id).execute();
  }

  async setRetention(lineId: string, keep: number | null): Promise<void> {
    await this.line(lineId);
    await this.db.updateTable('image_line').set({ keep_versions: keep }).where('id', '=', lineId).execute();
  }

  /** Names of lines in their natural order, to tell whether one is taken. */
  async lineNames(): Promise<string[]> {
    const rows = await this.db.selectFrom('image_line').select('name').execute();
    return rows.map((row) => row.name).sort(compareVersionText);
  }
}
