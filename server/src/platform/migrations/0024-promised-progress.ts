import { sql, type Migration } from 'kysely';

/** Of what was forecast at the start of a rollout also when each part of the hosts was to be through. */
export const promisedProgress: Migration = {
  async up(db) {
    await sql.raw('alter table rollout add column promised_progress_json text').execute(db);
  },
};
