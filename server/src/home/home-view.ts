/** The line drawn large: lanes with their pools, the next window, and what needs a person. */
import type { Home } from '@vatline/contract/home';
import type { ImageVersion } from '@vatline/contract/image';
import type { Rollout } from '@vatline/contract/rollout';
import { lineSummaries } from '../image/present.ts';
import type { Parts } from '../platform/parts.ts';
import { needsOf } from './needs.ts';
import type { Stores } from './stores.ts';

type Lane = Home['lanes'][number];

const MAX_NEEDS = 7;

export async function homeView(parts: Parts, stores: Stores): Promise<Home> {
  const lines = await lineSummaries(parts, stores.images);
  const pools = await countedPools(parts);
  const open = (await stores.rollouts.list()).filter((rollout) => rollout.endedAt === null);
  const byPool = new Map(open.map((rollout) => [rollout.poolId, rollout]));
  const sum = (of: (pool: CountedPool) => number) => pools.reduce((total, pool) => total + of(pool), 0);
  return {
    hosts: sum((pool) => pool.hosts),
    asTheyShould: sum((pool) => pool.asTheyShould),
    next: nextOf(open),
    lanes: lines.map((line) => ({
      lineId: line.id,
      line: line.name,
      recipeRevision: line.recipeRevision,
      steps: line.steps,
      versions: notable(line.versions),
      pools: pools
        .filter((pool) => pool.line_id === line.id)
        .map(({ id, name, hosts }) => ({ id, name, hosts, rollout: ahead(byPool.get(id)) })),
    })),
    needs: (await needsOf(parts, stores, lines, open)).slice(0, MAX_NEEDS),
  };
}

interface CountedPool {
  readonly id: string;
  readonly name: string;
  readonly line_id: string;
  readonly hosts: number;
  /** Hosts that run the blend they should by now. */
  readonly asTheyShould: number;
}

async function countedPools({ db }: Parts): Promise<CountedPool[]> {
  const pools = await db.selectFrom('pool').select(['id', 'name', 'line_id']).orderBy('name').execute();
  const rows = await db
    .selectFrom('host')
    .select(({ fn, eb }) => [
      'pool_id',
      fn.countAll<number>().as('hosts'),
      fn
        .countAll<number>()
        .filterWhere(eb.and([eb('next_blend_id', 'is', null), eb('work', '!=', 'failed')]))
        .as('asTheyShould'),
    ])
    .groupBy('pool_id')
    .execute();
  const counts = new Map(rows.map((row) => [row.pool_id, row]));
  return pools.map((pool) => {
    const { hosts = 0, asTheyShould = 0 } = counts.get(pool.id) ?? {};
    return { ...pool, hosts, asTheyShould };
  });
}

function nextOf(open: readonly Rollout[]): Home['next'] {
  const next = open
    .filter((rollout) => rollout.nextWindow !== null && rollout.state !== 'stopped')
    .sort((a, b) => (a.nextWindow?.start ?? 0) - (b.nextWindow?.start ?? 0))[0];
  if (!next?.nextWindow) return null;
  return {
    pool: next.pool,
    rolloutId: next.id,
    hosts: leftOf(next),
    windowStart: next.nextWindow.start,
    windowEnd: next.nextWindow.end,
    expectedAt: next.expectedAt,
  };
}

function ahead(rollout: Rollout | undefined): Lane['pools'][number]['rollout'] {
  if (!rollout) return null;
  return {
    id: rollout.id,
    left: leftOf(rollout),
    windowStart: rollout.nextWindow?.start ?? null,
    windowEnd: rollout.nextWindow?.end ?? null,
    expectedAt: rollout.expectedAt,
    isPaused: rollout.pausedAt !== null,
  };
}

function leftOf(rollout: Rollout): number {
  return rollout.hosts - rollout.done - rollout.setAside;
}

/** Versions in use, and the newest; at most four. */
function notable(versions: readonly ImageVersion[]): ImageVersion[] {
  return versions.filter((version, i) => i === 0 || version.usedBy.length > 0).slice(0, 4);
}
