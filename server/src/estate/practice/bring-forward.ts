/** Brings files of earlier versions to the tables of now, and forgets guests that nobody has. */
import type Sqlite from 'better-sqlite3';
import { guestDigest } from './guest-digest.ts';

/** In a transaction of the caller's, after all tables are there. */
export function bringForward(sqlite: Sqlite.Database): void {
  addColumns(sqlite);
  // Few containers are held, and they are asked for over all hosts.
  sqlite.exec('create index if not exists mount_held on mount (host) where held_json is not null');
  // The same is told once.
  sqlite.exec('create unique index if not exists message_key on message (key)');
  tidyGuests(sqlite);
  giveDisks(sqlite);
  beginTimes(sqlite);
}

const addedColumns: readonly (readonly [table: string, column: string, type: string])[] = [
  ['snapshot', 'size_bytes', 'integer not null default 0'],
  ['site', 'memory_bytes', 'integer not null default 0'],
  ['site', 'graphics', 'integer not null default 0'],
  ['site', 'makes_at_once', 'integer not null default 48'],
  ['datastore', 'price', 'real not null default 0'],
  ['datastore', 'overcommit', 'real not null default 1'],
  ['machine', 'power_since_ms', 'integer not null default 0'],
  ['fault', 'since_ms', 'integer not null default 0'],
  ['machine', 'network', "text not null default ''"],
  ['machine', 'memory_bytes', 'integer not null default 0'],
  ['machine', 'graphics', 'integer not null default 0'],
  ['mount', 'held_json', 'text'],
  ['message', 'key', 'text'],
  ['machine', 'image_id', 'text'],
  ['registration', 'takes', 'integer not null default 1'],
];

function addColumns(sqlite: Sqlite.Database): void {
  for (const [table, column, type] of addedColumns)
    if (!hasColumn(sqlite, table, column)) sqlite.exec(`alter table ${table} add column ${column} ${type}`);
}

function hasColumn(sqlite: Sqlite.Database, table: string, column: string): boolean {
  const columns = sqlite.pragma(`table_info(${table})`) as { name: string }[];
  return columns.some(({ name }) => name === column);
}

/**
 * Machines used to have bytes on a datastore and no disks. What kind of clone a host was, nothing
 * said; its size tells it. The parent of linked clones is that of the image with the same guest.
 */
function giveDisks(sqlite: Sqlite.Database): void {
  if (!hasColumn(sqlite, 'machine', 'disk_bytes')) return;
  const role = `case when pool is null then 'build' when disk_bytes > 15e9 then 'own' when disk_bytes > 5e9 then 'child' else 'scratch' end`;
  const image = `(select image.id from image where image.guest = machine.guest limit 1)`;
  const parent = `'parent/' || ${image} || '/' || site || '/' || datastore`;
  const since = `coalesce((select cast(value as integer) from setting where name = 'now'), 0)`;
  sqlite.exec(`insert into disk (id, site, datastore, role, machine_id, image_id, base, size_bytes, grows_bytes_per_day, since_ms, is_daily)
      select id || '/' || ${role}, site, datastore, ${role}, id, null, iif(${role} = 'child', ${parent}, null), disk_bytes, 0, ${since}, 0
      from machine;
    insert into disk (id, site, datastore, role, machine_id, image_id, base, size_bytes, grows_bytes_per_day, since_ms, is_daily)
      select distinct ${parent}, site, datastore, 'parent', null, ${image}, null,
        (select size_bytes from image where id = ${image}), 0, ${since}, 0
      from machine where ${role} = 'child' and ${image} is not null;
    alter table machine drop column disk_bytes;
    alter table machine drop column datastore`);
}

/** Changes of power used not to be kept: what is known of a machine is since when it is as it is. */
function beginTimes(sqlite: Sqlite.Database): void {
  sqlite.exec(`insert into power_change (machine_id, at_ms, power) select id, power_since_ms, power from machine
    where not exists (select 1 from power_change where machine_id = machine.id)`);
}

/** Tables with what is on disks. */
const onDisks = ['machine', 'snapshot', 'image'] as const;

/** Brings files to the table of guests in which every row had its own copy, and forgets those nobody has. */
function tidyGuests(sqlite: Sqlite.Database): void {
  sqlite.function('guest_digest', { deterministic: true }, (json) => guestDigest(String(json)));
  for (const table of onDisks) {
    if (!hasColumn(sqlite, table, 'guest_json')) continue;
    sqlite.exec(`insert or ignore into guest select distinct guest_digest(guest_json), guest_json from ${table};
      update ${table} set guest_json = guest_digest(guest_json);
      alter table ${table} rename column guest_json to guest`);
  }
  const had = onDisks.map((table) => `select guest from ${table}`).join(' union all ');
  sqlite.exec(`delete from guest where digest not in (${had})`);
}
