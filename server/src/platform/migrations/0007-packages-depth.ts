import { sql, type Migration } from 'kysely';

const statements = [
  // Every container that was built of a version; the version's own digest is that of the chosen one.
  `create table container (version_id text not null references package_version (id), format text not null, digest text not null,
    size_bytes integer not null, seconds real not null, built_ms integer not null, primary key (version_id, format)) strict`,
  `insert into container (version_id, format, digest, size_bytes, seconds, built_ms)
    select id, 'oci', digest, container_bytes, 0, built_ms from package_version`,
  `alter table package_version add column format text not null default 'oci'`,
  `alter table package_version add column capture_id text references capture (id)`,
  // What was found when it was verified last; null while it has not been.
  `alter table package_version add column verified_json text`,
  `alter table package_version add column verified_ms integer`,
  // Keys are sealed: the key that opens them is not in the database.
  `create table certificate (id text primary key, name text not null unique, chain_pem text not null, sealed_key text not null,
    created_ms integer not null) strict`,
  `alter table package_version add column certificate_id text references certificate (id)`,
  `alter table package_version add column signed_ms integer`,
];

/** Containers in several formats, signatures and what verification found. */
export const packagesDepth: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
  },
};
