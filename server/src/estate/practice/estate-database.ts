/** The practice estate's own SQLite file. Nothing outside this folder reads it. */
import type { PracticeFault } from '../control.ts';
import type { UnitRight } from '@vatline/core/directory/rights';
import type { Power } from '@vatline/core/power';
import type { DiskRole } from '@vatline/core/pool/disk-roles';
import type { EstateErrorKind, Operation } from '../driver/operations.ts';
import { openSound } from '../../platform/database.ts';
import { keepingStatements } from '../../platform/statements.ts';
import { bringForward } from './bring-forward.ts';
import { Kysely, SqliteDialect, sql, type Generated } from 'kysely';

export interface EstateTables {
  setting: { name: string; value: string };
  site: {
    name: string;
    cores: number;
    memory_bytes: number;
    graphics: number;
    makes_at_once: Generated<number>;
  };
  datastore: {
    site: string;
    name: string;
    capacity_bytes: number;
    operations: number;
    /** Money for a gigabyte and month. */
    price: number;
    overcommit: number;
  };
  /** Addresses that other things than machines have are reserved. */
  network: { site: string; name: string; range: string; reserved: number };
  size: {
    site: string;
    name: string;
    processors: number;
    memory_bytes: number;
    graphics: number;
    price_per_hour: number;
  };
  machine: {
    id: string;
    name: string;
    site: string;
    /** Empty for a machine that is on none, as build machines are. */
    network: string;
    cores: number;
    memory_bytes: number;
    graphics: number;
    power: Power;
    /** Since when it is so. */
    power_since_ms: Generated<number>;
    /** Digest of what is on it. */
    guest: string;
    pool: string | null;
    /** What a host was made from; null for other machines, and where nobody noted it. */
    image_id: Generated<string | null>;
  };
  disk: {
    id: string;
    site: string;
    datastore: string;
    role: DiskRole;
    machine_id: string | null;
    image_id: string | null;
    base: string | null;
    /** At `since_ms`; it grows from then on. */
    size_bytes: number;
    grows_bytes_per_day: number;
    since_ms: number;
    /** Whether what was written is gone each night. */
    is_daily: number;
  };
  /** Each change of a machine's power, and its end. */
  power_change: { machine_id: string; at_ms: number; power: Power | 'gone' };
  streaming_store: { name: string; site: string; streams: number; capacity_bytes: number; price: number };
  /** What a machine without a system disk runs, and will run from its next start on. */
  stream: {
    machine_id: string;
    store: string;
    now_image: string;
    next_image: string;
    scratch_bytes: number;
    fills_bytes_per_day: number;
    started_ms: number;
  };
  /** Where a provider gives room; `offer_json` is what. */
  region: { provider: string; name: string; offer_json: string; site: string | null };
  chassis: { name: string; site: string };
  chassis_machine: {
    chassis: string;
    slot: number;
    serial: string;
    cores: number;
    memory_bytes: number;
    /** It answers from this look on. */
    answers_at_look: number;
    machine_id: string | null;
  };
  chassis_look: { chassis: string; number: number; key: string; started_ms: number };
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
  account: { name: string; unit: string; password_digest: string; is_locked: number };
  unit_right: { unit: string; account: string; right: UnitRight };
  licence: { name: string; activations: number };
  activation: { licence: string; host: string };
  broker_pool: { pool: string; settings_json: string };
  /** Messages of before have no key. */
  message: { host: string; at_ms: number; text: string; key: string | null };
  owner: { host: string; account: string };
  /** Whether new people are sent to it. */
  registration: { host: string; pool: string; takes: Generated<number> };
  /** Hosts of a pool that took people from an instant on. */
  taking_change: { pool: string; at_ms: number; hosts: number };
  share: {
    name: string;
    capacity_bytes: number;
    operations: number;
    price: number;
    /** Of one read, milliseconds. */
    latency_ms: number;
    rights_json: string;
  };
  mount: {
    host: string;
    digest: string;
    share: string;
    since_ms: number;
    /** `Hold`, where it is not given to new sessions any more. */
    held_json: Generated<string | null>;
  };
  share_file: { share: string; path: string; size_bytes: number };
  curve: { pool: string; expected_json: string };
  installer: { id: string; json: string };
  trait: { application: string; json: string };
  fault: PracticeFault & { since_ms: Generated<number> };
  trust: { pool: string; pem: string };
}

export type EstateDb = Kysely<EstateTables>;

const schema = [
  `create table if not exists setting (name text primary key, value text not null) strict`,
  `create table if not exists site (name text primary key, cores integer not null, memory_bytes integer not null default 0,
    graphics integer not null default 0, makes_at_once integer not null default 48) strict`,
  `create table if not exists datastore (site text not null, name text not null, capacity_bytes integer not null, operations integer not null,
    price real not null default 0, overcommit real not null default 1, primary key (site, name)) strict`,
  `create table if not exists network (site text not null, name text not null, range text not null, reserved integer not null,
    primary key (site, name)) strict, without rowid`,
  `create table if not exists size (site text not null, name text not null, processors integer not null, memory_bytes integer not null,
    graphics integer not null, price_per_hour real not null, primary key (site, name)) strict, without rowid`,
  `create table if not exists machine (id text primary key, name text not null unique, site text not null, network text not null default '',
    cores integer not null, memory_bytes integer not null default 0, graphics integer not null default 0, power text not null,
    power_since_ms integer not null default 0, guest text not null, pool text, image_id text) strict`,
  `create table if not exists disk (id text primary key, site text not null, datastore text not null, role text not null, machine_id text,
    image_id text, base text, size_bytes integer not null, grows_bytes_per_day integer not null, since_ms integer not null,
    is_daily integer not null) strict, without rowid`,
  // These hold what is added up, so that sums over ten thousand hosts read no row.
  `create index if not exists disk_amounts on disk (site, datastore, image_id, machine_id, size_bytes, grows_bytes_per_day, is_daily, since_ms)`,
  `create index if not exists disk_by_role on disk (role, site, datastore, machine_id)`,
  `create index if not exists machine_by_power on machine (power, id)`,
  `create index if not exists disk_by_machine on disk (machine_id)`,
  `create index if not exists disk_by_base on disk (base)`,
  `create table if not exists power_change (machine_id text not null, at_ms integer not null, power text not null,
    primary key (machine_id, at_ms)) strict, without rowid`,
  `create table if not exists streaming_store (name text primary key, site text not null, streams integer not null,
    capacity_bytes integer not null, price real not null) strict`,
  `create table if not exists stream (machine_id text primary key, store text not null, now_image text not null, next_image text not null,
    scratch_bytes integer not null, fills_bytes_per_day integer not null, started_ms integer not null) strict, without rowid`,
  `create table if not exists region (provider text not null, name text not null, offer_json text not null, site text,
    primary key (provider, name)) strict, without rowid`,
  `create table if not exists chassis (name text primary key, site text not null) strict`,
  `create table if not exists chassis_machine (chassis text not null, slot integer not null, serial text not null, cores integer not null,
    memory_bytes integer not null, answers_at_look integer not null, machine_id text, primary key (chassis, slot)) strict, without rowid`,
  `create table if not exists chassis_look (chassis text not null, number integer not null, key text not null, started_ms integer not null,
    primary key (chassis, number)) strict, without rowid`,
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
  `create table if not exists account (name text primary key, unit text not null, password_digest text not null, is_locked integer not null) strict`,
  `create table if not exists unit_right (unit text not null, account text not null, right text not null,
    primary key (unit, account, right)) strict, without rowid`,
  `create table if not exists licence (name text primary key, activations integer not null) strict`,
  `create table if not exists activation (host text primary key, licence text not null) strict`,
  `create table if not exists broker_pool (pool text primary key, settings_json text not null) strict`,
  `create table if not exists message (host text not null, at_ms integer not null, text text not null, key text) strict`,
  `create table if not exists owner (host text primary key, account text not null) strict, without rowid`,
  `create table if not exists registration (host text primary key, pool text not null, takes integer not null default 1) strict`,
  `create table if not exists taking_change (pool text not null, at_ms integer not null, hosts integer not null,
    primary key (pool, at_ms)) strict, without rowid`,
  `create table if not exists share (name text primary key, capacity_bytes integer not null, operations integer not null, price real not null,
    latency_ms real not null, rights_json text not null) strict`,
  `create table if not exists mount (host text not null, digest text not null, share text not null, since_ms integer not null,
    held_json text, primary key (host, digest)) strict, without rowid`,
  `create table if not exists share_file (share text not null, path text not null, size_bytes integer not null, primary key (share, path)) strict`,
  `create table if not exists curve (pool text primary key, expected_json text not null) strict`,
  `create table if not exists installer (id text primary key, json text not null) strict`,
  `create table if not exists trait (application text primary key, json text not null) strict`,
  `create table if not exists fault (id text primary key, kind text not null, target text not null, since_ms integer not null default 0) strict`,
  // The pool is empty for what all hosts trust.
  `create table if not exists trust (pool text not null, pem text not null, primary key (pool, pem)) strict`,
];

export async function openEstateDatabase(path: string): Promise<EstateDb> {
  const sqlite = openSound(path);
  const db = new Kysely<EstateTables>({
    dialect: new SqliteDialect({ database: keepingStatements(sqlite) }),
  });
  for (const statement of schema) await sql.raw(statement).execute(db);
  sqlite.transaction(() => bringForward(sqlite))();
  return db;
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
