/** Plans that are kept and not begun. What is wrong with one is said where it is forecast, not where it is kept. */
import { sql } from 'kysely';
import { keptPlanEndpoints, MOST_KEPT_PLANS, type KeptPlan } from '@vatline/contract/kept-plan';
import { rolloutRequestSchema, type RolloutRequest } from '@vatline/contract/rollout';
import { whoActs } from '../platform/acting.ts';
import { DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';
import type { PoolStore } from '../pool/pools.ts';

export function keptPlanRoutes(door: Door, parts: Parts, pools: PoolStore): void {
  const { db } = parts;

  door.serve(keptPlanEndpoints.list, async ({ query }) => {
    await pools.pool(query.pool);
    return plansOf(parts, query.pool);
  });

  door.serve(keptPlanEndpoints.add, ({ body: { name, request } }) =>
    db.transact(async () => {
      await refuseUnknownPool(parts, request);
      await refuseTaken(parts, request.poolId, name, '');
      const { n } = await db
        .selectFrom('kept_plan')
        .select(({ fn }) => fn.countAll<number>().as('n'))
        .where('pool_id', '=', request.poolId)
        .executeTakeFirstOrThrow();
      if (n >= MOST_KEPT_PLANS)
        throw conflict(`${MOST_KEPT_PLANS} plans of this pool are kept already; drop one first`, 'name');
      const id = newId('kept');
      const row = { id, pool_id: request.poolId, name, revision: 1, ...keptNow(parts, request) };
      await db.insertInto('kept_plan').values(row).execute();
      await tell(parts, request.poolId, `the plan ${name} is kept`);
      return { id };
    }),
  );

  door.serve(keptPlanEndpoints.keep, ({ params, body: { name, request, basedOn } }) =>
    db.transact(async () => {
      const kept = await keptPlan(parts, params.id);
      refuseStale('plan', kept.name, kept.revision, basedOn);
      if (request.poolId !== kept.pool_id)
        throw invalid([{ path: 'request.poolId', message: 'is another pool than that of the plan' }]);
      await refuseTaken(parts, kept.pool_id, name, kept.id);
      const revision = basedOn + 1;
      await db
        .updateTable('kept_plan')
        .set({ name, revision, ...keptNow(parts, request) })
        .where('id', '=', kept.id)
        .execute();
      await tell(parts, kept.pool_id, `the plan ${name} is kept as it is by now`);
      return { revision };
    }),
  );

  door.serve(keptPlanEndpoints.drop, ({ params }) =>
    db.transact(async () => {
      const { id, name, pool_id } = await keptPlan(parts, params.id);
      await db.deleteFrom('kept_plan').where('id', '=', id).execute();
      await tell(parts, pool_id, `the plan ${name} is dropped`);
      return DONE;
    }),
  );
}

/** In a transaction of the caller's. */
async function tell({ db, journal, estate }: Parts, poolId: string, text: string): Promise<void> {
  const pool = await db.selectFrom('pool').select('name').where('id', '=', poolId).executeTakeFirstOrThrow();
  await journal.note({
    at: estate.clock.now(),
    kind: 'rollout',
    subject: `pool:${poolId}`,
    text: `${pool.name}: ${text}`,
    link: `/rollouts/new?pool=${poolId}`,
  });
}

async function plansOf({ db }: Parts, poolId: string): Promise<KeptPlan[]> {
  const rows = await db
    .selectFrom('kept_plan')
    .selectAll()
    .where('pool_id', '=', poolId)
    // As they were named first, whatever was changed since.
    .orderBy(sql`rowid`)
    .execute();
  return rows.map(({ id, name, revision, kept_ms, by_role, request_json }) => ({
    id,
    name,
    revision,
    keptAt: kept_ms,
    by: by_role,
    // What plans have had since it was kept is as it is where nothing is said of it.
    request: rolloutRequestSchema.parse(JSON.parse(request_json)),
  }));
}

function keptNow({ estate }: Parts, request: RolloutRequest) {
  return {
    request_json: JSON.stringify(request),
    kept_ms: estate.clock.now(),
    by_role: whoActs() ?? null,
  };
}

async function keptPlan({ db }: Parts, id: string) {
  const row = await db.selectFrom('kept_plan').selectAll().where('id', '=', id).executeTakeFirst();
  if (!row) throw notFound('such plan');
  return row;
}

async function refuseUnknownPool({ db }: Parts, { poolId }: RolloutRequest): Promise<void> {
  const pool = await db.selectFrom('pool').select('id').where('id', '=', poolId).executeTakeFirst();
  if (!pool) throw invalid([{ path: 'request.poolId', message: 'there is no such pool' }]);
}

async function refuseTaken({ db }: Parts, poolId: string, name: string, id: string): Promise<void> {
  const taken = await db
    .selectFrom('kept_plan')
    .select('id')
    .where('pool_id', '=', poolId)
    .where('name', '=', name)
    .where('id', '!=', id)
    .executeTakeFirst();
  if (taken) throw conflict(`A plan of this pool is named ${name} already`, 'name');
}
