import { sql, type Migration } from 'kysely';

const statements = [
  `alter table package add column side_by_side integer not null default 0`,
  // How many versions retention keeps besides those that something needs; null keeps all.
  `alter table package add column keep_versions integer`,
  // The share that hosts read it from, once it was uploaded whole.
  `alter table package_version add column share text`,
  // What attaching it took on a host, measured by a trial.
  `alter table package_version add column sign_in_json text`,
  // Containers from before are where the practice share first put them.
  `update package_version set share = 'containers' where state in ('live', 'held')`,
];

/** Versions side by side, retention, where containers lie, and what attaching them takes. */
export const versionsAndHosts: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
