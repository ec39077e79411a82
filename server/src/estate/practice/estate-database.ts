/** The practice estate's own SQLite file. Nothing outside this folder reads it. */
import type { PracticeFault } from '../control.ts';
import type { EstateErrorKind, Operation } from '../driver/operations.ts';
import { openSound } from '../../platform/database.ts';
import { keepingStatements } from '../../platform/statements.ts';
import type Sqlite from 'better-sqlite3';
import { createHash } from 'node:crypto';
import { Kysely, SqliteDialect, sql } from 'kysely';

export interface EstateTables {
  setting: { name: string; value: string };
  site: { name: string; cores: number };
  datastore: { site: string; name: string; capacity_bytes: number; operations: number };
  machine: {
    id: string;
    name: string;
    site: string;
    datastore: string;
    cores: number;
    disk_bytes: number;
    power: 'on' | 'off';
    /** Digest of what is on it. */
    guest: string;
    pool: string | null;
  };
  snapshot: { id: string; machine_id: string; guest: string; size_bytes: number };
  image: { id: string; guest: string; size_bytes: number };
  /** What is on disks, each once: ten thousand hosts of an image have the same. */
  guest: { digest: string; json: string };
  operation: {
    key: string;
    call: string;
    subject: string;
    started_ms: number;
    ready_ms: number;
    ended_ms: number | null;
    state: Operation['state'];
    effect_json: string;
    error_kind: EstateErrorKind | null;
    error: string | null;
    result: string;
  };
  made: { key: string; result: string };
  unit: { dn: string; name: string };
  person: { account: string; name: string; branch: string; role: string };
  people_group: { name: string; rule_branch: string | null };
  member: { group_name: string; person: string | null; child: string | null };
  computer: { name: string; ou: string };
  registration: { host: string; pool: string };
  share: {
    name: string;
    capacity_bytes: number;
    operations: number;
    price: number;
    /** Of one read, milliseconds. */
    latency_ms: number;
    rights_json: string;
  };
  mount: { host: string; digest: string; share: string; since_ms: number };
  share_file: { share: string; path: string; size_bytes: number };
  curve: { pool: string; expected_json: string };
  installer: { id: string; json: string };
  trait: { application: string; json: string };
  fault: PracticeFault;
  trust: { pool: string; pem: string };
}

export type EstateDb = Kysely<EstateTables>;

const schema = [
  `create table if not exists setting (name text primary key, value text not null) strict`,
  `create table if not exists site (name text primary key, cores integer not null) strict`,
  `create table if not exists datastore (site text not null, name text not null, capacity_bytes integer not null, operations integer not null, primary key (site, name)) strict`,
  `create table if not exists machine (id text primary key, name text not null unique, site text not null, datastore text not null, cores integer not null,
    disk_bytes integer not null, power text not null, guest text not null, pool text) strict`,
  `create table if not exists snapshot (id text primary key, machine_id text not null, guest text not null, size_bytes integer not null default 0) strict`,
  `create table if not exists image (id text primary key, guest text not null, size_bytes integer not null) strict`,
  `create table if not exists guest (digest text primary key, json text not null) strict, without rowid`,
  `create table if not exists operation (key text primary key, call text not null, subject text not null, started_ms integer not null, ready_ms integer not null,
    ended_ms integer, state text not null, effect_json text not null, error_kind text, error text, result text not null) strict`,
  `create index if not exists operation_ready on operation (ready_ms) where state = 'running'`,
  `create table if not exists made (key text primary key, result text not null) strict`,
  `create table if not exists unit (dn text primary key, name text not null) strict`,
  `create table if not exists person (account text primary key, name text not null, branch text not null, role text not null) strict`,
  `create table if not exists people_group (name text primary key, rule_branch text) strict`,
  `create table if not exists member (group_name text not null, person text, child text) strict`,
  `create table if not exists computer (name text primary key, ou text not null) strict`,
  `create table if not exists registration (host text primary key, pool text not null) strict`,
  `create table if not exists share (name text primary key, capacity_bytes integer not null, operations integer not null, price real not null,
    latency_ms real not null, rights_json text not null) strict`,
  `create table if not exists mount (host text not null, digest text not null, share text not null, since_ms integer not null,
    primary key (host, digest)) strict, without rowid`,
  `create table if not exists share_file (share text not null, path text not null, size_bytes integer not null, primary key (share, path)) strict`,
  `create table if not exists curve (pool text primary key, expected_json text not null) strict`,
  `create table if not exists installer (id text primary key, json text not null) strict`,
  `create table if not exists trait (application text primary key, json text not null) strict`,
  `create table if not exists fault (id text primary key, kind text not null, target text not null) strict`,
  // The pool is empty for what all hosts trust.
  `create table if not exists trust (pool text not null, pem text not null, primary key (pool, pem)) strict`,
];

export async function openEstateDatabase(path: string): Promise<EstateDb> {
  const sqlite = openSound(path);
  const db = new Kysely<EstateTables>({
    dialect: new SqliteDialect({ database: keepingStatements(sqlite) }),
  });
  for (const statement of schema) await sql.raw(statement).execute(db);
  const columns = sqlite.pragma('table_info(snapshot)') as { name: string }[];
  if (!columns.some((column) => column.name === 'size_bytes'))
    await sql.raw('alter table snapshot add column size_bytes integer not null default 0').execute(db);
  sqlite.transaction(() => tidyGuests(sqlite))();
  return db;
}

/** Tables with what is on disks. */
const onDisks = ['machine', 'snapshot', 'image'] as const;

/** Brings files to the table of guests in which every row had its own copy, and forgets those nobody has. */
function tidyGuests(sqlite: Sqlite.Database): void {
  sqlite.function('guest_digest', { deterministic: true }, (json) => guestDigest(String(json)));
  for (const table of onDisks) {
    const columns = sqlite.pragma(`table_info(${table})`) as { name: string }[];
    if (!columns.some((column) => column.name === 'guest_json')) continue;
    sqlite.exec(`insert or ignore into guest select distinct guest_digest(guest_json), guest_json from ${table};
      update ${table} set guest_json = guest_digest(guest_json);
      alter table ${table} rename column guest_json to guest`);
  }
  const had = onDisks.map((table) => `select guest from ${table}`).join(' union all ');
  sqlite.exec(`delete from guest where digest not in (${had})`);
}

/** The name of a guest: of what is written down of it. */
export function guestDigest(json: string): string {
  return createHash('sha256').update(json).digest('hex');
}

export async function readSetting(db: EstateDb, name: string): Promise<string | undefined> {
  const row = await db.selectFrom('setting').select('value').where('name', '=', name).executeTakeFirst();
  return row?.value;
}

export async function writeSetting(db: EstateDb, name: string, value: string): Promise<void> {
  await db
    .insertInto('setting')
    .values({ name, value })
    .onConflict((c) => c.column('name').doUpdateSet({ value }))
    .execute();
}
