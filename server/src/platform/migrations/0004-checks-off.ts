import { sql, type Migration } from 'kysely';

/** Checks that a line has switched off, each with the reason that somebody wrote. */
export const checksOff: Migration = {
  async up(db) {
    await sql
      .raw(
        `create table check_off (line_id text not null references image_line (id), check_id text not null,
          reason text not null, at_ms integer not null, primary key (line_id, check_id)) strict`,
      )
      .execute(db);
  },
};
