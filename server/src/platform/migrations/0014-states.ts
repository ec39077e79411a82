import { sql, type Kysely, type Migration } from 'kysely';

/** What a column may hold, by table. */
const unions: Record<string, Record<string, readonly string[]>> = {
  job: { state: ['waiting', 'running', 'paused', 'failed', 'cancelled', 'done'] },
  job_step: { state: ['waiting', 'running', 'failed', 'done'] },
  ledger: { state: ['planned', 'made', 'failed', 'undone'] },
  image_version: { state: ['draft', 'in test', 'approved', 'retired'] },
  version_change: {
    state: ['draft', 'in test', 'approved', 'retired'],
    by_role: ['engineer', 'operator', 'approver', 'schedule'],
  },
  follow_up: { state: ['waiting', 'started', 'done', 'stopped', 'dropped'] },
  package: { delivery: ['container', 'in the image', 'not packaged'] },
  package_version: {
    state: ['draft', 'verified', 'live', 'held', 'withdrawn'],
    format: ['squashfs', 'vhdx', 'vhdx-fixed', 'oci'],
  },
  container: { format: ['squashfs', 'vhdx', 'vhdx-fixed', 'oci'] },
  capture: {
    state: ['capturing', 'ready', 'packaged', 'failed'],
    source: ['practice', 'upload'],
  },
  install_report: {
    state: [
      'waiting',
      'installed',
      'detected already',
      'not applicable',
      'removed',
      'not there',
      'needed',
      'failed',
      'cancelled',
    ],
  },
  bulk_row: { state: ['waiting', 'done', 'refused'] },
  pool: { kind: ['pooled', 'dedicated'], clone: ['full', 'linked', 'network'] },
  host: {
    state: ['in service', 'draining', 'rebuilding', 'attaching', 'joining', 'verifying', 'failed'],
  },
  rollout: { state: ['asleep', 'at work', 'stopped', 'done'] },
  rollout_host: {
    stage: [
      'waiting',
      'in service',
      'draining',
      'rebuilding',
      'attaching',
      'joining',
      'verifying',
      'failed',
      'done',
      'set aside',
    ],
  },
};

const indexes = [
  // A row of a ledger is looked for by what it is about, once for every object of a pool of thousands.
  `create index ledger_by_object on ledger (job_id, system, object)`,
  `create index host_by_blend on host (blend_id)`,
  `create index job_by_age on job (created_ms)`,
  `create index rollout_by_pool on rollout (pool_id)`,
];

/** Columns hold only what their states are called, and what lists of thousands are searched by has an index. */
export const states: Migration = {
  async up(db) {
    for (const [table, columns] of Object.entries(unions)) await rebuild(db, table, columns);
    for (const statement of indexes) await sql.raw(statement).execute(db);
  },
};

/**
 * Makes a table anew with checks on its columns, as SQLite advises where a table cannot be altered:
 * new, copied, the old one dropped, renamed. Foreign keys must be off, or dropping would take
 * what refers to its rows along.
 */
async function rebuild(
  db: Kysely<unknown>,
  table: string,
  columns: Record<string, readonly string[]>,
): Promise<void> {
  const made = await sql<{
    type: string;
    sql: string;
  }>`select type, sql from sqlite_master where tbl_name = ${table} and sql is not null`.execute(db);
  const old = made.rows.find((row) => row.type === 'table')?.sql ?? '';
  let text = old.replace(new RegExp(`^create table "?${table}"?`, 'i'), `create table new_${table}`);
  for (const [column, values] of Object.entries(columns)) {
    const list = values.map((value) => `'${value}'`).join(', ');
    text = text.replace(`${column} text not null`, `$& check (${column} in (${list}))`);
  }
  await sql.raw(text).execute(db);
  await sql.raw(`insert into new_${table} select * from ${table}`).execute(db);
  await sql.raw(`drop table ${table}`).execute(db);
  await sql.raw(`alter table new_${table} rename to ${table}`).execute(db);
  for (const row of made.rows) if (row.type === 'index') await sql.raw(row.sql).execute(db);
}
