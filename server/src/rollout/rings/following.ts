/** Rollouts through rings that follow the cuts of a schedule. */
import type { CutScheduleRequest, KeptSchedule } from '@vatline/contract/cut-schedule';
import type { RolloutState } from '@vatline/contract/rollout';
import type { PlannedRing } from '@vatline/contract/rings/ring';
import type { Instant } from '@vatline/core/time/instant';
import { listWindows } from '@vatline/core/time/windows';
import type { Parts } from '../../platform/parts.ts';
import type { Plans } from '../plans.ts';
import type { StagedRollouts } from './staged.ts';

interface CutVersion {
  readonly id: string;
  readonly lineId: string;
  readonly number: number;
}

export class Following {
  constructor(
    private readonly parts: Parts,
    private readonly plans: Plans,
    private readonly staged: StagedRollouts,
  ) {}

  /** Plans what follows a version, in a transaction of the caller's. */
  async plan(
    version: CutVersion,
    { rollouts, zone }: Pick<CutScheduleRequest, 'rollouts' | 'zone'>,
    notBefore: Instant,
  ): Promise<void> {
    const { db } = this.parts;
    const { name: line } = await db
      .selectFrom('image_line')
      .select('name')
      .where('id', '=', version.lineId)
      .executeTakeFirstOrThrow();
    const pools = new Map((await this.plans.pools.all()).map((pool) => [pool.id, pool.name]));
    const rings = rollouts.map(({ poolId, ...plan }): PlannedRing => ({
      name: pools.get(poolId) ?? poolId,
      poolId,
      take: { by: 'rest' },
      plan: { ...plan, zone, calendarIds: [], stop: null, notice: null },
      // All of it has to be well before anybody else gets it.
      gate: { finishedShare: 1, soakHours: 0, needsApproval: false, watchesSignIns: false, goesBack: false },
    }));
    await this.staged.follow({ ...version, line }, rings, notBefore);
  }

  /** Rings of the newest versions of a line, newest first. */
  async ofLine(lineId: string, limit: number): Promise<KeptSchedule['rings']> {
    const rows = await this.parts.db
      .selectFrom('ring')
      .innerJoin('staged_rollout as staged', 'staged.id', 'ring.staged_id')
      .innerJoin('image_version', 'image_version.id', 'staged.image_version_id')
      .innerJoin('pool', 'pool.id', 'ring.pool_id')
      .leftJoin('rollout', 'rollout.id', 'ring.rollout_id')
      .select([
        'ring.id',
        'ring.plan_id as planId',
        'image_version.number as versionNumber',
        'pool.name as pool',
        'ring.state',
        'ring.note',
        'ring.rollout_id as rolloutId',
        'staged.id as stagedId',
        'staged.not_before_ms as notBefore',
        'staged.held_why as heldWhy',
        'rollout.ended_ms as ended',
        'rollout.state as rollout',
      ])
      .where('image_version.line_id', '=', lineId)
      .where('follows_cut', '=', 1)
      .orderBy('image_version.number', 'desc')
      .orderBy('ring.number')
      .limit(limit)
      .execute();
    return Promise.all(
      rows.map(async ({ ended, rollout, planId, notBefore, heldWhy, ...row }) => ({
        ...row,
        state: row.state === 'started' && ended !== null ? endedAs(rollout) : row.state,
        note: row.state === 'waiting' && heldWhy !== '' ? heldWhy : row.note,
        dueAt: row.state === 'waiting' && heldWhy === '' ? await this.dueAt(planId, notBefore) : null,
      })),
    );
  }

  /** The first window that it may begin in. */
  private async dueAt(planId: string, notBefore: Instant): Promise<Instant | null> {
    const rule = await this.plans.windowRule(await this.plans.get(planId), notBefore);
    const from = Math.max(notBefore, this.parts.estate.clock.now());
    const windows = listWindows(rule, from, 1);
    return windows.ok ? (windows.value[0]?.start ?? null) : null;
  }
}

function endedAs(rollout: RolloutState | null): 'stopped' | 'done' {
  return rollout === 'stopped' ? 'stopped' : 'done';
}
