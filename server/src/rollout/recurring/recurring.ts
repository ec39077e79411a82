/**
 * Rollouts that come again. When a window of one begins, the rule in the core says whether anything is
 * begun; that the window was seen, and what came of it, is written with what was begun, so that after a
 * kill it is seen once more or never again.
 */
import type { Recurring } from '@vatline/contract/recurring';
import type { Plan } from '@vatline/contract/rollout';
import {
  recurringMove,
  type RecurringMove,
  type RecurringTakes,
  type RecurringVersion,
} from '@vatline/core/rollout/recurring';
import { allThatDiffer } from '@vatline/core/rollout/hosts-taken';
import { noticeFaults } from '@vatline/core/rollout/notice';
import type { Instant } from '@vatline/core/time/instant';
import { listWindows, windowsFrom, type WindowSpan } from '@vatline/core/time/windows';
import type { Fault } from '@vatline/core/result';
import { whoActs } from '../../platform/acting.ts';
import type { Parts } from '../../platform/parts.ts';
import { invalid, notFound, Refusal } from '../../platform/problem.ts';
import { refuseStale } from '../../platform/stale.ts';
import type { PoolRow } from '../../pool/tables.ts';
import type { RolloutEngine } from '../engine.ts';
import type { Plans } from '../plans.ts';
import { refuseUnknownCalendars, startRollout, windowPath } from '../start.ts';
import type { RecurringRow } from '../tables.ts';

const SHOWN = 3;

/** Windows of one that are looked for: a quarter of a year of nights. */
const MOST_AHEAD = 92;

export interface RecurringAhead {
  readonly poolId: string;
  readonly takes: RecurringTakes;
  readonly plan: Plan;
  readonly window: WindowSpan;
  /** Null where that is known only when what is under way has ended. */
  readonly brings: RecurringVersion | null;
}

interface Outcome {
  readonly outcome: string;
  readonly isRefused?: boolean;
  readonly rolloutId?: string;
}

export class RecurringRollouts {
  constructor(
    private readonly parts: Parts,
    private readonly plans: Plans,
    private readonly engine: RolloutEngine,
  ) {}

  /** Waits for the next window of each after a start. */
  async resume(): Promise<void> {
    for (const row of await this.rows()) await this.arm(row.pool_id);
  }

  async all(): Promise<Recurring[]> {
    const found: Recurring[] = [];
    for (const row of await this.rows()) {
      const pool = await this.plans.pools.pool(row.pool_id);
      const plan = await this.plans.get(row.plan_id);
      const move = await this.moveOf(pool, row.takes);
      found.push({
        poolId: pool.id,
        pool: pool.name,
        takes: row.takes,
        plan,
        revision: row.revision,
        keptAt: row.kept_ms,
        by: row.by_role,
        next: (await this.windowsAhead(row, plan, SHOWN)).map(({ start, end }) => ({ start, end })),
        brings:
          move.do === 'begin'
            ? { number: move.version.number, dye: move.version.dye, isRemake: move.isRemake }
            : null,
        why: move.do === 'leave' ? move.why : '',
        last: lastOf(row),
      });
    }
    return found.sort((a, b) => a.pool.localeCompare(b.pool, 'en'));
  }

  /** The windows up to an instant in which something would begin, as things are: a version is brought only once. */
  async ahead(to: Instant): Promise<RecurringAhead[]> {
    const found: RecurringAhead[] = [];
    for (const row of await this.rows()) {
      const pool = await this.plans.pools.pool(row.pool_id);
      const plan = await this.plans.get(row.plan_id);
      const move = await this.moveOf(pool, row.takes);
      // Made anew it is whatever is under way now.
      if (move.do === 'leave' && row.takes !== 'made anew') continue;
      const brings = move.do === 'begin' ? move.version : null;
      const windows = await this.windowsAhead(row, plan, row.takes === 'made anew' ? MOST_AHEAD : 1);
      for (const window of windows.filter(({ start }) => start <= to))
        found.push({ poolId: pool.id, takes: row.takes, plan, window, brings });
    }
    return found;
  }

  /** Throws a conflict when somebody kept another one meanwhile. */
  async keep(poolId: string, takes: RecurringTakes, plan: Plan, basedOn: number): Promise<number> {
    const { db, journal } = this.parts;
    const pool = await this.plans.pools.pool(poolId);
    await refuseUnknownCalendars(this.plans, plan, 'plan.');
    const faults = await this.faults(plan);
    if (faults.length > 0) throw invalid(faults);
    await db.transact(async () => {
      const kept = await this.row(poolId);
      refuseStale('recurring rollout', pool.name, kept?.revision ?? 0, basedOn);
      const change = {
        takes,
        plan_id: await this.plans.add(plan),
        revision: basedOn + 1,
        kept_ms: this.now,
        by_role: whoActs() ?? null,
        handled_ms: null,
      };
      await db
        .insertInto('recurring_rollout')
        .values({ pool_id: poolId, ...change, last_outcome: '', last_refused: 0, last_rollout_id: null })
        .onConflict((conflict) => conflict.column('pool_id').doUpdateSet(change))
        .execute();
      await journal.note(this.noteOf(pool, 'a rollout comes in every window of its plan from now on'));
    });
    await this.arm(poolId);
    return basedOn + 1;
  }

  async drop(poolId: string): Promise<void> {
    const pool = await this.plans.pools.pool(poolId);
    if (!(await this.row(poolId))) throw notFound('rollout of this pool that comes again');
    await this.parts.db.transact(async () => {
      await this.parts.db.deleteFrom('recurring_rollout').where('pool_id', '=', poolId).execute();
      await this.parts.journal.note(this.noteOf(pool, 'no rollout comes by itself any more'));
    });
  }

  private async faults(plan: Plan): Promise<Fault[]> {
    const faults: Fault[] = noticeFaults(plan.notice).map((fault) => ({
      ...fault,
      path: `plan.${fault.path}`,
    }));
    const at = (path: string, message: string) => faults.push({ path: `plan.${path}`, message });
    const windows = listWindows(await this.plans.windowRule(plan, this.now), this.now, 1);
    if (!windows.ok) for (const { path, message } of windows.error) at(windowPath(path), message);
    else if (windows.value.length === 0) at('window.rule', 'never happens');
    if (plan.batch < 1) at('batch', 'must be at least 1');
    if (plan.maxUnavailable < 1) at('maxUnavailable', 'must be at least 1');
    return faults;
  }

  private get now(): Instant {
    return this.parts.estate.clock.now();
  }

  private rows(): Promise<RecurringRow[]> {
    return this.parts.db.selectFrom('recurring_rollout').selectAll().orderBy('pool_id').execute();
  }

  private row(poolId: string): Promise<RecurringRow | undefined> {
    return this.parts.db
      .selectFrom('recurring_rollout')
      .selectAll()
      .where('pool_id', '=', poolId)
      .executeTakeFirst();
  }

  /** Its windows that it has not seen, counted from when it was kept, so that every second week stays that. */
  private async windowsAhead(row: RecurringRow, plan: Plan, count: number): Promise<WindowSpan[]> {
    const windows = windowsFrom(await this.plans.windowRule(plan, row.kept_ms), row.kept_ms);
    const found: WindowSpan[] = [];
    if (!windows.ok) return found;
    for (const window of windows.value) {
      if (found.length >= count) break;
      if (window.minutes > 0 && window.start > (row.handled_ms ?? -Infinity)) found.push(window);
    }
    return found;
  }

  private async arm(poolId: string): Promise<void> {
    const row = await this.row(poolId);
    if (!row) return;
    const [window] = await this.windowsAhead(row, await this.plans.get(row.plan_id), 1);
    if (!window) return;
    const at = Math.max(window.start, this.now);
    this.parts.estate.clock.wakeAt(at, `recurring ${poolId}`, () => this.due(poolId, window));
  }

  private async due(poolId: string, window: WindowSpan): Promise<void> {
    const row = await this.row(poolId);
    // Dropped, or kept anew by another plan, which has a wake of its own.
    const [next] = row ? await this.windowsAhead(row, await this.plans.get(row.plan_id), 1) : [];
    if (!row || next?.start !== window.start) return;
    const pool = await this.plans.pools.pool(poolId);
    if (this.now >= window.end)
      await this.seen(pool, window, { outcome: 'was missed: the server did not run', isRefused: true });
    else await this.begin(pool, row, window);
    await this.arm(poolId);
  }

  private async begin(pool: PoolRow, row: RecurringRow, window: WindowSpan): Promise<void> {
    const move = await this.moveOf(pool, row.takes);
    if (move.do === 'leave') return this.seen(pool, window, { outcome: `began nothing: ${move.why}` });
    const request = {
      ...(await this.plans.get(row.plan_id)),
      poolId: pool.id,
      imageVersionId: move.version.id,
      packageVersionIds: await this.plans.pools.blends.packageIdsOf(pool.blend_id ?? ''),
      ...allThatDiffer,
      isRemake: move.isRemake,
    };
    try {
      const id = await startRollout(
        this.parts,
        this.plans,
        request,
        (rolloutId) => {
          const what = move.isRemake ? 'made hosts anew' : `brought version ${move.version.number}`;
          return this.write(pool, window, { outcome: what, rolloutId });
        },
        window.start,
      );
      await this.engine.advance(id);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      await this.seen(pool, window, { outcome: `was refused: ${error.message}`, isRefused: true });
    }
  }

  private seen(pool: PoolRow, window: WindowSpan, outcome: Outcome): Promise<void> {
    return this.parts.db.transact(() => this.write(pool, window, outcome));
  }

  /** In a transaction of the caller's. */
  private async write(
    pool: PoolRow,
    { start }: WindowSpan,
    { outcome, isRefused = false, rolloutId }: Outcome,
  ): Promise<void> {
    const change = {
      handled_ms: start,
      last_outcome: outcome,
      last_refused: isRefused ? 1 : 0,
      last_rollout_id: rolloutId ?? null,
    };
    await this.parts.db.updateTable('recurring_rollout').set(change).where('pool_id', '=', pool.id).execute();
    await this.parts.journal.note(this.noteOf(pool, `the rollout that comes again ${outcome}`));
    this.parts.journal.tell('rollout');
  }

  private async moveOf(pool: PoolRow, takes: RecurringTakes): Promise<RecurringMove> {
    const { db } = this.parts;
    const versions = await db
      .selectFrom('image_version')
      .select(['id', 'number', 'dye'])
      .where('line_id', '=', pool.line_id)
      .where('state', '=', 'approved')
      .where('gone_ms', 'is', null)
      .orderBy('number', 'desc')
      .limit(1)
      .execute();
    const current = await db
      .selectFrom('blend')
      .innerJoin('image_version', 'image_version.id', 'image_version_id')
      .select(['image_version.id', 'image_version.number', 'dye'])
      .where('blend.id', '=', pool.blend_id ?? '')
      .executeTakeFirst();
    const open = await db
      .selectFrom('rollout')
      .select('id')
      .where('pool_id', '=', pool.id)
      .where('ended_ms', 'is', null)
      .executeTakeFirst();
    return recurringMove({
      takes,
      current: current ?? null,
      newest: versions[0] ?? null,
      isBusy: open !== undefined,
    });
  }

  private noteOf({ id, name }: PoolRow, text: string) {
    return {
      at: this.now,
      kind: 'rollout',
      subject: `pool:${id}`,
      text: `${name}: ${text}`,
      link: `/rollouts/new?pool=${id}`,
    };
  }
}

function lastOf(row: RecurringRow): Recurring['last'] {
  if (row.handled_ms === null) return null;
  const { last_outcome: outcome, last_refused, last_rollout_id: rolloutId } = row;
  return { at: row.handled_ms, outcome, isRefused: last_refused === 1, rolloutId };
}
