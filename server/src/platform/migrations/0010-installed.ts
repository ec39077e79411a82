import { sql, type Migration } from 'kysely';

const statements = [
  `create table installation (id text primary key, name text not null, version text not null, installation_json text not null,
    archive_digest text, archive_bytes integer, archive_files integer, created_ms integer not null) strict`,
  `create table install_report (installation_id text not null references installation (id), host text not null, state text not null,
    code integer, why text not null, at_ms integer not null, primary key (installation_id, host)) strict, without rowid`,
];

/** Applications that agents of hosts install, and what came of it. */
export const installed: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
