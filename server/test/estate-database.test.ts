/** The practice estate's file: what is on disks is there once, also in files of an earlier time. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openEstateDatabase } from '../src/estate/practice/estate-database.ts';
import { guestDigest } from '../src/estate/practice/guest-digest.ts';
import { emptyGuest, type Guest } from '../src/estate/practice/hypervisor/guest.ts';
import { Disks } from '../src/estate/practice/hypervisor/disks.ts';
import { Guests } from '../src/estate/practice/hypervisor/guests.ts';
import { ImportedImages } from '../src/estate/practice/hypervisor/imported-images.ts';

let folder: string;
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'vatline-guests-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const staff: Guest = { ...emptyGuest, system: 'Desktop', edition: 'multi-session', releases: ['2027-02'] };
const reader: Guest = { ...staff, agent: '3.1' };

/** A file in which each machine, snapshot and image had its own copy. */
function olderFile(): string {
  const path = join(folder, 'estate.sqlite');
  const old = new Sqlite(path);
  old.exec(`create table machine (id text primary key, name text not null unique, site text not null, datastore text not null,
      cores integer not null, disk_bytes integer not null, power text not null, guest_json text not null, pool text) strict;
    create table snapshot (id text primary key, machine_id text not null, guest_json text not null,
      size_bytes integer not null default 0) strict;
    create table image (id text primary key, guest_json text not null, size_bytes integer not null) strict`);
  const machine = old.prepare(`insert into machine values (?, ?, 'yard-a', 'standard', 2, 5, 'on', ?, null)`);
  for (let n = 0; n < 200; n++) machine.run(`vm-${n}`, `WCL-${n}`, JSON.stringify(n === 7 ? reader : staff));
  old.prepare(`insert into image values ('image-1', ?, 8)`).run(JSON.stringify(staff));
  old.prepare(`insert into snapshot values ('snap-1', 'vm-1', ?, 8)`).run(JSON.stringify(reader));
  old.close();
  return path;
}

describe('guests', () => {
  it('of an older file are there once each, and every machine still has its own', async () => {
    const db = await openEstateDatabase(olderFile());
    const guests = new Guests(db, new ImportedImages(folder));
    expect((await db.selectFrom('guest').selectAll().execute()).map((row) => row.digest).sort()).toEqual(
      [staff, reader].map((guest) => guestDigest(JSON.stringify(guest))).sort(),
    );
    const machines = await db.selectFrom('machine').select(['id', 'guest']).execute();
    expect(machines).toHaveLength(200);
    for (const { id, guest } of machines)
      expect(await guests.of({ guest }), id).toEqual(id === 'vm-7' ? reader : staff);
    const snapshot = await db.selectFrom('snapshot').selectAll().executeTakeFirstOrThrow();
    expect([await guests.of(snapshot), snapshot.size_bytes]).toEqual([reader, 8]);
    await db.destroy();
  });

  it('that nobody has any more are forgotten at the next start', async () => {
    const path = olderFile();
    const first = await openEstateDatabase(path);
    const guests = new Guests(first, new ImportedImages(folder));
    const lost = await guests.keep({ ...staff, agent: '9' });
    expect(await guests.of({ guest: lost })).toMatchObject({ agent: '9' });
    await first.destroy();
    const second = await openEstateDatabase(path);
    const rows = await second.selectFrom('guest').select('digest').execute();
    expect(rows.map((row) => row.digest)).not.toContain(lost);
    expect(rows).toHaveLength(2);
    await second.destroy();
  });
});

describe('disks', () => {
  it('of an older file, which had bytes only, are those of their kind, linked ones on the parent of their image', async () => {
    const path = olderFile();
    const old = new Sqlite(path);
    old.exec(`update machine set pool = 'full', disk_bytes = 40000000000 where id = 'vm-1';
      update machine set pool = 'linked', disk_bytes = 8000000000 where id = 'vm-2';
      update machine set pool = 'streamed', disk_bytes = 4000000000 where id = 'vm-3'`);
    old.close();
    const db = await openEstateDatabase(path);
    const disks = new Disks(db, () => 0, 'seed');
    const of = async (id: string) => (await disks.of(id)).map(({ role, bytes }) => [role, bytes]);
    expect(await of('vm-0')).toEqual([['build', 5]]);
    expect(await of('vm-1')).toEqual([['own', 40e9]]);
    expect(await of('vm-2')).toEqual([
      ['parent', 8],
      ['child', 8e9],
    ]);
    expect(await of('vm-3')).toEqual([['scratch', 4e9]]);
    expect(await disks.placesOf('vm-2')).toEqual({
      kind: 'linked',
      datastore: 'standard',
      parentDatastore: 'standard',
      data: null,
      returnsToClean: false,
    });
    // The last clone takes its parent along.
    await disks.remove('vm-2');
    expect((await disks.uses([])).filter((use) => use.image !== null)).toEqual([]);
    await db.destroy();
  });
});
