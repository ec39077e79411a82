import type { Parts } from '../platform/parts.ts';
import type {} from './tables.ts';

/** Rollouts under way that keep to each calendar, by its identifier. */
export async function calendarUse({
  db,
}: Pick<Parts, 'db'>): Promise<Map<string, { rolloutId: string; pool: string }[]>> {
  const rows = await db
    .selectFrom('rollout')
    .innerJoin('plan_calendar', 'plan_calendar.plan_id', 'rollout.plan_id')
    .innerJoin('pool', 'pool.id', 'rollout.pool_id')
    .select(['plan_calendar.calendar_id as calendar', 'rollout.id as rolloutId', 'pool.name as pool'])
    .where('rollout.ended_ms', 'is', null)
    .orderBy('pool.name')
    .execute();
  const use = new Map<string, { rolloutId: string; pool: string }[]>();
  for (const { calendar, ...row } of rows) use.set(calendar, [...(use.get(calendar) ?? []), row]);
  return use;
}
