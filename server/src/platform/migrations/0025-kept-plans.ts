import { sql, type Migration } from 'kysely';

const statements = [
  `create table kept_plan (
    id text not null primary key,
    pool_id text not null references pool (id) on delete cascade,
    name text not null,
    request_json text not null,
    revision integer not null,
    kept_ms integer not null,
    by_role text check (by_role in ('engineer', 'operator', 'approver')),
    unique (pool_id, name)
  ) strict`,
];

/** Plans of a pool that somebody has named and not begun, to hold them side by side. */
export const keptPlans: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
