/** The database is brought forward from every earlier schema, with what it held. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { Kysely, Migrator, SqliteDialect, sql } from 'kysely';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { bulkRowStates } from '@vatline/contract/bulk';
import { captureSources, captureStates } from '@vatline/contract/capture';
import { ringStates, stagedStates } from '@vatline/contract/rings/staged';
import { decisions } from '@vatline/core/rollout/rings/gate';
import { versionStates } from '@vatline/core/image/version-state';
import { recurringTakes } from '@vatline/core/rollout/recurring';
import { roles } from '@vatline/core/roles';
import { reportStates } from '@vatline/contract/installation';
import { jobStates, ledgerStates, stepStates } from '@vatline/contract/job';
import { presentDeliveries } from '@vatline/contract/package';
import { packageStates } from '@vatline/core/package/version-state';
import { quotaStates } from '@vatline/contract/estate';
import { cloneKinds, placementRoles, poolKinds, poolSettingsSchema } from '@vatline/contract/pool/kinds';
import { rolloutStates } from '@vatline/contract/rollout';
import { containerFormats } from '@vatline/core/container/formats';
import { hostWorks, services } from '@vatline/core/pool/service-state';
import { targetKinds } from '@vatline/contract/access';
import { hostStages } from '@vatline/core/rollout/host-state';
import { openDatabase, schemaName } from '../src/platform/database.ts';
import { migrations } from '../src/platform/migrations/all.ts';

let folder: string;
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'vatline-migrations-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

/** What the very first schema could hold already, parents first. */
const content: Record<string, Record<string, string | number | null>> = {
  image_line: {
    id: 'line-1',
    name: 'Reader',
    purpose: '',
    hardware_json: '{"processors":2}',
    recipe_revision: 1,
    dye_offset: 0,
    created_ms: 1,
  },
  image_version: {
    id: 'version-1',
    line_id: 'line-1',
    number: 1,
    dye: 'woad',
    state: 'approved',
    note: '',
    recipe_revision: 1,
    image_id: 'image-1',
    inventory: 'inventory-1',
    size_bytes: 8000,
    cut_ms: 2,
  },
  job: {
    id: 'job-1',
    kind: 'make pool',
    title: 'Make',
    subject: 'pool:pool-1',
    state: 'done',
    input_json: '{}',
    cancel: 0,
    created_ms: 1,
  },
  job_step: { job_id: 'job-1', number: 0, title: 'One', state: 'done', progress: 1 },
  job_log: { job_id: 'job-1', step: 0, at_ms: 1, text: 'begun' },
  ledger: {
    job_id: 'job-1',
    number: 0,
    object: 'WCL-RD-01',
    system: 'hypervisor',
    state: 'made',
    key: 'vm-1',
    detail: '',
    attempts: 0,
  },
  package: { id: 'package-1', name: 'Pellam Reader', publisher: 'Pellam', delivery: 'container', note: '' },
  package_version: {
    id: 'pv-1',
    package_id: 'package-1',
    version: '9.0',
    state: 'live',
    digest: 'd',
    files: 1,
    size_bytes: 2,
    container_bytes: 3,
    entry_points_json: JSON.stringify([
      { name: 'Reader', path: 'Apps\\Pellam\\reader.exe' },
      { name: 'Reader', path: 'Apps\\Pellam\\second.exe', arguments: '/print' },
    ]),
    built_ms: 1,
  },
  capture: {
    id: 'capture-1',
    package_name: 'Pellam Reader',
    source: 'practice',
    state: 'packaged',
    proposal_json: '{}',
    created_ms: 1,
  },
  pool: {
    id: 'pool-1',
    name: 'reading-rooms',
    kind: 'pooled',
    clone: 'network',
    line_id: 'line-1',
    pattern: 'WCL-RD-##',
    ou: 'OU=Desks',
    site: 'yard-a',
    datastore: 'standard',
    processors: 2,
    session_limit: 1,
    blend_id: 'blend-1',
    created_ms: 1,
  },
  blend: {
    id: 'blend-1',
    pool_id: 'pool-1',
    number: 1,
    image_version_id: 'version-1',
    packages_json: '["pv-1"]',
    made_ms: 1,
  },
  host: {
    id: 'host-1',
    pool_id: 'pool-1',
    name: 'WCL-RD-01',
    machine_id: 'vm-1',
    state: 'failed',
    blend_id: 'blend-1',
    next_blend_id: null,
    note: '',
  },
  rollout: {
    id: 'rollout-1',
    pool_id: 'pool-1',
    from_blend_id: 'blend-1',
    to_blend_id: 'blend-1',
    state: 'asleep',
    is_return: 0,
    request_json: JSON.stringify({
      poolId: 'pool-1',
      imageVersionId: 'version-1',
      packageVersionIds: ['pv-1'],
      window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
      zone: 'Europe/Dublin',
      batch: 4,
      maxUnavailable: 5,
      drainLimitMinutes: 20.5,
      reserve: null,
    }),
    started_ms: 1,
    seed: 7,
  },
  rollout_host: { rollout_id: 'rollout-1', host_id: 'host-1', number: 0, stage: 'failed', attempts: 1 },
  assignment: { id: 'assignment-1', group_name: 'Readers', pool_id: 'pool-1', package_id: 'package-1' },
};

/** What of that stands elsewhere, or is said otherwise, since the sixteenth; `id`s of entry points are new. */
const content16: typeof content = {
  blend_package: { blend_id: 'blend-1', place: 0, package_version_id: 'pv-1' },
  pool_placement: { pool_id: 'pool-1', role: 'disks', site: 'yard-a', datastore: 'standard' },
  plan: {
    id: 'plan-rollout-1',
    window_rule: 'FREQ=DAILY',
    window_start: '01:00',
    window_end: '05:00',
    zone: 'Europe/Dublin',
    batch: 4,
    max_unavailable: 5,
    drain_limit_minutes: 20.5,
    reserve: null,
  },
  host: {
    id: 'host-1',
    machine_id: 'vm-1',
    service: 'out of service',
    work: 'failed',
    blend_id: 'blend-1',
  },
  assignment: { group_name: 'Readers', pool_id: 'pool-1', target_kind: 'package', target_id: 'package-1' },
};
const gone16: Record<string, readonly string[]> = {
  blend: ['packages_json'],
  pool: ['site', 'datastore'],
  host: ['state'],
  assignment: ['package_id'],
  rollout: ['request_json'],
  package_version: ['entry_points_json'],
};

/** A row of the first schema as the newest has it: without the columns that are gone. */
function asNow(table: string, row: Record<string, string | number | null>) {
  const kept = Object.entries(row).filter(([column]) => !gone16[table]?.includes(column));
  return Object.fromEntries(kept);
}

/** Everything as the sixteenth schema holds it, parents first. */
const contentAt16: typeof content = {
  ...Object.fromEntries(
    Object.entries(content)
      .filter(([table]) => !['rollout', 'rollout_host'].includes(table))
      .map(([table, row]) => [table, { ...asNow(table, row), ...content16[table] }]),
  ),
  blend_package: content16['blend_package'] ?? {},
  pool_placement: content16['pool_placement'] ?? {},
  plan: content16['plan'] ?? {},
  rollout: { ...asNow('rollout', content['rollout'] ?? {}), plan_id: 'plan-rollout-1' },
  rollout_host: content['rollout_host'] ?? {},
};

/** As the newest schema holds it. */
const contentNow: typeof content = Object.fromEntries(
  Object.entries(contentAt16).flatMap(([table, row]) =>
    table === 'pool_placement'
      ? [
          ['pool_place', { pool_id: 'pool-1', place: 0, site: 'yard-a', network: '', at_most: null }],
          ['pool_placement', { pool_id: 'pool-1', place: 0, role: 'disks', datastore: 'standard' }],
        ]
      : [[table, row]],
  ),
);

/** What each column that has states may hold: what the contract lists, and no more. */
const states: Record<string, readonly string[]> = {
  'job state': jobStates,
  'job_step state': stepStates,
  'ledger state': ledgerStates,
  'image_version state': versionStates,
  'version_change state': versionStates,
  'version_change by_role': [...roles, 'schedule'],
  'journal by_role': roles,
  'job by_role': roles,
  'ring state': ringStates,
  'package delivery': presentDeliveries,
  'package_version state': packageStates,
  'package_version format': containerFormats,
  'container format': containerFormats,
  'capture state': captureStates,
  'capture source': captureSources,
  'install_report state': reportStates,
  'bulk_row state': bulkRowStates,
  'quota_request state': quotaStates,
  'pool kind': poolKinds,
  'pool clone': cloneKinds,
  'host service': services,
  'host work': hostWorks,
  'pool_placement role': placementRoles,
  'assignment target_kind': targetKinds,
  'gate verdict': ['open', 'wait', 'hold'],
  'gate_decision what': decisions,
  'gate_decision by_role': roles,
  'kept_plan by_role': roles,
  'recurring_rollout by_role': roles,
  'recurring_rollout takes': recurringTakes,
  'ring_order_revision by_role': roles,
  'staged_rollout state': stagedStates,
  'staged_rollout by_role': roles,
  'rollout state': rolloutStates,
  'rollout_host stage': hostStages,
};

/** A file as the program left it when `name` was its newest migration, with a row of everything in it. */
async function fileAt(name: string): Promise<string> {
  const path = join(folder, `${name}.sqlite`);
  const db = new Kysely<Record<string, Record<string, unknown>>>({
    dialect: new SqliteDialect({ database: new Sqlite(path) }),
  });
  const migrator = new Migrator({ db, provider: { getMigrations: () => Promise.resolve(migrations) } });
  const { error } = await migrator.migrateTo(name);
  if (error) throw new Error(`cannot make ${name}`, { cause: error });
  const held = name >= '0017' ? contentNow : name >= '0016' ? contentAt16 : content;
  for (const [table, row] of Object.entries(held)) {
    const columns = Object.keys(row).join(', ');
    const values = Object.values(row).map((value) => sql`${value}`);
    await sql`insert into ${sql.table(table)} (${sql.raw(columns)}) values (${sql.join(values)})`.execute(db);
  }
  await db.destroy();
  return path;
}

const names = Object.keys(migrations).sort();
/** Tables and indexes with what they consist of. */
async function schemaOf(path: string): Promise<unknown> {
  const db = await openDatabase(path);
  const { rows } = await sql`select name, sql from sqlite_master where name not like 'kysely%'
    and name not like 'sqlite%' order by name`.execute(db);
  await db.destroy();
  return rows;
}

describe('an older database', () => {
  it.each(names)('from %s has the newest schema and keeps what it held', async (name) => {
    const path = await fileAt(name);
    expect(await schemaOf(path)).toEqual(await schemaOf(join(folder, 'new.sqlite')));
    const db = await openDatabase(path);
    const version = await db
      .selectFrom('image_version')
      .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
      .select(['image_line.name', 'image_version.number', 'image_version.state', 'size_bytes'])
      .executeTakeFirst();
    expect(version).toEqual({ name: 'Reader', number: 1, state: 'approved', size_bytes: 8000 });
    for (const [table, row] of Object.entries(contentNow)) {
      const found = await sql<object>`select * from ${sql.table(table)}`.execute(db);
      expect(found.rows, table).toEqual([expect.objectContaining(row)]);
    }
    expect((await sql`pragma foreign_key_check`.execute(db)).rows).toEqual([]);
    await db.destroy();
  });

  it('gives what people open an identifier that lasts, each of two of one name its own', async () => {
    const db = await openDatabase(await fileAt('0015-who-acts'));
    const rows = await db
      .selectFrom('version_entry_point')
      .innerJoin('entry_point', 'entry_point.id', 'entry_point_id')
      .select(['version_id', 'package_id', 'name', 'nth', 'details_json', 'entry_point.id'])
      .orderBy('place')
      .execute();
    expect(rows.map(({ id: _id, ...row }) => row)).toEqual([
      {
        version_id: 'pv-1',
        package_id: 'package-1',
        name: 'Reader',
        nth: 0,
        details_json: String.raw`{"path":"Apps\\Pellam\\reader.exe"}`,
      },
      {
        version_id: 'pv-1',
        package_id: 'package-1',
        name: 'Reader',
        nth: 1,
        details_json: String.raw`{"path":"Apps\\Pellam\\second.exe","arguments":"/print"}`,
      },
    ]);
    expect(new Set(rows.map(({ id }) => id)).size).toBe(2);
    await db.destroy();
  });

  it('goes on with a pool that was being made, in the form of now', async () => {
    const path = await fileAt('0016-ready-for-kinds');
    const old = new Sqlite(path);
    const pool = {
      name: 'new',
      imageVersionId: 'version-1',
      kind: 'pooled',
      clone: 'linked',
      pattern: 'WCL-N-#',
      start: 1,
      count: 2,
      ou: 'OU=Desks',
      site: 'yard-a',
      datastore: 'standard',
      processors: 4,
      sessionLimit: 5,
    };
    const input = {
      poolId: 'pool-1',
      blendId: 'blend-1',
      imageId: 'image-1',
      pool,
      memoryBytes: 8e9,
      names: ['WCL-N-1'],
    };
    old.prepare(`update job set kind = 'make pool', input_json = ?`).run(JSON.stringify(input));
    old.exec(`insert into host_reserved (name, pool_id, site, datastore, cores, bytes)
      values ('WCL-N-1', 'pool-1', 'yard-a', 'standard', 4, 9000)`);
    old.close();
    const db = await openDatabase(path);
    const { input_json } = await db.selectFrom('job').select('input_json').executeTakeFirstOrThrow();
    const now = JSON.parse(input_json) as { pool: object; hosts: object[] };
    expect(now.hosts).toEqual([
      { name: 'WCL-N-1', place: 0, size: { processors: 4, memoryBytes: 8e9, graphics: 0 } },
    ]);
    expect(now.pool).toMatchObject({
      places: [{ site: 'yard-a', network: '', datastore: 'standard', atMost: null }],
      joinAccount: null,
      atOnce: 8,
      onFault: 'stop',
    });
    expect(await db.selectFrom('host_reserved').selectAll().execute()).toMatchObject([
      { name: 'WCL-N-1', cores: 4, bytes_json: '[["standard",9000]]' },
    ]);
    // What was kept of older pools is whole.
    const { settings_json } = await db.selectFrom('pool').select('settings_json').executeTakeFirstOrThrow();
    expect(
      poolSettingsSchema.safeParse({ ...(JSON.parse(settings_json) as object), size: 'any' }).success,
    ).toBe(true);
    await db.destroy();
  });

  it('that is brought up to date refuses rows without their parents again', async () => {
    const db = await openDatabase(await fileAt(names[0] ?? ''));
    await expect(sql`delete from job_step`.execute(db)).resolves.toBeDefined();
    await expect(sql`delete from pool`.execute(db)).rejects.toThrow('FOREIGN KEY');
    await db.destroy();
  });
});

describe('the states that a column holds', () => {
  it.each(Object.entries(states))('%s are those of the contract, in any order', async (where, listed) => {
    const [table = '', column = ''] = where.split(' ');
    const db = await openDatabase(join(folder, 'new.sqlite'));
    const { rows } = await sql<{ sql: string }>`select sql from sqlite_master where name = ${table}`.execute(
      db,
    );
    await db.destroy();
    const check = new RegExp(`\\b${column} text (?:not null )?check \\(${column} in \\(([^)]*)\\)`).exec(
      rows[0]?.sql ?? '',
    );
    const held = (check?.[1] ?? '').split(', ').map((quoted) => quoted.slice(1, -1));
    expect(held.sort()).toEqual([...listed].sort());
  });

  it('refuse anything else', async () => {
    const db = await openDatabase(await fileAt(schemaName));
    await expect(sql`update host set work = 'asleep'`.execute(db)).rejects.toThrow('CHECK');
    await db.destroy();
  });
});

describe('a database', () => {
  it('from a newer program is refused, and the error says so', async () => {
    const path = await fileAt(schemaName);
    const raw = new Sqlite(path);
    raw.prepare('insert into kysely_migration (name, timestamp) values (?, ?)').run('9999-later', 'now');
    raw.close();
    await expect(openDatabase(path)).rejects.toThrow('9999-later');
  });
});
