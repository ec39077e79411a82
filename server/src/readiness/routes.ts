/** How ready a pool is kept, over HTTP. */
import { readinessEndpoints, type Readiness } from '@vatline/contract/pool/readiness';
import { moreHostsEndpoints } from '@vatline/contract/pool/more-hosts';
import { hostsNeeded } from '@vatline/core/pool/readiness';
import { rests } from '@vatline/core/pool/service-state';
import { DAY, HOUR } from '@vatline/core/time/instant';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import type { HostAdditions } from '../pool/add-hosts.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { PoolRow } from '../pool/tables.ts';
import type { Keeper } from './keeper.ts';
import { localNow, type ReadinessStore, type Surroundings } from './store.ts';

export interface KeepingReady {
  readonly pools: PoolStore;
  readonly readiness: ReadinessStore;
  readonly keeper: Keeper;
  readonly additions: HostAdditions;
}

/** Whoever looks wants the last week. */
const MEASURED = 7 * DAY;
const NOTES = 60;

export function readinessRoutes(door: Door, parts: Parts, all: KeepingReady): void {
  door.serve(readinessEndpoints.get, async ({ params }) => show(parts, all, await all.pools.pool(params.id)));
  door.serve(readinessEndpoints.keep, async ({ params, body }) => {
    const revision = await all.readiness.keep(params.id, body);
    all.keeper.arm(params.id, 0);
    return { revision };
  });
  door.serve(moreHostsEndpoints.preview, ({ params, body }) => all.additions.preview(params.id, body));
  door.serve(moreHostsEndpoints.add, async ({ params, body }) => ({
    jobId: await all.additions.add(params.id, body, ''),
  }));
}

async function show(parts: Parts, all: KeepingReady, pool: PoolRow): Promise<Readiness> {
  const { estate } = parts;
  const { facts, leads } = await all.readiness.factsOf(pool);
  const kept = await all.readiness.rulesOf(pool.id, facts.hosts);
  const around = await all.readiness.surroundingsOf(pool);
  const { day, minute } = localNow(parts, estate.clock.now());
  const present = await estate.activity.present(pool.name);
  const hosts = await all.pools.hosts.of(pool.id);
  const errands = await all.keeper.errands.of(pool.id);
  const nameOf = new Map(hosts.map((host) => [host.id, host.name]));
  const { kind, sessionLimit, expected, arrivals } = facts;
  return {
    ...kept,
    facts: { kind, sessionLimit, hosts: facts.hosts, expected: [...expected], arrivals: [...arrivals] },
    rules: {
      ...kept.rules,
      week: kept.rules.week.map((one) => [...one]),
      spares: kept.rules.spares === 'recommended' ? 'recommended' : [...kept.rules.spares],
      leastOn: [...kept.rules.leastOn],
    },
    leads,
    ...around,
    now: {
      day,
      hour: Math.floor(minute / 60),
      present,
      serving: hosts.filter((host) => host.service === 'in service').length,
      resting: hosts.filter(rests).length,
      needed: hostsNeeded(facts, kept.rules, { day, minute, sessions: present }),
    },
    errands: errands.map(({ host_id, errand, begun_ms }) => ({
      host: nameOf.get(host_id) ?? '',
      errand,
      begunAt: begun_ms,
    })),
    notes: await all.readiness.notesOf(pool.id, NOTES),
    measured: await measure(parts, pool, around),
  };
}

/** What the hypervisor and the broker say of the last week: nothing of it is worked out from rules. */
async function measure({ db, estate }: Parts, pool: PoolRow, { prices }: Surroundings) {
  const to = estate.clock.now();
  const from = to - MEASURED;
  const rows = await db
    .selectFrom('known_host')
    .select('machine_id')
    .where('pool_id', '=', pool.id)
    .execute();
  const ids = rows.flatMap((row) => row.machine_id ?? []);
  const { onMs, suspendedMs, thereMs } = await estate.hypervisor.onTime(ids, from, to);
  const [onHours, suspendedHours, hostHours] = [onMs / HOUR, suspendedMs / HOUR, thereMs / HOUR];
  const hours = await estate.activity.signIns(pool.name, from, to);
  return {
    from,
    to,
    onHours,
    suspendedHours,
    hostHours,
    saved: (hostHours - onHours) * prices.perHour - suspendedHours * prices.suspendedPerHour,
    hours: hours.map((hour) => ({ ...hour })),
  };
}
