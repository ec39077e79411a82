import { sql, type Migration } from 'kysely';

const columns = (
  power: string,
) => `id, pool_id, name, machine_id, service, work, blend_id, next_blend_id, note, contents_known, place,
  is_held, ${power}, rests_since_ms`;

const hosts = [
  `drop view known_host`,
  // A host may be suspended as well; what a column may hold is not to be changed, so that it is made anew.
  `alter table host add column new_power text not null default 'on' check (new_power in ('on', 'suspended', 'off'))`,
  `update host set new_power = power`,
  `alter table host drop column power`,
  `alter table host rename column new_power to power`,
  `alter table host add column rests_since_ms integer`,
  `alter table removed_host add column rests_since_ms integer`,
  `create view known_host as select ${columns('power')}, 0 as is_removed from host
    union all select ${columns('power')}, 1 as is_removed from removed_host`,
];

const readiness = [
  `create table readiness (pool_id text primary key references pool (id) on delete cascade, rules_json text not null,
    is_kept integer not null check (is_kept in (0, 1)), revision integer not null, kept_ms integer) strict, without rowid`,
  // What is done to a host so that its pool stays ready; gone when it is done.
  `create table host_errand (host_id text primary key references host (id) on delete cascade, pool_id text not null,
    errand text not null check (errand in ('starting', 'resuming', 'draining', 'stopping', 'suspending')), begun_ms integer not null)
    strict, without rowid`,
  `create index host_errand_by_pool on host_errand (pool_id)`,
  `create table lead_time (pool_id text not null references pool (id) on delete cascade,
    kind text not null check (kind in ('start', 'resume', 'make')), at_ms integer not null, minutes real not null) strict`,
  `create index lead_time_by_pool on lead_time (pool_id, kind, at_ms)`,
  `create table readiness_note (pool_id text not null references pool (id) on delete cascade, at_ms integer not null, text text not null) strict`,
  `create index readiness_note_by_pool on readiness_note (pool_id, at_ms)`,
];

const copies = [
  `create table kept_copy (machine_id text primary key, pool_id text not null references pool (id) on delete cascade, host text not null,
    name text not null, kept_ms integer not null) strict, without rowid`,
];

const rollouts = [
  `alter table rollout add column is_remake integer not null default 0 check (is_remake in (0, 1))`,
  `alter table rollout add column is_part integer not null default 0 check (is_part in (0, 1))`,
  `alter table pool add column source_hold text not null default ''`,
  `alter table pool add column settings_revision integer not null default 1`,
];

const sites = [
  `create table site_request (id text primary key, name text not null, provider text not null, region text not null, networks_json text not null,
    asked_ms integer not null, state text not null check (state in ('asked', 'ready', 'refused')), answer text not null,
    answered_ms integer) strict`,
];

const streamed = [
  `create table stream_switch (pool_id text primary key references pool (id) on delete cascade, to_blend_id text not null references blend (id),
    begun_ms integer not null) strict, without rowid`,
  `alter table host_reserved add column chassis text`,
  `alter table host_reserved add column slot integer`,
  `alter table host_reserved add column store text`,
  // Pools that stream have done so from the one store there was.
  `update pool set settings_json = json_set(settings_json, '$.store', iif(clone = 'network', 'stream-7', null), '$.scratchGigabytes', 6,
    '$.chassis', iif(clone = 'network', 'rack-7', null))`,
  `update job set input_json = json_set(input_json, '$.pool.store', null, '$.pool.scratchGigabytes', 6,
    '$.pool.chassis', null, '$.pool.slots', json_array())
    where kind = 'make pool' and json_extract(input_json, '$.pool') is not null`,
];

/** Rules by which pools are kept ready, what is done for it, what hosts stream, and sites of providers. */
export const readinessRules: Migration = {
  async up(db) {
    for (const statement of [...hosts, ...readiness, ...copies, ...rollouts, ...sites, ...streamed])
      await sql.raw(statement).execute(db);
  },
};
