/** Forecasts of past rollouts, held against when they ended. */
import type { Promises } from '@vatline/contract/promises';
import { promiseEndpoints } from '@vatline/contract/promises';
import { calibration } from '@vatline/core/rollout/promises';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';

/** Years of weekly rollouts of twenty pools; older ones say little of today's hosts. */
const COUNTED = 2_000;
const SHOWN = 60;

export function promiseRoutes(door: Door, parts: Parts): void {
  door.serve(promiseEndpoints.kept, () => keptPromises(parts));
}

async function keptPromises({ db }: Parts): Promise<Promises> {
  const rows = await db
    .selectFrom('rollout')
    .innerJoin('pool', 'pool.id', 'rollout.pool_id')
    .select((eb) => [
      'rollout.id',
      'pool.name as pool',
      'rollout.started_ms',
      'rollout.ended_ms',
      'rollout.state',
      'promised_p10_ms',
      'promised_p50_ms',
      'promised_ms',
      eb
        .selectFrom('rollout_host')
        .select(({ fn }) => fn.countAll<number>().as('n'))
        .whereRef('rollout_id', '=', 'rollout.id')
        .as('hosts'),
      eb
        .selectFrom('rollout_revision')
        .select(({ fn }) => fn.countAll<number>().as('n'))
        .whereRef('rollout_id', '=', 'rollout.id')
        .as('revisions'),
    ])
    .where('ended_ms', 'is not', null)
    .orderBy('ended_ms', 'desc')
    .limit(COUNTED)
    .execute();
  const kept = rows.flatMap((row) => {
    const { promised_p10_ms: p10, promised_p50_ms: p50, promised_ms: p90, ended_ms: endedAt } = row;
    // Of one that was stopped, changed or paused nobody promised what came of it.
    if (row.state !== 'done' || row.revisions !== 1) return [];
    if (p10 === null || p50 === null || p90 === null || endedAt === null) return [];
    const { id, pool, hosts, started_ms: startedAt } = row;
    return [{ id, pool, hosts: hosts ?? 0, startedAt, promised: { p10, p50, p90 }, endedAt }];
  });
  const { by, ...found } = calibration(kept);
  return {
    calibration: { ...found, by: [...by] },
    kept: kept.slice(0, SHOWN),
    leftOut: rows.length - kept.length,
  };
}
