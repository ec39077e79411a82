import { sql, type Migration } from 'kysely';

/** What came of each row where many things were done at once. */
export const bulk: Migration = {
  async up(db) {
    await sql
      .raw(
        `create table bulk_row (job_id text not null, number integer not null, what text not null, state text not null,
          result text not null, primary key (job_id, number)) strict, without rowid`,
      )
      .execute(db);
  },
};
