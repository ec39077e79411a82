import { sql, type Migration } from 'kysely';

/** A rollout of 10,000 hosts asks at every event who is next and how many are in which state. */
export const hostCounts: Migration = {
  async up(db) {
    await sql.raw('drop index rollout_host_by_stage').execute(db);
    await sql
      .raw('create index rollout_host_by_turn on rollout_host (rollout_id, stage, attempts, number)')
      .execute(db);
    await sql.raw('create index host_by_state on host (pool_id, state)').execute(db);
  },
};
