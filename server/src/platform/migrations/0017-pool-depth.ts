import { sql, type Kysely, type Migration } from 'kysely';

const oldKept = {
  title: '',
  description: '',
  tags: [],
  signOut: 'keep',
  idleMinutes: null,
  disconnectMinutes: null,
  mayRestart: true,
  zone: null,
  size: '',
  dataGigabytes: 0,
  days: 30,
  joinAccount: null,
  licence: null,
  afterMaking: '',
  isHeld: false,
};
const oldSettings = {
  ...oldKept,
  fillGaps: false,
  atOnce: 8,
  onFault: 'stop',
  isAnyway: false,
  isAdopting: false,
};

const places = [
  // A pool stands on one place or several, which are filled in their order.
  `create table pool_place (pool_id text not null references pool (id) on delete cascade, place integer not null,
    site text not null, network text not null, at_most integer, primary key (pool_id, place)) strict, without rowid`,
  `insert into pool_place (pool_id, place, site, network, at_most) select pool_id, 0, site, '', null from pool_placement`,
  `create table new_placement (pool_id text not null, place integer not null,
    role text not null check (role in ('disks', 'parent', 'data')), datastore text not null, primary key (pool_id, place, role),
    foreign key (pool_id, place) references pool_place (pool_id, place) on delete cascade) strict, without rowid`,
  `insert into new_placement (pool_id, place, role, datastore) select pool_id, 0, role, datastore from pool_placement`,
  `drop table pool_placement`,
  `alter table new_placement rename to pool_placement`,
  `alter table host add column place integer not null default 0`,
  `alter table host add column is_held integer not null default 0 check (is_held in (0, 1))`,
];

const hosts = [
  `alter table host add column power text not null default 'on' check (power in ('on', 'off'))`,
  // A host that was removed is still in the records of rollouts.
  `create table removed_host (id text primary key, pool_id text not null references pool (id), name text not null,
    machine_id text, service text not null, work text not null, blend_id text not null references blend (id), next_blend_id text,
    note text not null, contents_known integer not null, place integer not null, is_held integer not null, power text not null,
    removed_ms integer not null) strict`,
  `create view known_host as
    select id, pool_id, name, machine_id, service, work, blend_id, next_blend_id, note, contents_known, place, is_held, power,
      0 as is_removed from host
    union all select id, pool_id, name, machine_id, service, work, blend_id, next_blend_id, note, contents_known, place, is_held,
      power, 1 as is_removed from removed_host`,
  `create table new_rollout_host (rollout_id text not null references rollout (id), host_id text not null, number integer not null,
    stage text not null check (stage in ('waiting', 'in service', 'draining', 'rebuilding', 'attaching', 'joining', 'verifying', 'failed', 'done', 'set aside')),
    attempts integer not null, started_ms integer, work_ms integer, finished_ms integer, error text,
    primary key (rollout_id, host_id)) strict`,
  `insert into new_rollout_host (rollout_id, host_id, number, stage, attempts, started_ms, work_ms, finished_ms, error)
    select rollout_id, host_id, number, stage, attempts, started_ms, work_ms, finished_ms, error from rollout_host`,
  `drop table rollout_host`,
  `alter table new_rollout_host rename to rollout_host`,
  `create index rollout_host_by_turn on rollout_host (rollout_id, stage, attempts, number)`,
];

const pools = [
  // Of pools from before, nobody knows by which name the size of their hosts goes.
  `alter table pool add column settings_json text not null default '${JSON.stringify(oldKept)}'`,
  `alter table pool add column memory_bytes integer not null default 0`,
  `alter table pool add column graphics integer not null default 0`,
];

const reservations = [
  `create table new_reserved (name text primary key, pool_id text not null references pool (id) on delete cascade, site text not null,
    network text not null, cores integer not null, memory_bytes integer not null, graphics integer not null, licence text,
    bytes_json text not null) strict`,
  `insert into new_reserved (name, pool_id, site, network, cores, memory_bytes, graphics, licence, bytes_json)
    select name, pool_id, site, '', cores, 0, 0, null, json_array(json_array(datastore, bytes)) from host_reserved`,
  `drop table host_reserved`,
  `alter table new_reserved rename to host_reserved`,
];

const jobs = [
  // What a job promised, to be held against what happened; and what a row of a ledger waits for.
  `alter table job add column promised_ms integer`,
  `alter table ledger add column waits_since_ms integer`,
  `alter table ledger add column waits_until_ms integer`,
];

const quotas = [
  `create table quota_request (id text primary key, site text not null, cores integer not null, memory_bytes integer not null,
    graphics integer not null, text text not null, asked_ms integer not null, state text not null check (state in ('asked', 'granted', 'refused')),
    answer text not null, answered_ms integer) strict`,
];

const accounts = [
  `create table join_account (name text primary key, sealed_password text not null, known_ms integer not null) strict`,
];

const statements = [places, hosts, pools, reservations, jobs, quotas, accounts].flat();

/** Places, settings and reservations of pools, and the accounts that their hosts join with. */
export const poolDepth: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
    await bringJobs(db);
  },
};

interface OldInput {
  readonly names?: readonly string[];
  readonly memoryBytes: number;
  readonly pool: Record<string, unknown>;
}

/** Pools that are being made while the program is renewed go on as they were begun. */
async function bringJobs(db: Kysely<unknown>): Promise<void> {
  const jobs = await sql<{
    id: string;
    input_json: string;
  }>`select id, input_json from job where kind = 'make pool'`.execute(db);
  for (const { id, input_json } of jobs.rows) {
    const { names, memoryBytes, pool, ...input } = JSON.parse(input_json) as OldInput;
    if (!names) continue;
    const { site, datastore, processors, ...kept } = pool;
    const size = { processors, memoryBytes, graphics: 0 };
    const place = { site, network: '', datastore, parentDatastore: null, dataDatastore: null, atMost: null };
    const now = {
      ...input,
      pool: { ...kept, ...oldSettings, places: [place] },
      hosts: names.map((name) => ({ name, place: 0, size })),
    };
    await sql`update job set input_json = ${JSON.stringify(now)} where id = ${id}`.execute(db);
  }
}
