import { sql, type Migration } from 'kysely';

const statements = [
  `create table rule_set_revision (name text not null, revision integer not null, rules_json text not null, note text not null,
    created_ms integer not null, primary key (name, revision)) strict`,
  // What was asked for: installers, and how the machine was to behave.
  `alter table capture add column request_json text not null default '{"installers":[],"quiet":false,"restarts":false}'`,
  `update capture set request_json = json_object('installers', json_array(installer), 'quiet', json('false'), 'restarts', json('false'))
    where installer is not null`,
  `alter table capture drop column installer`,
  // The rules that judged it; empty for the built-in ones alone.
  `alter table capture add column rules_name text not null default ''`,
  `alter table capture add column rules_revision integer not null default 0`,
  // The manifest so far, as the packager left it.
  `alter table capture add column draft_json text`,
  // What else the manifest says, besides the entry points.
  `alter table package_version add column details_json text not null default '{}'`,
];

/** Rule sets, captures of several installers, manifests in the making. */
export const captureDepth: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
