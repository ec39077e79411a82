import { sql, type Migration } from 'kysely';

const statements = [
  `alter table rollout add column paused_ms integer`,
  // Every change under way, with who, when and why; the first is the plan that it began with.
  `create table rollout_revision (rollout_id text not null references rollout (id) on delete cascade, number integer not null,
    plan_id text not null references plan (id), at_ms integer not null, by_role text, says text not null, why text not null,
    expected_ms integer, primary key (rollout_id, number)) strict, without rowid`,
  `insert into rollout_revision (rollout_id, number, plan_id, at_ms, by_role, says, why, expected_ms)
    select id, 1, plan_id, started_ms, null, '', '', promised_ms from rollout`,
];

/** Rollouts are paused, and their plans changed while they run. */
export const planRevisions: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
