/** After kills: everything begun is let come to its end, and everything is counted. */
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import type { Job } from '@vatline/contract/job';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { StagedSummary } from '@vatline/contract/rings/staged';
import type { Rollout } from '@vatline/contract/rollout';
import type { RunningApp } from './running-app.ts';

/** Events that are skipped at the end; the demo's last rollout is over after some hundred. */
const MOST_EVENTS = 4_000;

/** Lets time pass until no job works and no rollout is open, but for those with failed hosts. */
export async function comeToAnEnd(app: RunningApp): Promise<void> {
  for (let i = 0; i < MOST_EVENTS; i++) {
    const rollouts = await app.api<Rollout[]>('/rollouts');
    const working = (await allJobs(app)).some((job) => job.state === 'waiting' || job.state === 'running');
    const isOver = rollouts.every((rollout) => rollout.endedAt !== null || rollout.failed > 0);
    const staged = await app.api<StagedSummary[]>('/staged-rollouts');
    if (!working && isOver && staged.every((one) => one.endedAt !== null || one.state === 'held')) return;
    await app
      .api('/estate/clock', { action: 'end of window' })
      .catch(() => app.api('/estate/clock', { action: 'next event' }).catch(() => undefined));
    await new Promise((done) => setTimeout(done, 20));
  }
}

/** The newest of them. */
export const allJobs = (app: RunningApp) => app.api<Job[]>('/jobs?limit=200');

/** Everything that is not as it should be, once all is over; the server is killed for it. */
export async function whatIsWrong(app: RunningApp): Promise<string[]> {
  const jobs = await allJobs(app);
  const pools = await app.api<PoolSummary[]>('/pools');
  const rollouts = await app.api<Rollout[]>('/rollouts');
  const staged = await app.api<StagedSummary[]>('/staged-rollouts');
  await app.kill();
  const wrong = [
    ...staged.flatMap((one) =>
      one.endedAt === null && one.state !== 'held' ? [`${one.title} is stuck`] : [],
    ),
    ...misdone(app.folder, jobs, pools, rollouts),
    ...leftBehind(app.folder),
  ];
  if (/nobody (waited|caught)/.test(app.output))
    wrong.push('the log tells of a promise or exception that nobody heard of');
  return wrong;
}

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
    service: string;
    work: string;
    pool: string;
    current: string;
    blend_id: string;
    power: string;
    errand: string | null;
  }>(
    own,
    `select host.name, machine_id, service, work, pool.name as pool, pool.blend_id as current, host.blend_id,
       host.power, errand
     from host join pool on pool.id = host.pool_id left join host_errand on host_id = host.id`,
  );
  const machines = new Map(
    rows<{ id: string; name: string; power: string }>(estate, 'select id, name, power from machine').map(
      (row) => [row.id, row],
    ),
  );
  for (const host of hosts) {
    const machine = machines.get(host.machine_id);
    if (machine?.name !== host.name) wrong.push(`${host.name} has no machine of its own`);
    const rests = host.power !== 'on' || host.errand !== null;
    if (host.service !== 'in service' && host.work !== 'failed' && !rests)
      wrong.push(`${host.name} is ${host.service}, ${host.work}`);
    if (host.errand === null && host.work === 'none' && machine?.power !== host.power)
      wrong.push(`${host.name} is ${host.power}, and its machine ${machine?.power ?? 'gone'}`);
  }
  const accounts = new Set(
    rows<{ name: string }>(estate, 'select name from computer').map((row) => row.name),
  );
  const registered = new Map(
    rows<{ host: string; takes: number }>(estate, 'select host, takes from registration').map((row) => [
      row.host,
      row.takes === 1,
    ]),
  );
  wrong.push(...disksWrong(estate), ...streamsWrong(own, estate), ...mountsWrong(own, estate));
  for (const { name, service } of hosts) {
    if (!accounts.has(name)) wrong.push(`${name} has no computer account`);
    if (!registered.has(name)) wrong.push(`${name} is not registered`);
    else if (registered.get(name) !== (service === 'in service'))
      wrong.push(`${name} is ${service}, and the broker sends people there: ${String(registered.get(name))}`);
  }
  // Nothing of a pool is there twice, and nothing that no pool has, but where its making was cut short.
  const unfinished = new Set(
    rows<{ name: string }>(own, 'select name from host_reserved').map((row) => row.name),
  );
  const known = new Set(hosts.map((host) => host.name));
  for (const { name } of machines.values())
    if (name.startsWith('WCL-') && !known.has(name) && !unfinished.has(name))
      wrong.push(`the machine ${name} is nobody's`);
  for (const job of jobs.filter((one) => one.kind === 'make pool' && one.state === 'done')) {
    const pool = pools.find((one) => `pool:${one.id}` === job.subject);
    const wanted = Number(/Make (\d+) hosts/.exec(job.title)?.[1]);
    if (pool && pool.hosts !== wanted) wrong.push(`${job.title}: ${pool.hosts} are there`);
  }
  const copies = [...machines.values()].map(({ name }) => name).filter((name) => name.startsWith('CUT-'));
  if (copies.length > 0) wrong.push(`copies of cuts are left: ${copies.join(', ')}`);
  wrong.push(...toldWrongly(own));
  own.close();
  estate.close();
  return wrong;
}

/** Hosts that stream something else than our books say, and will from their next start on. */
function streamsWrong(own: Sqlite.Database, estate: Sqlite.Database): string[] {
  const streams = new Map(
    (
      estate
        .prepare('select name, now_image, next_image from stream join machine on id = machine_id')
        .all() as {
        name: string;
        now_image: string;
        next_image: string;
      }[]
    ).map((row) => [row.name, row]),
  );
  const hosts = own
    .prepare(
      `select host.name, running.image_id as runs, coalesce(coming.image_id, running.image_id) as will
       from host join pool on pool.id = host.pool_id and pool.clone = 'network'
       join blend on blend.id = host.blend_id join image_version running on running.id = blend.image_version_id
       left join blend next on next.id = host.next_blend_id left join image_version coming on coming.id = next.image_version_id`,
    )
    .all() as { name: string; runs: string; will: string }[];
  return hosts.flatMap(({ name, runs, will }) => {
    const stream = streams.get(name);
    if (!stream) return [`${name} streams nothing`];
    return [
      ...(stream.next_image === will
        ? []
        : [`${name} is to stream ${will}, and its store says ${stream.next_image}`]),
      // Who has started with another image is noted at the next look, a minute later at most.
      ...(stream.now_image === runs || stream.now_image === will
        ? []
        : [`${name} runs ${stream.now_image}, not ${runs}`]),
    ];
  });
}

/** Hosts that give new sessions other containers than their blend has. */
function mountsWrong(own: Sqlite.Database, estate: Sqlite.Database): string[] {
  const given = new Map(
    (
      estate
        .prepare(
          `select host, group_concat(digest) as digests from (select * from mount where held_json is null order by digest) group by host`,
        )
        .all() as { host: string; digests: string }[]
    ).map((row) => [row.host, row.digests]),
  );
  const hosts = own
    .prepare(
      `select host.name, (select group_concat(digest) from (select distinct digest from blend_package
         join package_version on package_version.id = package_version_id
         where blend_package.blend_id = host.blend_id and state != 'held' order by digest)) as digests
       from host where work = 'none' and contents_known = 1`,
    )
    .all() as { name: string; digests: string | null }[];
  return hosts.flatMap(({ name, digests }) =>
    (given.get(name) ?? null) === digests ? [] : [`${name} has other containers than its blend`],
  );
}

/** Machines without a disk, disks of machines that are gone, disks on nothing, parents on which nothing stands. */
function disksWrong(estate: Sqlite.Database): string[] {
  const texts = (sql: string) => (estate.prepare(sql).all() as { text: string }[]).map((row) => row.text);
  return [
    ...texts(
      `select name || ' has no disk' as text from machine where id not in (select machine_id from disk where machine_id is not null)`,
    ),
    ...texts(`select id || ' is the disk of no machine' as text from disk where machine_id is not null
      and machine_id not in (select id from machine)`),
    ...texts(
      `select id || ' stands on nothing' as text from disk where base is not null and base not in (select id from disk)`,
    ),
    ...texts(`select id || ' carries nothing' as text from disk where role = 'parent'
      and id not in (select base from disk where base is not null)`),
  ];
}

/** What the journal leaves out or says twice of versions that were cut. */
function toldWrongly(own: Sqlite.Database): string[] {
  const texts = (sql: string) => (own.prepare(sql).all() as { text: string }[]).map((row) => row.text);
  const cut = texts(
    `select image_line.name || ' ' || number || ' was cut' as text from image_version join image_line on image_line.id = line_id
     where job_id in (select id from job where kind in ('cut', 'scheduled cut'))`,
  );
  const told = texts(`select text from journal where kind = 'cut'`);
  const times = (text: string) => told.filter((one) => one === text).length;
  return cut.filter((text) => times(text) !== 1).map((text) => `“${text}” is told ${times(text)} times`);
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
