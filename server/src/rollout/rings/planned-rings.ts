/** Planned rings as rows and back. */
import type { PlannedRing } from '@vatline/contract/rings/ring';
import type { Take } from '@vatline/core/rollout/rings/take';
import { fromJson } from '../../platform/database.ts';
import type { Plans } from '../plans.ts';
import type { PlannedRingColumns } from './tables.ts';

/** Writes the plans of some rings down, in a transaction of the caller's, and gives the rings' columns. */
export async function ringColumns(
  plans: Plans,
  rings: readonly PlannedRing[],
): Promise<PlannedRingColumns[]> {
  const rows: PlannedRingColumns[] = [];
  for (const [number, { name, poolId, take, plan, gate }] of rings.entries())
    rows.push({
      number,
      name,
      pool_id: poolId,
      take_json: JSON.stringify(take),
      plan_id: await plans.add(plan),
      finished_share: gate.finishedShare,
      soak_hours: gate.soakHours,
      needs_approval: gate.needsApproval ? 1 : 0,
      watches_sign_ins: gate.watchesSignIns ? 1 : 0,
      goes_back: gate.goesBack ? 1 : 0,
    });
  return rows;
}

/** In the order of the rows. */
export async function plannedRings(
  plans: Plans,
  rows: readonly PlannedRingColumns[],
): Promise<PlannedRing[]> {
  const known = await plans.some(rows.map((row) => row.plan_id));
  return rows.map((row) => {
    const plan = known.get(row.plan_id);
    if (!plan) throw new Error(`there is no plan ${row.plan_id}`);
    return {
      name: row.name,
      poolId: row.pool_id,
      take: fromJson<Take>(row.take_json),
      plan,
      gate: {
        finishedShare: row.finished_share,
        soakHours: row.soak_hours,
        needsApproval: row.needs_approval === 1,
        watchesSignIns: row.watches_sign_ins === 1,
        goesBack: row.goes_back === 1,
      },
    };
  });
}
