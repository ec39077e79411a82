import { sql, type Migration } from 'kysely';

const statements = [
  `alter table rollout add column paused_ms integer`,
  // Hosts that had failed when somebody let it go on: only more than these pause it again.
  `alter table rollout add column failures_seen integer not null default 0`,
  `alter table plan add column stop_failures integer`,
  `alter table plan add column stop_share real`,
  `alter table plan add column stop_after integer not null default 0`,
  // Every change under way, with who, when and why; the first is the plan that it began with.
  `create table rollout_revision (rollout_id text not null references rollout (id) on delete cascade, number integer not null,
    plan_id text not null references plan (id), at_ms integer not null, by_role text, says text not null, why text not null,
    expected_ms integer, primary key (rollout_id, number)) strict, without rowid`,
  `insert into rollout_revision (rollout_id, number, plan_id, at_ms, by_role, says, why, expected_ms)
    select id, 1, plan_id, started_ms, null, '', '', promised_ms from rollout`,
];

/** Rollouts are paused, by people or by a rule, and their plans changed while they run. */
export const planRevisions: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
