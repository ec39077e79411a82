import { sql, type Migration } from 'kysely';

const statements = [
  // What people are told, and how long before each window; null for nothing.
  `alter table plan add column notice_text text`,
  `alter table plan add column notice_minutes integer not null default 0`,
  // The beginning of the window that people were told of last.
  `alter table rollout add column told_window_ms integer`,
];

/** People on hosts are told before a window begins, and when their host drains. */
export const notices: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
