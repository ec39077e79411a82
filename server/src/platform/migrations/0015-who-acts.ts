import { sql, type Migration } from 'kysely';

const ROLES = `('engineer', 'operator', 'approver')`;

const statements = [
  // Whose doing a note and a job are. Of what was there before nobody knows.
  `alter table journal add column by_role text check (by_role in ${ROLES})`,
  `alter table job add column by_role text check (by_role in ${ROLES})`,
  // Lists of thousands are counted by these without a look at the hosts themselves.
  `drop index host_by_state`,
  `create index host_by_state on host (pool_id, state, next_blend_id, name)`,
  `create index host_with_note on host (name) where note != ''`,
  // What a forecast learns from grows by a row a host; sorting all of a pool's history took longer each night.
  `create table pool_pace (id integer primary key, pool_id text not null references pool (id), finished_ms integer not null,
    minutes real not null) strict`,
  `create index pool_pace_by_end on pool_pace (pool_id, finished_ms)`,
  `insert into pool_pace (pool_id, finished_ms, minutes)
    select rollout.pool_id, rollout_host.finished_ms, (rollout_host.finished_ms - work_ms) / 60000.0
    from rollout_host join rollout on rollout.id = rollout_id
    where stage = 'done' and work_ms is not null and finished_ms is not null order by finished_ms`,
];

/** Who acts, and what ten thousand hosts are counted and learned from by. */
export const whoActs: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
