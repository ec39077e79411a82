import { sql, type Migration } from 'kysely';

const statements = [
  // Single values of the application, such as what proves that the sealing key is the right one.
  `create table setting (name text primary key, value text not null) strict, without rowid`,
];

export const safeGround: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
