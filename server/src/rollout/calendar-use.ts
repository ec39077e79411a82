import type { Parts } from '../platform/parts.ts';
import type {} from './rings/tables.ts';
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

/** Names of what would keep to a calendar later: orders of rings, and rings that have not begun. */
export async function keptToLater({ db }: Pick<Parts, 'db'>, calendarId: string): Promise<string[]> {
  const orders = await db
    .selectFrom('planned_ring')
    .innerJoin('plan_calendar', 'plan_calendar.plan_id', 'planned_ring.plan_id')
    .innerJoin('ring_order', 'ring_order.id', 'planned_ring.order_id')
    .select('ring_order.name')
    .distinct()
    .where('plan_calendar.calendar_id', '=', calendarId)
    .where('planned_ring.revision', '=', (eb) =>
      eb
        .selectFrom('ring_order_revision as newest')
        .select(({ fn }) => fn.max('newest.number').as('number'))
        .whereRef('newest.order_id', '=', 'planned_ring.order_id'),
    )
    .execute();
  const rings = await db
    .selectFrom('ring')
    .innerJoin('plan_calendar', 'plan_calendar.plan_id', 'ring.plan_id')
    .select('ring.name')
    .where('ring.state', '=', 'waiting')
    .where('plan_calendar.calendar_id', '=', calendarId)
    .execute();
  return [
    ...orders.map(({ name }) => `The order of rings ${name}`),
    ...rings.map(({ name }) => `The ring ${name}`),
  ];
}
