import { sql, type Migration } from 'kysely';

const statements = [
  `create table fragment_revision (name text not null, revision integer not null, steps_json text not null, note text not null,
    created_ms integer not null, primary key (name, revision)) strict`,
  `create table hand_note (id integer primary key, line_id text not null references image_line (id), text text not null, at_ms integer not null) strict`,
  `create index hand_note_by_line on hand_note (line_id)`,
  // Which applications a version holds, so that all versions can be asked at once.
  `create table application (id integer primary key, publisher text not null, name text not null, version text not null,
    unique (publisher, name, version)) strict`,
  `create table version_holds (version_id text not null references image_version (id), application_id integer not null references application (id),
    primary key (version_id, application_id)) strict, without rowid`,
  `create index version_holds_by_application on version_holds (application_id)`,
  // Versions from before are read once, at the next start.
  `alter table image_version add column indexed integer not null default 0`,
  // The job that cut it, and the hardware of one that was made elsewhere (its recipe revision is 0).
  `alter table image_version add column job_id text`,
  `alter table image_version add column hardware_json text`,
  `alter table image_line add column forked_from text references image_version (id)`,
  `alter table image_line add column checkpoint_budget_bytes integer not null default 80000000000`,
  `alter table checkpoint add column size_bytes integer not null default 0`,
  // The build a step ran in; runs from before share the instant of their build.
  `alter table step_duration add column build text not null default ''`,
  `update step_duration set build = 'before-' || at_ms`,
  `alter table job add column pause integer not null default 0`,
];

/** Fragments, changes by hand, what versions hold, where lines come from, checkpoints with their sizes, pauses. */
export const imageDepth: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
