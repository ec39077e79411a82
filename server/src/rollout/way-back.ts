/** What going back would come to: said before anybody does it. */
import type { rolloutEndpoints } from '@vatline/contract/rollout';
import { MINUTE } from '@vatline/core/time/instant';
import type { z } from 'zod';
import type { Parts } from '../platform/parts.ts';
import { Refusal } from '../platform/problem.ts';
import { hostsLosing } from './blends/losing.ts';
import type { Plans } from './plans.ts';
import { prepareReturn, type PreparedRollout } from './start.ts';
import type { RolloutRow } from './tables.ts';

type WayBack = z.infer<typeof rolloutEndpoints.wayBack.response>;

const never = { p10: null, p50: null, p90: null };
const none = { p10: 0, p50: 0, p90: 0 };

/** Of a rollout under way as if its hosts at work were done: they are finished first. */
export async function wayBack(
  parts: Parts,
  plans: Plans,
  row: RolloutRow,
  batch: number | undefined,
): Promise<WayBack> {
  const tried = {
    rehearsed: await rehearsed(parts, row),
    rehearseOn: row.ended_ms === null ? null : await hostToTry(parts, row),
  };
  try {
    return { ...(await outcome(plans, await prepareReturn(parts, plans, row, batch))), ...tried };
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    const ways = { rebuild: 0, attach: 0, 'attach in service': 0 };
    const nothing = { hosts: 0, batch: batch ?? 0, finish: never, minSeatsLeft: none, ways, losing: 0 };
    return { refusal: error.message, ...nothing, ...tried };
  }
}

async function outcome(
  plans: Plans,
  { request, planned, promised }: PreparedRollout,
): Promise<Omit<WayBack, 'rehearsed' | 'rehearseOn'>> {
  const { p10, p50, p90 } = promised.finish;
  const whole = (at: number | null) => (at === null ? null : Math.round(at));
  return {
    refusal: '',
    hosts: planned.hosts.length,
    batch: request.batch,
    finish: { p10: whole(p10), p50: whole(p50), p90: whole(p90) },
    minSeatsLeft: promised.minSeatsLeft,
    ways: planned.ways,
    losing: await hostsLosing(plans, planned.pool, request),
  };
}

/** A rollout of one host to where this one came from, begun since; the last that was done. */
async function rehearsed({ db }: Parts, row: RolloutRow): Promise<WayBack['rehearsed']> {
  const tried = await db
    .selectFrom('rollout')
    .innerJoin('rollout_host', 'rollout_host.rollout_id', 'rollout.id')
    .innerJoin('known_host', 'known_host.id', 'host_id')
    .select(['name', 'rollout_host.started_ms as began', 'finished_ms as done'])
    .where('rollout.pool_id', '=', row.pool_id)
    .where('to_blend_id', '=', row.from_blend_id)
    .where('is_part', '=', 1)
    .where('rollout.started_ms', '>=', row.started_ms)
    .where('stage', '=', 'done')
    .where(({ eb, selectFrom }) =>
      eb(
        selectFrom('rollout_host as other')
          .select(({ fn }) => fn.countAll<number>().as('n'))
          .whereRef('other.rollout_id', '=', 'rollout.id'),
        '=',
        1,
      ),
    )
    .orderBy('finished_ms', 'desc')
    .limit(1)
    .executeTakeFirst();
  if (!tried || tried.began === null || tried.done === null) return null;
  return { host: tried.name, minutes: (tried.done - tried.began) / MINUTE, at: tried.done };
}

/** The first of those that were changed. */
async function hostToTry({ db }: Parts, { id }: RolloutRow): Promise<string | null> {
  const row = await db
    .selectFrom('rollout_host')
    .innerJoin('host', 'host.id', 'host_id')
    .select('name')
    .where('rollout_id', '=', id)
    .where('stage', '=', 'done')
    .orderBy('number')
    .limit(1)
    .executeTakeFirst();
  return row?.name ?? null;
}
