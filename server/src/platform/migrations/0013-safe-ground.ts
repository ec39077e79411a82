import { sql, type Migration } from 'kysely';

const statements = [
  // Single values of the application, such as what proves that the sealing key is the right one.
  `create table setting (name text primary key, value text not null) strict, without rowid`,
  // Whether a host holds exactly its blend; not so from a failure in the middle of its work until it is done.
  `alter table host add column contents_known integer not null default 1 check (contents_known in (0, 1))`,
  `update host set contents_known = 0 where state = 'failed'`,
];

export const safeGround: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
