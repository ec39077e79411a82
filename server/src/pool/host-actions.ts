/** Doing something to hosts of a pool: what it will do is worked out by the core, and then done to just those hosts. */
import {
  hostActionEndpoints,
  type ActionRequest,
  type EffectShown,
} from '@vatline/contract/pool/host-action';
import { effectOf, type ActedHost, type ActionEffect } from '@vatline/core/pool/host-actions';
import { holdBack, letIn, takesSessions } from '@vatline/core/pool/service-state';
import { wallClock } from '@vatline/core/time/zone';
import { change } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { ActInput } from './act-job.ts';
import { settingsIn, type PoolStore } from './pools.ts';
import type { HostRow, PoolRow } from './tables.ts';

export function hostActionRoutes(door: Door, parts: Parts, pools: PoolStore): void {
  door.serve(hostActionEndpoints.preview, async ({ params, body }) => {
    const pool = await pools.pool(params.id);
    const { effect, hosts } = await effectOn(parts, pools, pool, body);
    return shown(parts, pools, pool, effect, hosts);
  });

  door.serve(hostActionEndpoints.act, async ({ params, body }) => {
    return beginAction(parts, pools, await pools.pool(params.id), body);
  });
}

/** Does at once what can be, and begins a job for the rest. Throws a refusal where nothing can be done. */
export async function beginAction(
  parts: Parts,
  pools: PoolStore,
  pool: PoolRow,
  body: ActionRequest,
): Promise<{ jobId: string | null; hosts: string[] }> {
  const { effect, rows } = await effectOn(parts, pools, pool, body);
  refuse(body, effect);
  if (body.action === 'hold' || body.action === 'let in')
    return { jobId: null, hosts: await hold(parts, pools, pool, body, rows) };
  const { action, text, limitMinutes } = body;
  const input: ActInput = { poolId: pool.id, action, hosts: [...effect.hosts], text, limitMinutes };
  const jobId = await parts.jobs.start({
    kind: 'act on hosts',
    title: `${titles[action]} ${effect.hosts.length === 1 ? (effect.hosts[0] ?? '') : `${effect.hosts.length} hosts`} of ${pool.name}`,
    subject: `pool:${pool.id}`,
    input,
  });
  return { jobId, hosts: [...effect.hosts] };
}

const titles: Record<ActInput['action'], string> = {
  drain: 'Drain',
  restart: 'Restart',
  'power off': 'Power off',
  'power on': 'Power on',
  message: 'Send a message to',
  'keep a copy': 'Keep a copy of',
  remove: 'Remove',
};

/** What would be wrong with it, at the field that says so. */
function refuse({ action, text, losesData }: ActionRequest, effect: ActionEffect): void {
  if (effect.hosts.length === 0) {
    const [first] = effect.passedOver;
    throw invalid([
      {
        path: 'hosts',
        message: first ? `nothing to do: ${first.name} ${first.why}` : 'there are no such hosts',
      },
    ]);
  }
  if (action === 'message' && text.trim() === '')
    throw invalid([{ path: 'text', message: 'The message is empty' }]);
  if (effect.dataLostBytes > 0 && !losesData)
    throw invalid([{ path: 'losesData', message: 'say that the personal data on them may be lost' }]);
}

async function effectOn(
  parts: Parts,
  pools: PoolStore,
  pool: PoolRow,
  { action, hosts: names }: ActionRequest,
) {
  const wanted = new Set(names);
  const rows = (await pools.hosts.of(pool.id)).filter((host) => wanted.has(host.name));
  const hosts = await actedHosts(parts, pools, pool, rows);
  return { effect: effectOf(action, hosts, pool.session_limit), hosts, rows };
}

async function actedHosts(
  parts: Parts,
  pools: PoolStore,
  pool: PoolRow,
  rows: readonly HostRow[],
): Promise<ActedHost[]> {
  const taking = rows.filter(takesSessions).map((host) => host.name);
  const sessions = await pools.hosts.sessionsOn(pool, await pools.hosts.counts(pool.id), taking);
  const owners = await parts.estate.broker.owners(rows.map((host) => host.name));
  const inRollout = await hostsInRollout(parts, pool.id);
  const dataBytes = settingsIn(pool).dataGigabytes * 1e9;
  return rows.map((host) => ({
    name: host.name,
    service: host.service,
    work: host.work,
    power: host.power,
    isHeld: host.is_held === 1,
    sessions: sessions.get(host.name) ?? 0,
    owner: owners.get(host.name) ?? null,
    dataBytes,
    hasDisk: pool.clone !== 'network',
    isInRollout: inRollout.has(host.id),
  }));
}

/** Hosts in the list of a rollout of the pool that is not over. */
async function hostsInRollout({ db }: Parts, poolId: string): Promise<ReadonlySet<string>> {
  const rows = await db
    .selectFrom('rollout_host')
    .innerJoin('rollout', 'rollout.id', 'rollout_host.rollout_id')
    .select('host_id')
    .where('rollout.pool_id', '=', poolId)
    .where('rollout.ended_ms', 'is', null)
    .execute();
  return new Set(rows.map((row) => row.host_id));
}

/** With the seats there are now and the sessions of the next hours, so that it is seen whether seats run short. */
async function shown(
  { estate }: Parts,
  pools: PoolStore,
  pool: PoolRow,
  effect: ActionEffect,
  hosts: readonly ActedHost[],
): Promise<EffectShown> {
  const counts = await pools.hosts.counts(pool.id);
  const expected = await estate.activity.expected(pool.name, counts.hosts, pool.session_limit);
  const hour = Math.floor(wallClock(estate.clock.zone, estate.clock.now()).minutes / 60);
  const here = new Set(hosts.map((host) => host.name));
  return {
    ...effect,
    hosts: effect.hosts.filter((name) => here.has(name)),
    passedOver: effect.passedOver.map((one) => ({ ...one })),
    seatsNow: counts.taking * pool.session_limit,
    expectedNext: Math.max(expected[hour] ?? 0, expected[(hour + 1) % 24] ?? 0),
  };
}

/** At once: nothing outside has to be asked. Gives the hosts for which that changed something. */
function hold(
  parts: Parts,
  pools: PoolStore,
  pool: PoolRow,
  { action }: ActionRequest,
  rows: readonly HostRow[],
): Promise<string[]> {
  const isHeld = action === 'hold';
  const others = rows.filter((host) => (host.is_held === 1) !== isHeld);
  return change(
    parts,
    async () => {
      for (const host of others) {
        const { service, work, power } = isHeld ? holdBack(host) : letIn(host);
        await pools.hosts.set(host.id, { service, work, power, is_held: isHeld ? 1 : 0 });
      }
      return others.map((host) => host.name);
    },
    (names) => ({
      kind: 'pool',
      subject: `pool:${pool.id}`,
      text: `${names.length === 1 ? names[0] : `${names.length} hosts`} of ${pool.name} ${isHeld ? 'held back' : 'let in again'}`,
      link: `/pools/${pool.id}`,
    }),
  );
}
