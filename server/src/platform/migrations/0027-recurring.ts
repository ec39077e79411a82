import { sql, type Migration } from 'kysely';

const statements = [
  `create table recurring_rollout (
    pool_id text not null primary key references pool (id) on delete cascade,
    takes text not null check (takes in ('newest approved', 'made anew')),
    plan_id text not null references plan (id),
    revision integer not null,
    kept_ms integer not null,
    by_role text check (by_role in ('engineer', 'operator', 'approver')),
    handled_ms integer,
    last_outcome text not null,
    last_refused integer not null check (last_refused in (0, 1)),
    last_rollout_id text
  ) strict, without rowid`,
];

/** Rollouts that come again by themselves in every window of their plan. */
export const recurring: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
