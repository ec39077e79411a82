import { sql, type Migration } from 'kysely';

const ROLES = `('engineer', 'operator', 'approver')`;

const statements = [
  // Whose doing a note and a job are. Of what was there before nobody knows.
  `alter table journal add column by_role text check (by_role in ${ROLES})`,
  `alter table job add column by_role text check (by_role in ${ROLES})`,
  // Lists of thousands are counted by these without a look at the hosts themselves.
  `drop index host_by_state`,
  `create index host_by_state on host (pool_id, state, next_blend_id, name)`,
  `create index host_with_note on host (name) where note != ''`,
];

/** Who acts, and indexes for ten thousand hosts. */
export const whoActs: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
