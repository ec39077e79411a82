import { sql, type Kysely, type Migration } from 'kysely';

/** An identifier as good as those of `newId`, made in SQL. */
const id = (prefix: string) => `'${prefix}-' || lower(hex(randomblob(7)))`;

const blends = [
  // No reference to the version: a blend of long ago keeps what it was made of when that is deleted.
  `create table blend_package (blend_id text not null references blend (id) on delete cascade, place integer not null,
    package_version_id text not null, primary key (blend_id, package_version_id)) strict, without rowid`,
  `create index blend_package_by_version on blend_package (package_version_id)`,
  `insert into blend_package (blend_id, place, package_version_id)
    select blend.id, min(each.key), each.value from blend, json_each(packages_json) as each group by blend.id, each.value`,
  `alter table blend drop column packages_json`,
];

const placement = [
  `create table pool_placement (pool_id text not null references pool (id) on delete cascade,
    role text not null check (role in ('disks')), site text not null, datastore text not null,
    primary key (pool_id, role)) strict, without rowid`,
  `insert into pool_placement (pool_id, role, site, datastore) select id, 'disks', site, datastore from pool`,
  `alter table pool drop column site`,
  `alter table pool drop column datastore`,
];

const FAILED = `state = 'failed'`;
const hosts = [
  // A physical host, and one that streams its image, has no machine at a hypervisor.
  `create table new_host (id text primary key, pool_id text not null references pool (id), name text not null unique,
    machine_id text,
    service text not null check (service in ('in service', 'draining', 'out of service')),
    work text not null check (work in ('none', 'rebuilding', 'joining', 'attaching', 'verifying', 'failed')),
    blend_id text not null references blend (id), next_blend_id text references blend (id), note text not null,
    contents_known integer not null default 1 check (contents_known in (0, 1)),
    check (work = 'none' or service = 'out of service')) strict`,
  `insert into new_host (id, pool_id, name, machine_id, service, work, blend_id, next_blend_id, note, contents_known)
    select id, pool_id, name, machine_id,
      case when state in ('in service', 'draining') then state else 'out of service' end,
      case when state in ('in service', 'draining') then 'none' when ${FAILED} then 'failed' else state end,
      blend_id, next_blend_id, note, contents_known from host`,
  `drop table host`,
  `alter table new_host rename to host`,
  `create index host_by_pool on host (pool_id, name)`,
  `create index host_by_blend on host (blend_id)`,
  `create index host_by_standing on host (pool_id, service, work, next_blend_id, name)`,
  `create index host_with_note on host (name) where note != ''`,
];

const entryPoints = [
  // What is assigned to an entry point outlives the version that brought it, so its identifier does too.
  `create table entry_point (id text primary key, package_id text not null references package (id), name text not null,
    nth integer not null, unique (package_id, name, nth)) strict`,
  `create table version_entry_point (version_id text not null references package_version (id) on delete cascade,
    place integer not null, entry_point_id text not null references entry_point (id), details_json text not null,
    primary key (version_id, place)) strict, without rowid`,
  `create table found_entry as select package_version.id as version_id, package_id, each.key as place,
      json_extract(each.value, '$.name') as name, json_remove(each.value, '$.name') as details,
      row_number() over (partition by package_version.id, json_extract(each.value, '$.name') order by each.key) - 1 as nth
    from package_version, json_each(entry_points_json) as each`,
  `insert into entry_point (id, package_id, name, nth)
    select ${id('entry')}, package_id, name, nth from (select distinct package_id, name, nth from found_entry)`,
  `insert into version_entry_point (version_id, place, entry_point_id, details_json)
    select version_id, place, entry_point.id, details from found_entry
    join entry_point using (package_id, name, nth)`,
  `drop table found_entry`,
  `alter table package_version drop column entry_points_json`,
];

const assignments = [
  `create table new_assignment (id text primary key, group_name text not null, pool_id text not null references pool (id),
    target_kind text not null check (target_kind in ('desktop', 'package')), target_id text not null) strict`,
  `insert into new_assignment (id, group_name, pool_id, target_kind, target_id)
    select id, group_name, pool_id, iif(package_id is null, 'desktop', 'package'), coalesce(package_id, pool_id)
    from assignment`,
  `drop table assignment`,
  `alter table new_assignment rename to assignment`,
  `create unique index assignment_once on assignment (group_name, pool_id, target_kind, target_id)`,
];

const plan = (table: string) =>
  `insert into plan (id, window_rule, window_start, window_end, zone, batch, max_unavailable, drain_limit_minutes, reserve)
    select 'plan-' || id, json_extract(request_json, '$.window.rule'), json_extract(request_json, '$.window.start'),
      json_extract(request_json, '$.window.end'), json_extract(request_json, '$.zone'),
      json_extract(request_json, '$.batch'), json_extract(request_json, '$.maxUnavailable'),
      coalesce(json_extract(request_json, '$.drainLimitMinutes'), 0), json_extract(request_json, '$.reserve')
    from ${table}`;

const plans = [
  `create table calendar (id text primary key, name text not null unique, text text not null, revision integer not null,
    kept_ms integer not null) strict`,
  `create table plan (id text primary key, window_rule text not null, window_start text not null, window_end text not null,
    zone text not null, batch integer not null, max_unavailable integer not null, drain_limit_minutes real not null,
    reserve real) strict`,
  `create table plan_calendar (plan_id text not null references plan (id) on delete cascade,
    calendar_id text not null references calendar (id) on delete cascade, primary key (plan_id, calendar_id)) strict, without rowid`,
  plan('rollout'),
  `create table new_rollout (id text primary key, pool_id text not null references pool (id),
    from_blend_id text not null references blend (id), to_blend_id text not null references blend (id),
    plan_id text not null references plan (id),
    state text not null check (state in ('asleep', 'at work', 'stopped', 'done')), is_return integer not null,
    started_ms integer not null, ended_ms integer, promised_ms integer, return_batch integer, seed integer not null) strict`,
  `insert into new_rollout select id, pool_id, from_blend_id, to_blend_id, 'plan-' || id, state, is_return, started_ms,
    ended_ms, promised_ms, return_batch, seed from rollout`,
  `drop table rollout`,
  `alter table new_rollout rename to rollout`,
  `create unique index one_open_rollout_per_pool on rollout (pool_id) where ended_ms is null`,
  `create index rollout_by_pool on rollout (pool_id)`,
];

const rings = [
  plan('follow_up'),
  `create table ring (id text primary key, version_id text not null references image_version (id), number integer not null,
    pool_id text not null references pool (id), plan_id text not null references plan (id), not_before_ms integer not null,
    due_ms integer, state text not null check (state in ('waiting', 'started', 'done', 'stopped', 'dropped')),
    rollout_id text references rollout (id), unique (version_id, number)) strict`,
  `insert into ring select id, version_id, number, pool_id, 'plan-' || id, not_before_ms, due_ms, state, rollout_id
    from follow_up`,
  // What a gate said each time it was looked at: the last one is where its ring stands.
  `create table gate (id integer primary key, ring_id text not null references ring (id) on delete cascade, at_ms integer not null,
    verdict text not null check (verdict in ('start', 'wait', 'drop')), why text not null) strict`,
  `create index gate_by_ring on gate (ring_id, id)`,
  `insert into gate (ring_id, at_ms, verdict, why)
    select id, coalesce(due_ms, not_before_ms),
      case state when 'dropped' then 'drop' when 'waiting' then 'wait' else 'start' end, note
    from follow_up where note != ''`,
  `drop table follow_up`,
];

const statements = [blends, placement, hosts, entryPoints, assignments, plans, rings].flat();

/** What pools, rollouts and access stand in is one row a thing, so that each can become of more kinds than one. */
export const readyForKinds: Migration = {
  async up(db: Kysely<unknown>) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
