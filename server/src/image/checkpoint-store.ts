/** Checkpoints of image lines: the snapshots that finished steps left, and the room they may take. */
import { planEviction, type KeptCheckpoint } from '@vatline/core/image/checkpoint-eviction';
import type { Parts } from '../platform/parts.ts';

/** What checkpoints of a line may take until somebody says otherwise. */
export const CHECKPOINT_BUDGET_BYTES = 80e9;

export class CheckpointStore {
  constructor(private readonly parts: Pick<Parts, 'db' | 'estate'>) {}

  /** Checkpoint key to snapshot. */
  async snapshots(lineId: string): Promise<Map<string, string>> {
    const rows = await this.parts.db
      .selectFrom('checkpoint')
      .selectAll()
      .where('line_id', '=', lineId)
      .execute();
    return new Map(rows.map((row) => [row.key, row.snapshot_id]));
  }

  async kept(lineId: string): Promise<KeptCheckpoint[]> {
    return this.parts.db
      .selectFrom('checkpoint')
      .select(['key', 'size_bytes as sizeBytes', 'used_ms as usedAt', 'step'])
      .where('line_id', '=', lineId)
      .orderBy('step')
      .execute();
  }

  async save(
    lineId: string,
    checkpoint: { key: string; snapshotId: string; sizeBytes: number; step: number; at: number },
  ): Promise<void> {
    const { key, snapshotId: snapshot_id, sizeBytes: size_bytes, step, at: used_ms } = checkpoint;
    await this.parts.db
      .insertInto('checkpoint')
      .values({ line_id: lineId, key, snapshot_id, step, used_ms, size_bytes })
      .onConflict((c) => c.columns(['line_id', 'key']).doUpdateSet({ snapshot_id, used_ms, size_bytes }))
      .execute();
  }

  /** Notes that a build stands on these checkpoints. */
  async touch(lineId: string, keys: readonly string[], at: number): Promise<void> {
    if (keys.length === 0) return;
    await this.parts.db
      .updateTable('checkpoint')
      .set({ used_ms: at })
      .where('line_id', '=', lineId)
      .where('key', 'in', keys)
      .execute();
  }

  async drop(lineId: string, keys?: readonly string[]): Promise<void> {
    let query = this.parts.db.deleteFrom('checkpoint').where('line_id', '=', lineId);
    if (keys) query = query.where('key', 'in', keys);
    await query.execute();
  }

  /** Deletes the checkpoints that are over the line's budget; gives how many bytes that freed. */
  async evict(lineId: string, standingOn: ReadonlySet<string>, key: string): Promise<number> {
    const { checkpoint_budget_bytes } = await this.parts.db
      .selectFrom('image_line')
      .select('checkpoint_budget_bytes')
      .where('id', '=', lineId)
      .executeTakeFirstOrThrow();
    const snapshots = await this.snapshots(lineId);
    const { evicted } = planEviction(await this.kept(lineId), checkpoint_budget_bytes, standingOn);
    for (const checkpoint of evicted) {
      const snapshot = snapshots.get(checkpoint.key);
      if (snapshot)
        await this.parts.estate.hypervisor.deleteSnapshot(`${key}/evict/${checkpoint.key}`, snapshot);
      await this.drop(lineId, [checkpoint.key]);
    }
    return evicted.reduce((sum, checkpoint) => sum + checkpoint.sizeBytes, 0);
  }

  async setBudget(lineId: string, bytes: number): Promise<void> {
    await this.parts.db
      .updateTable('image_line')
      .set({ checkpoint_budget_bytes: bytes })
      .where('id', '=', lineId)
      .execute();
  }
}
