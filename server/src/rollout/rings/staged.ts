/**
 * Rings: rollouts that follow a cut, one after the other. Each begins with the first of its windows at
 * which the one before it has ended well. So a pilot goes first, and what goes wrong there stops
 * the rest. Everything known stands in the database; a restart takes it up.
 */
import type { ringStates, KeptSchedule } from '@vatline/contract/cut-schedule';
import type { Plan, RolloutRequest } from '@vatline/contract/rollout';
import { gate, type Before, type Verdict } from '@vatline/core/rollout/gate';
import { allThatDiffer } from '@vatline/core/rollout/hosts-taken';
import { listWindows } from '@vatline/core/time/windows';
import { MINUTE } from '@vatline/core/time/instant';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { Refusal } from '../platform/problem.ts';
import type { RolloutEngine } from './engine.ts';
import type { Plans } from './plans.ts';
import { startRollout } from './start.ts';
import type { RingRow } from './tables.ts';

/** What a ring is to be. */
export type PlannedRing = Plan & { readonly poolId: string };

export class Rings {
  constructor(
    private readonly parts: Parts,
    private readonly plans: Plans,
    private readonly engine: RolloutEngine,
  ) {}

  /** Takes up every waiting ring after a start. */
  async resume(): Promise<void> {
    const rows = await this.parts.db.selectFrom('ring').selectAll().where('state', '=', 'waiting').execute();
    for (const row of rows) await this.arm(row, this.now);
  }

  /** Plans the rollouts of a version. Those of earlier versions that have not begun are dropped. Idempotent. */
  async plan(
    version: { readonly id: string; readonly lineId: string; readonly number: number },
    planned: readonly PlannedRing[],
    notBefore: number,
  ): Promise<void> {
    const { db } = this.parts;
    const older = db
      .selectFrom('image_version')
      .select('id')
      .where('line_id', '=', version.lineId)
      .where('number', '<', version.number);
    const overtaken = await db
      .selectFrom('ring')
      .selectAll()
      .where('state', '=', 'waiting')
      .where('version_id', 'in', older)
      .execute();
    const why = `version ${version.number} was cut first`;
    for (const row of overtaken)
      await this.settle(row, { state: 'dropped', due_ms: null }, { do: 'drop', why });
    for (const [number, ring] of planned.entries()) {
      const row = await this.add({ version_id: version.id, number, not_before_ms: notBefore }, ring);
      if (row) await this.arm(row, this.now);
    }
  }

  /** Undefined for one that is there already. */
  private async add(
    place: Pick<RingRow, 'version_id' | 'number' | 'not_before_ms'>,
    { poolId, ...plan }: PlannedRing,
  ): Promise<RingRow | undefined> {
    const { db } = this.parts;
    return db.transact(async () => {
      const there = await db
        .selectFrom('ring')
        .select('id')
        .where('version_id', '=', place.version_id)
        .where('number', '=', place.number)
        .executeTakeFirst();
      if (there) return undefined;
      const row: RingRow = {
        id: newId('ring'),
        ...place,
        pool_id: poolId,
        plan_id: await this.plans.add(plan),
        due_ms: null,
        state: 'waiting',
        rollout_id: null,
      };
      await db.insertInto('ring').values(row).execute();
      return row;
    });
  }

  /** Rings of the newest versions of a line, newest first. */
  async ofLine(lineId: string, limit: number): Promise<KeptSchedule['rings']> {
    const rows = await this.parts.db
      .selectFrom('ring')
      .innerJoin('image_version', 'image_version.id', 'ring.version_id')
      .innerJoin('pool', 'pool.id', 'ring.pool_id')
      .leftJoin('rollout', 'rollout.id', 'ring.rollout_id')
      .select((eb) => [
        'ring.id',
        'image_version.number as versionNumber',
        'pool.name as pool',
        'ring.state',
        'ring.due_ms as dueAt',
        'ring.rollout_id as rolloutId',
        eb
          .selectFrom('gate')
          .select('why')
          .whereRef('gate.ring_id', '=', 'ring.id')
          .orderBy('gate.id', 'desc')
          .limit(1)
          .as('note'),
        'rollout.ended_ms as ended',
        'rollout.state as rollout',
      ])
      .where('image_version.line_id', '=', lineId)
      .orderBy('image_version.number', 'desc')
      .orderBy('ring.number')
      .limit(limit)
      .execute();
    return rows.map(({ ended, rollout, note, ...row }) => {
      const state = row.state === 'started' && ended !== null ? rollout : row.state;
      return { ...row, note: note ?? '', state: state as (typeof ringStates)[number] };
    });
  }

  private get now(): number {
    return this.parts.estate.clock.now();
  }

  /** Waits for the next window that begins after an instant. */
  private async arm(row: RingRow, after: number): Promise<void> {
    const from = Math.max(after, row.not_before_ms) + MINUTE;
    const rule = await this.plans.windowRule(await this.plans.get(row.plan_id), from);
    const windows = listWindows(rule, from, 1);
    const next = windows.ok ? windows.value[0] : undefined;
    if (!next) return this.drop(row, 'its window never comes again');
    await this.set(row, { due_ms: next.start });
    // A minute before, so that the rollout finds the window ahead of it.
    this.parts.estate.clock.wakeAt(next.start - MINUTE, `ring ${row.id}`, () => this.due(row.id));
  }

  private async due(id: string): Promise<void> {
    const row = await this.parts.db.selectFrom('ring').selectAll().where('id', '=', id).executeTakeFirst();
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
  private before(row: RingRow): Promise<Before[]> {
    return this.parts.db
      .selectFrom('ring')
      .innerJoin('pool', 'pool.id', 'ring.pool_id')
      .leftJoin('rollout', 'rollout.id', 'ring.rollout_id')
      .select((eb) => [
        'pool.name',
        'ring.state',
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
      .where('ring.version_id', '=', row.version_id)
      .where('ring.number', '<', row.number)
      .orderBy('ring.number')
      .execute();
  }

  private async start(row: RingRow): Promise<void> {
    const { pools } = this.plans;
    const { blend_id } = await pools.pool(row.pool_id);
    const request: RolloutRequest = {
      ...(await this.plans.get(row.plan_id)),
      poolId: row.pool_id,
      imageVersionId: row.version_id,
      packageVersionIds: blend_id ? await pools.blends.packageIdsOf(blend_id) : [],
      ...allThatDiffer,
    };
    const options = { seed: 0, from: this.now, runs: 1 };
    const planned = await this.plans.forecastable(request, options);
    if (planned.hosts.length === 0) {
      const why = 'every host ran it already';
      return this.settle(row, { state: 'done', due_ms: null }, { do: 'start', why });
    }
    const rolloutId = await startRollout(this.parts, this.plans, request, (id) =>
      this.settle(row, { state: 'started', rollout_id: id, due_ms: null }, { do: 'start', why: '' }),
    );
    await this.engine.advance(rolloutId);
  }

  private async later(row: RingRow, why: string): Promise<void> {
    await this.settle(row, {}, { do: 'wait', why });
    await this.arm(row, (row.due_ms ?? this.now) + MINUTE);
  }

  private async drop(row: RingRow, why: string): Promise<void> {
    const pool = await this.plans.pools.pool(row.pool_id);
    await this.parts.db.transact(async () => {
      await this.settle(row, { state: 'dropped', due_ms: null }, { do: 'drop', why });
      await this.parts.journal.note({
        at: this.now,
        kind: 'rollout',
        subject: `pool:${row.pool_id}`,
        text: `${pool.name}: the rollout that was to follow is dropped, ${why}`,
        link: `/pools/${row.pool_id}`,
      });
    });
  }

  /** What its gate said, and what that makes of the ring: one change. */
  private async settle(
    row: RingRow,
    change: Partial<RingRow>,
    verdict: { readonly do: Verdict['do']; readonly why: string },
  ): Promise<void> {
    const { db } = this.parts;
    await db.transact(async () => {
      await db
        .insertInto('gate')
        .values({ ring_id: row.id, at_ms: this.now, verdict: verdict.do, why: verdict.why })
        .execute();
      if (Object.keys(change).length > 0) await this.set(row, change);
    });
    this.parts.journal.tell('line', 'rollout');
  }

  private async set(row: RingRow, change: Partial<RingRow>): Promise<void> {
    await this.parts.db.updateTable('ring').set(change).where('id', '=', row.id).execute();
    this.parts.journal.tell('line', 'rollout');
  }
}
