/** How the pools are, from a fixed number of questions, however many hosts there are. */
import { sql } from 'kysely';
import { poolHealthEndpoints, type PoolHealth } from '@vatline/contract/pool/health';
import { badness, busiestAhead, findingsOf } from '@vatline/core/pool/health';
import { scratchFillsSoon } from '@vatline/core/pool/streaming';
import { DAY, HOUR } from '@vatline/core/time/instant';
import { wallClock } from '@vatline/core/time/zone';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { knownLeads } from './lead-times.ts';
import { noHosts } from './hosts.ts';
import type { PoolStore } from './pools.ts';
import { scratchIn } from './scratch.ts';
import type { PoolRow } from './tables.ts';

const DAYS = 7;

export function poolHealthRoute(door: Door, parts: Parts, pools: PoolStore): void {
  door.serve(poolHealthEndpoints.list, () => poolHealth(parts, pools));
}

async function poolHealth(parts: Parts, pools: PoolStore): Promise<PoolHealth[]> {
  const { estate } = parts;
  const counts = await pools.hosts.countsByPool();
  const standing = await standingByPool(parts);
  const silent = await silentByPool(parts);
  const failures = await failuresByPool(parts);
  const keptReady = await keptReadyPools(parts);
  const hourNow = Math.floor(wallClock(estate.clock.zone, estate.clock.now()).minutes / 60);
  const found: PoolHealth[] = [];
  for (const pool of await pools.all()) {
    const own = counts.get(pool.id) ?? noHosts;
    const limit = pool.session_limit;
    const expected = [...(await estate.activity.expected(pool.name, own.hosts, limit))];
    const findings = findingsOf({
      hosts: own.hosts,
      inService: own.taking,
      failed: own.broken,
      silent: silent.get(pool.id) ?? 0,
      scratchSoon: await scratchSoon(parts, pools, pool),
      ...(standing.get(pool.id) ?? { held: 0, off: 0 }),
      isKeptReady: keptReady.has(pool.id),
      sessionLimit: limit,
      expected,
      hourNow,
    });
    found.push({
      id: pool.id,
      name: pool.name,
      hosts: own.hosts,
      inService: own.taking,
      sessions: await pools.hosts.sessionsOf(pool, own),
      seats: own.taking * limit,
      expected,
      had: await hadByHour(parts, pool.name),
      startUp: startUpOf(await knownLeads(parts.db, pool)),
      busiest: busiestAhead({ expected, hourNow }),
      failures: failures.get(pool.id) ?? Array.from({ length: DAYS }, () => 0),
      findings: findings.map((finding) => ({ ...finding })),
    });
  }
  return found.sort(
    (a, b) => badness(b.findings) - badness(a.findings) || a.name.localeCompare(b.name, 'en'),
  );
}

/** The last 24 full hours, by local hour. */
async function hadByHour({ estate }: Parts, pool: string): Promise<(number | null)[]> {
  const to = Math.floor(estate.clock.now() / HOUR) * HOUR;
  const had = Array.from({ length: 24 }, (): number | null => null);
  for (const { from, mostSessions } of await estate.activity.signIns(pool, to - DAY, to))
    had[Math.floor(wallClock(estate.clock.zone, from).minutes / 60)] = mostSessions;
  return had;
}

function startUpOf({ start }: Awaited<ReturnType<typeof knownLeads>>): PoolHealth['startUp'] {
  const { p50Minutes, p90Minutes, measured } = start;
  return { p50Minutes, p90Minutes, measured };
}

/** Pools whose hosts are started when they are needed. */
async function keptReadyPools({ db }: Parts): Promise<ReadonlySet<string>> {
  const rows = await db.selectFrom('readiness').select('pool_id').where('is_kept', '=', 1).execute();
  return new Set(rows.map((row) => row.pool_id));
}

/** Hosts that are held back, or off, by pool. */
async function standingByPool({ db }: Parts): Promise<ReadonlyMap<string, { held: number; off: number }>> {
  const rows = await db
    .selectFrom('host')
    .select(['pool_id', sql<number>`sum(power = 'on')`.as('held'), sql<number>`sum(power != 'on')`.as('off')])
    .where('service', '=', 'out of service')
    .where('work', '=', 'none')
    .groupBy('pool_id')
    .execute();
  return new Map(rows.map(({ pool_id, held, off }) => [pool_id, { held, off }]));
}

/** Only pools that stream have scratch disks, and of those only hosts that are on fill any. */
async function scratchSoon({ estate }: Parts, pools: PoolStore, pool: PoolRow): Promise<number> {
  if (pool.clone !== 'network') return 0;
  const on = (await pools.hosts.of(pool.id)).filter((host) => host.power === 'on');
  const streams = await estate.streaming.of(on.map((host) => host.name));
  return [...streams.values()].filter((stream) => scratchFillsSoon(scratchIn(stream))).length;
}

async function silentByPool({ db, estate }: Parts): Promise<ReadonlyMap<string, number>> {
  const names = await estate.agents.silent();
  const rows = await db
    .selectFrom('host')
    .select(({ fn }) => ['pool_id', fn.countAll<number>().as('n')])
    .where('name', 'in', sql<string>`(select value from json_each(${JSON.stringify(names)}))`)
    // What is off cannot report, and that is nobody's trouble.
    .where('power', '=', 'on')
    .groupBy('pool_id')
    .execute();
  return new Map(rows.map(({ pool_id, n }) => [pool_id, n]));
}

/** What the journal tells of hosts that failed in rollouts, day by day, the newest last. */
async function failuresByPool({ db, estate }: Parts): Promise<ReadonlyMap<string, number[]>> {
  const from = estate.clock.now() - DAYS * DAY;
  const rows = await db
    .selectFrom('journal')
    .innerJoin('rollout', (join) => join.on(sql`'rollout:' || rollout.id`, '=', sql.ref('journal.subject')))
    .select(['rollout.pool_id', 'journal.at_ms'])
    .where('journal.kind', '=', 'rollout')
    .where('journal.text', 'like', '% failed %')
    .where('journal.at_ms', '>', from)
    .execute();
  const found = new Map<string, number[]>();
  for (const { pool_id, at_ms } of rows) {
    const days = found.get(pool_id) ?? Array.from({ length: DAYS }, () => 0);
    const day = Math.min(DAYS - 1, Math.floor((at_ms - from) / DAY));
    days[day] = (days[day] ?? 0) + 1;
    found.set(pool_id, days);
  }
  return found;
}
