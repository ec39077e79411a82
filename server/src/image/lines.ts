/** Image lines in the database, with the checks that somebody switched off. */
import type { LineDetail } from '@vatline/contract/image';
import type { Hardware } from '@vatline/core/image/hardware';
import { machineName } from '@vatline/core/image/machine-name';
import type { Step } from '@vatline/core/image/recipe';
import { compareVersionText } from '@vatline/core/version/text';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { CHECKPOINT_BUDGET_BYTES } from './checkpoint-store.ts';
import type { LineRow } from './tables.ts';

export class LineStore {
  constructor(private readonly parts: Pick<Parts, 'db'>) {}

  private get db() {
    return this.parts.db;
  }

  async get(id: string): Promise<LineRow> {
    const row = await this.db.selectFrom('image_line').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such image line');
    return row;
  }

  /** All lines, the oldest first. */
  all(): Promise<LineRow[]> {
    return this.db.selectFrom('image_line').selectAll().orderBy('created_ms').orderBy('name').execute();
  }

  /** Names of lines in their natural order, to tell whether one is taken. */
  async names(): Promise<string[]> {
    const rows = await this.db.selectFrom('image_line').select('name').execute();
    return rows.map((row) => row.name).sort(compareVersionText);
  }

  async create(line: {
    name: string;
    purpose: string;
    hardware: Hardware;
    steps?: readonly Step[];
    dyeOffset?: number;
    forkedFrom?: string;
    at: number;
  }): Promise<string> {
    const id = newId('line');
    await this.db.transact(async () => {
      const others = await this.db.selectFrom('image_line').select('machine_name').execute();
      const machines = new Set(others.map((other) => other.machine_name));
      await this.db
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
      await this.db
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

  async setMachine(lineId: string, machineId: string, key: string | null): Promise<void> {
    await this.db
      .updateTable('image_line')
      .set({ machine_id: machineId, machine_key: key })
      .where('id', '=', lineId)
      .execute();
  }

  async setRetention(lineId: string, keep: number | null): Promise<void> {
    await this.get(lineId);
    await this.db.updateTable('image_line').set({ keep_versions: keep }).where('id', '=', lineId).execute();
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
}
