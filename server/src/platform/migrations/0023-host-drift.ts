import { sql, type Migration } from 'kysely';

const statements = [
  `create table host_drift (
    host_id text not null references host (id) on delete cascade,
    kind text not null check (kind in ('machine gone', 'another image', 'unknown contents', 'container missing',
      'container too many', 'changed disk', 'silent agent')),
    what text not null,
    rank integer not null,
    found_ms integer not null,
    primary key (host_id, kind, what)
  ) strict, without rowid`,
  `create table drift_look (
    pool_id text not null primary key references pool (id) on delete cascade,
    at_ms integer not null
  ) strict, without rowid`,
];

/** What hosts were found to have that their blends do not say, and when each pool was looked at last. */
export const hostDrift: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
