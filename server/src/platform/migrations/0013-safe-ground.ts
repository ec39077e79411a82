import { machineName } from '@vatline/core/image/machine-name';
import { sql, type Kysely, type Migration } from 'kysely';

const statements = [
  // Single values of the application, such as what proves that the sealing key is the right one.
  `create table setting (name text primary key, value text not null) strict, without rowid`,
  // Whether a host holds exactly its blend; not so from a failure in the middle of its work until it is done.
  `alter table host add column contents_known integer not null default 1 check (contents_known in (0, 1))`,
  `update host set contents_known = 0 where state = 'failed'`,
  // Names and room of hosts that are being made: who asks first has them.
  `create table host_reserved (name text primary key, pool_id text not null references pool (id), site text not null,
    datastore text not null, cores integer not null, bytes integer not null) strict, without rowid`,
  `create index host_reserved_by_pool on host_reserved (pool_id)`,
  // Whether what a job made was taken back, so that it cannot be gone on with.
  `alter table job add column undone integer not null default 0 check (undone in (0, 1))`,
  // Who signed a version stays known when the certificate is deleted here: hosts go by the signature.
  `alter table package_version add column signer_pem text`,
  `update package_version set signer_pem = (select chain_pem from certificate where certificate.id = certificate_id)`,
  // What somebody else kept meanwhile is not overwritten.
  `alter table option_suite add column revision integer not null default 1`,
  `alter table option_sheet add column revision integer not null default 1`,
  `alter table installation add column revision integer not null default 1`,
  `alter table cut_schedule add column revision integer not null default 1`,
  // The computer name of a line's build machine, no two the same.
  `alter table image_line add column machine_name text not null default ''`,
];

export const safeGround: Migration = {
  async up(db) {
    for (const statement of statements) await sql.raw(statement).execute(db);
    await nameMachines(db as Kysely<LineTable>);
    await sql.raw(`create unique index image_line_machine on image_line (machine_name)`).execute(db);
  },
};

interface LineTable {
  image_line: { id: string; name: string; machine_name: string; created_ms: number };
}

/** The oldest line keeps the plain name, which its machine has. */
async function nameMachines(db: Kysely<LineTable>): Promise<void> {
  const taken = new Set<string>();
  const lines = await db.selectFrom('image_line').select(['id', 'name']).orderBy('created_ms').execute();
  for (const { id, name } of lines) {
    const machine_name = machineName(name, taken);
    taken.add(machine_name);
    await db.updateTable('image_line').set({ machine_name }).where('id', '=', id).execute();
  }
}
