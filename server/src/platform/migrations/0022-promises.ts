import { sql, type Migration } from 'kysely';

const statements = [
  `alter table rollout add column promised_p10_ms integer`,
  `alter table rollout add column promised_p50_ms integer`,
];

/** Of what was forecast at the start of a rollout also the early and the middle end, to be held against it. */
export const promises: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
