import { sql, type Migration } from 'kysely';

const ROLES = `('engineer', 'operator', 'approver')`;

/** What a ring is to be, the same wherever one is kept. */
const planned = `name text not null, pool_id text not null references pool (id), take_json text not null,
    plan_id text not null references plan (id), finished_share real not null, soak_hours real not null,
    needs_approval integer not null, watches_sign_ins integer not null, goes_back integer not null`;

const orders = [
  `create table ring_order (id text primary key, name text not null unique) strict`,
  `create table ring_order_revision (order_id text not null references ring_order (id) on delete cascade,
    number integer not null, at_ms integer not null, by_role text check (by_role in ${ROLES}),
    primary key (order_id, number)) strict, without rowid`,
  `create table planned_ring (order_id text not null, revision integer not null, number integer not null, ${planned},
    primary key (order_id, revision, number),
    foreign key (order_id, revision) references ring_order_revision (order_id, number) on delete cascade) strict, without rowid`,
];

const staged = [
  // An order may be forgotten while rollouts go on by it: they have their rings themselves.
  `create table staged_rollout (id text primary key, title text not null,
    order_id text references ring_order (id) on delete set null, order_revision integer,
    image_version_id text references image_version (id), follows_cut integer not null, by_role text check (by_role in ${ROLES}),
    state text not null check (state in ('under way', 'held', 'stopped', 'done')), held_why text not null,
    asks_ms integer, not_before_ms integer not null, started_ms integer not null, ended_ms integer, promised_ms integer,
    seed integer not null) strict`,
  `create index staged_under_way on staged_rollout (started_ms) where ended_ms is null`,
  `create table staged_package (staged_id text not null references staged_rollout (id) on delete cascade,
    place integer not null, package_version_id text not null, primary key (staged_id, place)) strict, without rowid`,
  // Those that follow a cut are one rollout through rings for each version.
  `insert into staged_rollout select 'staged-' || version_id, image_line.name || ' ' || image_version.number, null, null,
      version_id, 1, null,
      case when max(ring.state = 'waiting') then 'under way'
        when max(ring.state in ('dropped', 'stopped')) then 'stopped' else 'done' end, '', null,
      min(not_before_ms), min(not_before_ms),
      case when max(ring.state = 'waiting') then null else max(coalesce(due_ms, not_before_ms)) end, null, 1
    from ring join image_version on image_version.id = version_id join image_line on image_line.id = image_version.line_id
    group by version_id`,
  `create table new_ring (id text primary key, staged_id text not null references staged_rollout (id) on delete cascade,
    number integer not null, ${planned}, state text not null check (state in ('waiting', 'started', 'done', 'dropped')),
    rollout_id text references rollout (id), note text not null, began_ms integer, promised_opens_ms integer, promised_p10_ms integer,
    promised_p50_ms integer, promised_p90_ms integer, unique (staged_id, number)) strict`,
  `insert into new_ring select ring.id, 'staged-' || version_id, number, pool.name, pool_id, '{"by":"rest"}', plan_id, 1, 0, 0, 0, 0,
      iif(ring.state = 'stopped', 'dropped', ring.state), rollout_id, '', null, null, null, null, null
    from ring join pool on pool.id = pool_id`,
  `create table new_gate (id integer primary key, ring_id text not null references new_ring (id) on delete cascade,
    at_ms integer not null, verdict text not null check (verdict in ('open', 'wait', 'hold')), why text not null) strict`,
  `insert into new_gate select id, ring_id, at_ms,
      case verdict when 'start' then 'open' when 'drop' then 'hold' else 'wait' end, why from gate`,
  `drop table gate`,
  `drop table ring`,
  `alter table new_ring rename to ring`,
  `alter table new_gate rename to gate`,
  `create index gate_by_ring on gate (ring_id, id)`,
  `create index ring_by_rollout on ring (rollout_id)`,
  `create table gate_decision (id integer primary key, ring_id text not null references ring (id) on delete cascade,
    at_ms integer not null, what text not null check (what in ('approve', 'refuse', 'open anyway')),
    by_role text check (by_role in ${ROLES}), why text not null) strict`,
  `create index decision_by_ring on gate_decision (ring_id, id)`,
];

const statements = [
  ...orders,
  ...staged,
  // Windows of a ring count from the beginning of the whole, which may be days before its own.
  `alter table rollout add column windows_from_ms integer not null default 0`,
  `update rollout set windows_from_ms = started_ms`,
];

/** Orders of rings, and rollouts that go through them with a gate behind each. */
export const rings: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
