import { sql, type Migration } from 'kysely';

const statements = [
  `alter table rollout_host add column way text check (way in ('rebuild', 'attach', 'attach in service'))`,
  // Until now every host was taken out of service; one that drains is made anew, which is never wrong.
  `update rollout_host set way = 'rebuild'
    where stage in ('draining', 'rebuilding', 'attaching', 'joining', 'verifying')`,
];

/** How each host gets to its blend: made anew, or attached by its agent, also while people work on. */
export const hostWays: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
