import { sql, type Migration } from 'kysely';

const statements = [
  `create table option_suite (id text primary key, name text not null, suite_json text not null, created_ms integer not null) strict`,
  `create table option_sheet (suite_id text not null references option_suite (id), name text not null, values_json text not null,
    changed_ms integer not null, primary key (suite_id, name)) strict, without rowid`,
];

/** Suites with options, and the sheets filled for them. */
export const optionSheets: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
