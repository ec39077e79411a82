/** From what a person decided, and what the estate knows, to a plan that can be forecast. */
import type { RolloutRequest } from '@vatline/contract/rollout';
import { affordableRuns, type RolloutPlan } from '@vatline/core/rollout/forecast';
import { needsRebuild } from '@vatline/core/rollout/needs-rebuild';
import { usualFailures } from '@vatline/core/rollout/usual-failures';
import { workTime, type WorkTime } from '@vatline/core/rollout/usual-work';
import type { Instant } from '@vatline/core/time/instant';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import type { HostRow, PoolRow } from '../pool/tables.ts';
import type { PoolStore } from '../pool/pools.ts';

export interface PlannedRollout {
  readonly plan: RolloutPlan;
  readonly pool: PoolRow;
  /** The hosts that do not run the wanted blend. */
  readonly hosts: readonly HostRow[];
  readonly work: WorkTime;
  readonly expected: readonly number[];
  readonly rebuilds: boolean;
}

/** Sorted, so that the order in which packages were chosen does not make another blend. */
export function sameContents(a: readonly string[], b: readonly string[]): boolean {
  return [...a].sort().join() === [...b].sort().join();
}

export async function planFor(
  parts: Parts,
  pools: PoolStore,
  request: RolloutRequest,
  options: { seed: number; from: Instant; runs: number },
): Promise<PlannedRollout> {
  const pool = await pools.pool(request.poolId);
  const all = await pools.hosts.of(pool.id);
  const blends = await parts.db.selectFrom('blend').selectAll().where('pool_id', '=', pool.id).execute();
  const wanted = new Set(
    blends
      .filter(
        (b) =>
          b.image_version_id === request.imageVersionId &&
          sameContents(fromJson<string[]>(b.packages_json), request.packageVersionIds),
      )
      .map((b) => b.id),
  );
  const hosts = all.filter(
    (host) => !wanted.has(host.blend_id) || host.state === 'failed' || host.contents_known === 0,
  );
  const imageOf = new Map(blends.map((b) => [b.id, b.image_version_id]));
  const rebuilds = hosts.some((host) =>
    needsRebuild(
      { imageVersionId: imageOf.get(host.blend_id) ?? '', isKnown: host.contents_known === 1 },
      request.imageVersionId,
    ),
  );
  const work = workTime(pool.clone, rebuilds, await pastWork(parts, pool.id));
  const expected = await parts.estate.activity.expected(pool.name, all.length, pool.session_limit);
  const plan: RolloutPlan = {
    from: options.from,
    window: { ...request.window, zone: request.zone },
    hosts: hosts.length,
    batch: request.batch,
    maxUnavailable: request.maxUnavailable,
    work: { medianMinutes: work.medianMinutes, p90Minutes: work.p90Minutes },
    drain: {
      limitMinutes: request.drainLimitMinutes,
      session: await parts.estate.activity.sessionLength(pool.name),
    },
    failure: usualFailures,
    // Without a reserve seats are counted but hold nothing back: a reserve of -1 keeps none.
    seats: {
      hosts: all.length,
      perHost: pool.session_limit,
      expected,
      reserve: request.reserve ?? -1,
      zone: request.zone,
    },
    runs: affordableRuns(hosts.length, options.runs),
    seed: options.seed,
  };
  return { plan, pool, hosts, work, expected, rebuilds };
}

/** Minutes of work on hosts of this pool that were rebuilt, newest first. */
async function pastWork(parts: Parts, poolId: string): Promise<number[]> {
  const rows = await parts.db
    .selectFrom('pool_pace')
    .select('minutes')
    .where('pool_id', '=', poolId)
    .orderBy('finished_ms', 'desc')
    .limit(500)
    .execute();
  return rows.map((row) => row.minutes);
}
