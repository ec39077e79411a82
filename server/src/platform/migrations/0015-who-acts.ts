import { sql, type Migration } from 'kysely';

const ROLES = `('engineer', 'operator', 'approver')`;

const statements = [
  // Whose doing a note and a job are. Of what was there before nobody knows.
  `alter table journal add column by_role text check (by_role in ${ROLES})`,
  `alter table job add column by_role text check (by_role in ${ROLES})`,
];

export const whoActs: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
