/** Forecasts of past rollouts, held against when they ended. */
import { promiseEndpoints, type Promises } from '@vatline/contract/promises';
import { calibration } from '@vatline/core/rollout/promises';
import type { Db } from '../platform/database.ts';
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
    const { id, pool, started_ms: startedAt } = row;
    return [{ id, pool, startedAt, promised: { p10, p50, p90 }, endedAt }];
  });
  const shown = kept.slice(0, SHOWN);
  const hosts = await hostsOf(
    db,
    shown.map(({ id }) => id),
  );
  const { by, ...found } = calibration(kept);
  return {
    calibration: { ...found, by: [...by] },
    kept: shown.map((one) => ({ ...one, hosts: hosts.get(one.id) ?? 0 })),
    leftOut: rows.length - kept.length,
  };
}

/** Counted for those that are shown: of two thousand rollouts there may be millions of hosts. */
async function hostsOf(db: Db, rolloutIds: readonly string[]): Promise<ReadonlyMap<string, number>> {
  const rows = await db
    .selectFrom('rollout_host')
    .select(({ fn }) => ['rollout_id', fn.countAll<number>().as('hosts')])
    .where('rollout_id', 'in', rolloutIds)
    .groupBy('rollout_id')
    .execute();
  return new Map(rows.map((row) => [row.rollout_id, row.hosts]));
}
