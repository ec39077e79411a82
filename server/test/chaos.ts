/**
 * A night with kills: rollouts, builds, captures and new pools are begun on the demo, the server is
 * killed after a random change of its databases, started again, and so on; then all is let come to
 * its end, and everything is counted.
 */
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { seededRandom } from '@vatline/core/random';
import type { Job } from '@vatline/contract/job';
import type { PoolSummary } from '@vatline/contract/pool';
import type { Rollout } from '@vatline/contract/rollout';
import { RunningApp } from './running-app.ts';

export interface ChaosFigures {
  readonly kills: number;
  /** Changes of the databases after which the server was killed, added up. */
  readonly writes: number;
  readonly begun: Readonly<Record<string, number>>;
  /** Milliseconds that the longest start after a kill took. */
  readonly longestStart: number;
  /** Jobs by how they ended. */
  readonly jobs: Readonly<Record<string, number>>;
  readonly hosts: number;
  /** Everything that is not as it should be; empty when all is. */
  readonly wrong: readonly string[];
}

const preload = join(import.meta.dirname, 'kill-at-write.cjs');
const MOST_WRITES = 160;
/** Events that are skipped at the end; the demo's last rollout is over after some hundred. */
const MOST_EVENTS = 4_000;

export async function chaos(kills: number, seed: string): Promise<ChaosFigures> {
  const random = seededRandom(seed);
  const app = await RunningApp.start();
  const begun: Record<string, number> = {};
  let [longestStart, writes] = [0, 0];
  try {
    await app.kill();
    for (let i = 0; i < kills; i++) {
      const after = 1 + Math.floor(random() * MOST_WRITES);
      writes += after;
      const started = performance.now();
      await app.launchWith({ NODE_OPTIONS: `--require ${preload}`, KILL_AT_WRITE: String(after) });
      longestStart = Math.max(longestStart, performance.now() - started);
      await app.api('/estate/clock', { action: 'rate', rate: 0 }).catch(() => undefined);
      app.signal('SIGUSR2');
      await untilKilled(app, i, random, begun);
    }
    await app.launch();
    await comeToAnEnd(app);
    const jobs = await allJobs(app);
    const pools = await app.api<PoolSummary[]>('/pools');
    const rollouts = await app.api<Rollout[]>('/rollouts');
    await app.kill();
    const wrong = [...misdone(app.folder, jobs, pools, rollouts), ...leftBehind(app.folder)];
    const byState: Record<string, number> = {};
    for (const job of jobs) byState[job.state] = (byState[job.state] ?? 0) + 1;
    const hosts = pools.reduce((sum, pool) => sum + pool.hosts, 0);
    if (/nobody (waited|caught)/.test(app.output))
      wrong.push('the log tells of a promise or exception that nobody heard of');
    return { kills, writes, begun, longestStart: Math.round(longestStart), jobs: byState, hosts, wrong };
  } finally {
    await app.stop();
  }
}

/** Begins work and lets time pass until the server is gone. */
async function untilKilled(
  app: RunningApp,
  round: number,
  random: () => number,
  begun: Record<string, number>,
): Promise<void> {
  let asked = 0;
  while (app.isRunning) {
    try {
      if (asked++ % 12 === 0) {
        const what = await beginSomething(app, round * 100 + asked, random);
        begun[what] = (begun[what] ?? 0) + 1;
      } else await app.api('/estate/clock', { action: 'next event' });
    } catch {
      // It was killed in the middle of a request, or what was asked for is refused just now.
      await new Promise((done) => setTimeout(done, 5));
    }
  }
}

async function beginSomething(app: RunningApp, number: number, random: () => number): Promise<string> {
  const lines = await app.api<{ id: string; versions: { id: string; state: string }[] }[]>('/lines');
  const line = lines[Math.floor(random() * lines.length)];
  const pools = await app.api<PoolSummary[]>('/pools');
  switch (Math.floor(random() * 5)) {
    case 0: {
      const version = line?.versions.find((one) => one.state === 'approved');
      await app.api('/pools', {
        name: `chaos-${number}`,
        imageVersionId: version?.id,
        kind: 'pooled',
        clone: 'linked',
        pattern: `WCL-X${number}-#`,
        start: 1,
        count: 3,
        ou: 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example',
        site: 'yard-a',
        datastore: 'standard',
        processors: 2,
        sessionLimit: 5,
      });
      return 'pool';
    }
    case 1:
      await app.api(`/lines/${line?.id ?? ''}/builds`, {});
      return 'build';
    case 2:
      await app.api('/captures', { installers: ['knapsel-2.9'] });
      return 'capture';
    case 3: {
      const job = (await app.api<Job[]>('/jobs')).find((one) => one.state === 'running');
      if (!job) throw new Error('no job to cancel');
      await app.api(`/jobs/${job.id}/cancel`, {});
      return 'cancel';
    }
    default: {
      const pool = pools[Math.floor(random() * pools.length)];
      const versions = lines.find((one) => one.id === pool?.lineId)?.versions ?? [];
      const version = versions.find(
        (one) => one.state === 'approved' && one.id !== pool?.blend?.imageVersionId,
      );
      await app.api('/rollouts', {
        poolId: pool?.id,
        imageVersionId: version?.id,
        packageVersionIds: [],
        window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
        zone: 'Europe/Dublin',
        batch: 4,
        maxUnavailable: 4,
        drainLimitMinutes: 30,
        reserve: null,
      });
      return 'rollout';
    }
  }
}

async function comeToAnEnd(app: RunningApp): Promise<void> {
  for (let i = 0; i < MOST_EVENTS; i++) {
    const rollouts = await app.api<Rollout[]>('/rollouts');
    const working = (await allJobs(app)).some((job) => job.state === 'waiting' || job.state === 'running');
    if (!working && rollouts.every((rollout) => rollout.endedAt !== null || rollout.failed > 0)) return;
    await app
      .api('/estate/clock', { action: 'end of window' })
      .catch(() => app.api('/estate/clock', { action: 'next event' }).catch(() => undefined));
    await new Promise((done) => setTimeout(done, 20));
  }
}

const allJobs = (app: RunningApp) => app.api<Job[]>('/jobs?limit=200');

function misdone(
  folder: string,
  jobs: readonly Job[],
  pools: readonly PoolSummary[],
  rollouts: readonly Rollout[],
): string[] {
  const own = new Sqlite(join(folder, 'vatline.sqlite'), { readonly: true });
  const estate = new Sqlite(join(folder, 'estate.sqlite'), { readonly: true });
  const wrong: string[] = [];
  const rows = <T>(db: Sqlite.Database, sql: string) => db.prepare(sql).all() as T[];
  for (const [name, db] of [
    ['vatline', own],
    ['estate', estate],
  ] as const) {
    const [first] = db.pragma('integrity_check') as { integrity_check: string }[];
    if (first?.integrity_check !== 'ok') wrong.push(`${name}: ${first?.integrity_check ?? ''}`);
  }
  for (const row of own.pragma('foreign_key_check') as { table: string }[])
    wrong.push(`a row of ${row.table} points nowhere`);

  for (const job of jobs)
    if (job.state === 'waiting' || job.state === 'running') wrong.push(`${job.title} is ${job.state}`);
  for (const rollout of rollouts) {
    if (rollout.endedAt === null && rollout.failed === 0)
      wrong.push(`the rollout of ${rollout.pool} is stuck`);
    if (rollout.state === 'done' && rollout.done + rollout.setAside !== rollout.hosts)
      wrong.push(`the rollout of ${rollout.pool} lost hosts`);
  }

  const hosts = rows<{
    name: string;
    machine_id: string;
    state: string;
    pool: string;
    current: string;
    blend_id: string;
  }>(
    own,
    `select host.name, machine_id, state, pool.name as pool, pool.blend_id as current, host.blend_id from host join pool on pool.id = pool_id`,
  );
  const machines = new Map(
    rows<{ id: string; name: string }>(estate, 'select id, name from machine').map((row) => [
      row.id,
      row.name,
    ]),
  );
  for (const host of hosts) {
    if (machines.get(host.machine_id) !== host.name) wrong.push(`${host.name} has no machine of its own`);
    if (host.state !== 'in service' && host.state !== 'failed') wrong.push(`${host.name} is ${host.state}`);
  }
  const accounts = new Set(
    rows<{ name: string }>(estate, 'select name from computer').map((row) => row.name),
  );
  const registered = new Set(
    rows<{ host: string }>(estate, 'select host from registration').map((row) => row.host),
  );
  for (const { name } of hosts) {
    if (!accounts.has(name)) wrong.push(`${name} has no computer account`);
    if (!registered.has(name)) wrong.push(`${name} is not registered`);
  }
  // Nothing of a pool is there twice, and nothing that no pool has, but where its making was cut short.
  const unfinished = new Set(
    rows<{ name: string }>(own, 'select name from host_reserved').map((row) => row.name),
  );
  const known = new Set(hosts.map((host) => host.name));
  for (const name of machines.values())
    if (name.startsWith('WCL-') && !known.has(name) && !unfinished.has(name))
      wrong.push(`the machine ${name} is nobody's`);
  for (const job of jobs.filter((one) => one.kind === 'make pool' && one.state === 'done')) {
    const pool = pools.find((one) => `pool:${one.id}` === job.subject);
    const wanted = Number(/Make (\d+) hosts/.exec(job.title)?.[1]);
    if (pool && pool.hosts !== wanted) wrong.push(`${job.title}: ${pool.hosts} are there`);
  }
  const copies = [...machines.values()].filter((name) => name.startsWith('CUT-'));
  if (copies.length > 0) wrong.push(`copies of cuts are left: ${copies.join(', ')}`);
  own.close();
  estate.close();
  return wrong;
}

/** Files that somebody was writing when the server was killed. */
function leftBehind(folder: string): string[] {
  return ['.', 'uploads', 'archives', 'containers', 'inventories', 'captures'].flatMap((name) => {
    const path = join(folder, name);
    return (existsSync(path) ? readdirSync(path) : []).flatMap((child) =>
      /\.part$|^filling|^making/.test(child) || (name === 'uploads' && statSync(path).isDirectory())
        ? [`${name}/${child} is left`]
        : [],
    );
  });
}
