/**
 * Rollouts that follow a cut, one after the other: each begins with the first of its windows at
 * which the one before it has ended well. So a pilot goes first, and what goes wrong there stops
 * the rest. Everything known stands in the database; a restart takes it up.
 */
import type { FollowUpRequest, followUpStates, KeptSchedule } from '@vatline/contract/cut-schedule';
import type { RolloutRequest } from '@vatline/contract/rollout';
import { gate, type Before } from '@vatline/core/rollout/gate';
import { listWindows } from '@vatline/core/time/windows';
import { MINUTE } from '@vatline/core/time/instant';
import { fromJson } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { Refusal } from '../platform/problem.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { RolloutEngine } from './engine.ts';
import { planFor } from './plan.ts';
import { startRollout } from './start.ts';
import type { FollowUpRow as Row } from './tables.ts';

type Kept = FollowUpRequest & { readonly zone: string };

export class FollowUps {
  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
    private readonly engine: RolloutEngine,
  ) {}

  /** Takes up every waiting follow-up after a start. */
  async resume(): Promise<void> {
    const rows = await this.parts.db
      .selectFrom('follow_up')
      .selectAll()
      .where('state', '=', 'waiting')
      .execute();
    for (const row of rows) await this.arm(row, this.now);
  }

  /** Plans the rollouts of a version. Those of earlier versions that have not begun are dropped. Idempotent. */
  async plan(
    version: { readonly id: string; readonly lineId: string; readonly number: number },
    requests: readonly Kept[],
    notBefore: number,
  ): Promise<void> {
    const { db } = this.parts;
    const older = db
      .selectFrom('image_version')
      .select('id')
      .where('line_id', '=', version.lineId)
      .where('number', '<', version.number);
    await db
      .updateTable('follow_up')
      .set({ state: 'dropped', due_ms: null, note: `version ${version.number} was cut first` })
      .where('state', '=', 'waiting')
      .where('version_id', 'in', older)
      .execute();
    for (const [number, request] of requests.entries()) {
      const row: Row = {
        id: newId('follow'),
        version_id: version.id,
        number,
        pool_id: request.poolId,
        request_json: JSON.stringify(request),
        not_before_ms: notBefore,
        due_ms: null,
        state: 'waiting',
        rollout_id: null,
        note: '',
      };
      const { numInsertedOrUpdatedRows } = await db
        .insertInto('follow_up')
        .values(row)
        .onConflict((c) => c.doNothing())
        .executeTakeFirstOrThrow();
      if (numInsertedOrUpdatedRows) await this.arm(row, this.now);
    }
  }

  /** Follow-ups of the newest versions of a line, newest first. */
  async ofLine(lineId: string, limit: number): Promise<KeptSchedule['followUps']> {
    const rows = await this.parts.db
      .selectFrom('follow_up')
      .innerJoin('image_version', 'image_version.id', 'follow_up.version_id')
      .innerJoin('pool', 'pool.id', 'follow_up.pool_id')
      .leftJoin('rollout', 'rollout.id', 'follow_up.rollout_id')
      .select([
        'follow_up.id',
        'image_version.number as versionNumber',
        'pool.name as pool',
        'follow_up.state',
        'follow_up.due_ms as dueAt',
        'follow_up.rollout_id as rolloutId',
        'follow_up.note',
        'rollout.ended_ms as ended',
        'rollout.state as rollout',
      ])
      .where('image_version.line_id', '=', lineId)
      .orderBy('image_version.number', 'desc')
      .orderBy('follow_up.number')
      .limit(limit)
      .execute();
    return rows.map(({ ended, rollout, ...row }) => {
      const state = row.state === 'started' && ended !== null ? rollout : row.state;
      return { ...row, state: state as (typeof followUpStates)[number] };
    });
  }

  private get now(): number {
    return this.parts.estate.clock.now();
  }

  /** Waits for the next window that begins after an instant. */
  private async arm(row: Row, after: number): Promise<void> {
    const { window, zone } = fromJson<Kept>(row.request_json);
    const windows = listWindows({ ...window, zone }, Math.max(after, row.not_before_ms) + MINUTE, 1);
    const next = windows.ok ? windows.value[0] : undefined;
    if (!next) return this.drop(row, 'its window never comes again');
    await this.set(row, { due_ms: next.start });
    // A minute before, so that the rollout finds the window ahead of it.
    this.parts.estate.clock.wakeAt(next.start - MINUTE, `follow-up ${row.id}`, () => this.due(row.id));
  }

  private async due(id: string): Promise<void> {
    const row = await this.parts.db
      .selectFrom('follow_up')
      .selectAll()
      .where('id', '=', id)
      .executeTakeFirst();
    if (row?.state !== 'waiting') return;
    const verdict = gate(await this.before(row));
    if (verdict.do === 'drop') return this.drop(row, verdict.why);
    if (verdict.do === 'wait') return this.later(row, verdict.why);
    try {
      await this.start(row);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      // A rollout of this pool may be under way; what is wrong with the request itself stays wrong.
      await (error.status === 409 ? this.later(row, error.message) : this.drop(row, error.message));
    }
  }

  /** Those that come before one in its chain, in their order. */
  private before(row: Row): Promise<Before[]> {
    return this.parts.db
      .selectFrom('follow_up')
      .innerJoin('pool', 'pool.id', 'follow_up.pool_id')
      .leftJoin('rollout', 'rollout.id', 'follow_up.rollout_id')
      .select((eb) => [
        'pool.name',
        'follow_up.state',
        'rollout.state as rollout',
        eb
          .selectFrom('rollout_host')
          .select(({ fn }) => fn.countAll<number>().as('n'))
          .whereRef('rollout_host.rollout_id', '=', 'rollout.id')
          .where('stage', '=', 'set aside')
          .$asScalar()
          .$notNull()
          .as('setAside'),
      ])
      .where('follow_up.version_id', '=', row.version_id)
      .where('follow_up.number', '<', row.number)
      .orderBy('follow_up.number')
      .execute();
  }

  private async start(row: Row): Promise<void> {
    const kept = fromJson<Kept>(row.request_json);
    const pool = await this.pools.pool(row.pool_id);
    const current = pool.blend_id ? await this.pools.blends.get(pool.blend_id) : undefined;
    const request: RolloutRequest = {
      ...kept,
      imageVersionId: row.version_id,
      packageVersionIds: current ? fromJson<string[]>(current.packages_json) : [],
    };
    const planned = await planFor(this.parts, this.pools, request, { seed: 0, from: this.now, runs: 1 });
    if (planned.hosts.length === 0)
      return this.set(row, { state: 'done', due_ms: null, note: 'every host ran it already' });
    const rolloutId = await startRollout(this.parts, this.pools, request, async (id) => {
      const started = { state: 'started' as const, rollout_id: id, due_ms: null, note: '' };
      await this.parts.db.updateTable('follow_up').set(started).where('id', '=', row.id).execute();
    });
    this.parts.journal.tell('line', 'rollout');
    await this.engine.advance(rolloutId);
  }

  private async later(row: Row, why: string): Promise<void> {
    await this.set(row, { note: why });
    await this.arm(row, (row.due_ms ?? this.now) + MINUTE);
  }

  private async drop(row: Row, why: string): Promise<void> {
    await this.set(row, { state: 'dropped', due_ms: null, note: why });
    const pool = await this.pools.pool(row.pool_id);
    await this.parts.journal.note({
      at: this.now,
      kind: 'rollout',
      subject: `pool:${row.pool_id}`,
      text: `${pool.name}: the rollout that was to follow is dropped, ${why}`,
      link: `/pools/${row.pool_id}`,
    });
  }

  private async set(row: Row, change: Partial<Row>): Promise<void> {
    await this.parts.db.updateTable('follow_up').set(change).where('id', '=', row.id).execute();
    this.parts.journal.tell('line', 'rollout');
  }
}
