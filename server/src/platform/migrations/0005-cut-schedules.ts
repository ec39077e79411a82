import { sql, type Migration } from 'kysely';

const statements = [
  `create table cut_schedule (line_id text primary key references image_line (id), schedule_json text not null,
    /* No occurrence before it counts: when it was kept, then the last one that was dealt with. */
    after_ms integer not null, last_ms integer, last_outcome text not null) strict`,
  `create table follow_up (id text primary key, version_id text not null references image_version (id), number integer not null,
    pool_id text not null references pool (id), request_json text not null, not_before_ms integer not null, due_ms integer,
    state text not null, rollout_id text references rollout (id), note text not null, unique (version_id, number)) strict`,
  `create table version_change (id integer primary key, version_id text not null references image_version (id),
    state text not null, by_role text not null, note text not null, at_ms integer not null) strict`,
  `create index version_change_by_version on version_change (version_id)`,
  // A version that was deleted stays as a row, for the blends and rollouts that once named it.
  `alter table image_version add column gone_ms integer`,
  `alter table image_line add column keep_versions integer`,
];

/** Cuts by schedule with the rollouts that follow, who changed a version's state, and retention. */
export const cutSchedules: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
