/** The directory: units, join accounts that may do just what they must, LDIF in and out. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { JoinAccount, Unit } from '@vatline/contract/directory';
import type { PoolPreview } from '@vatline/contract/pool/preview';
import { entriesOf } from '@vatline/core/directory/entries';
import { readLdif } from '@vatline/core/directory/ldif';
import { TestServer } from './harness.ts';
import { hostsOf, ledgerOf } from './usual-requests.ts';

const ROOT = 'DC=wrenfield,DC=example';
const DESKS = `OU=Desks,OU=Hosts,${ROOT}`;
const MAPS = `OU=Maps,OU=Hosts,${ROOT}`;
const BOTH = ['create computers', 'delete computers'];

let server: TestServer;
let version: string;
const get = <T>(path: string) => server.get<T>(path);
const units = () => get<Unit[]>('/directory/units');
const unit = async (dn: string) => (await units()).find((one) => one.dn === dn);
const account = async (name: string) =>
  (await get<JoinAccount[]>('/directory/accounts')).find((one) => one.name === name);
const rightsOf = async (dn: string, name: string) =>
  (await unit(dn))?.rights.filter((one) => one.account === name).map((one) => one.right);

beforeAll(async () => {
  server = await TestServer.open();
  version = (await server.makeVersion()).versionId;
}, 120_000);
afterAll(() => server.close());

describe('units', () => {
  it('come as a tree: each followed by those below it', async () => {
    const all = await units();
    expect(all[0]).toMatchObject({ name: 'Hosts', parent: null, computers: 0 });
    expect(all[1]).toMatchObject({ name: 'Build', parent: `OU=Hosts,${ROOT}` });
  });

  it('are made below others, once, whatever is in their names', async () => {
    const body = { parent: MAPS.toLowerCase(), name: 'Sea, north + south' };
    const { dn } = await server.send<{ dn: string }>('post', '/directory/units', body);
    expect(dn).toBe(`OU=Sea\\, north \\+ south,${MAPS}`);
    expect(await unit(dn)).toMatchObject({ name: 'Sea, north + south', parent: MAPS });
    expect(await server.refused('post', '/directory/units', body)).toMatchObject({
      status: 422,
      paths: ['name'],
    });
    const nowhere = { parent: 'OU=Nowhere,DC=x', name: 'a' };
    expect(await server.refused('post', '/directory/units', nowhere)).toMatchObject({ paths: ['parent'] });
  });
});

describe('a join account', () => {
  it('is made with the rights to join in one unit and below, and its password is nowhere to be read', async () => {
    const body = { name: 'join-test', unit: `OU=Service accounts,OU=Hosts,${ROOT}`, rightsOn: MAPS };
    await server.send('post', '/directory/accounts', body);
    expect(await account('join-test')).toMatchObject({ isKnown: true, isLocked: false, pools: [] });
    expect(await rightsOf(MAPS, 'join-test')).toEqual(BOTH);
    expect(await rightsOf(`OU=Sea\\, north \\+ south,${MAPS}`, 'join-test')).toEqual(BOTH);
    expect(await rightsOf(DESKS, 'join-test')).toEqual([]);
    const row = await server.app.db.selectFrom('join_account').selectAll().executeTakeFirstOrThrow();
    expect(Buffer.from(row.sealed_password, 'base64').toString('latin1')).not.toMatch(/^[\w-]{24}$/);
    expect(JSON.stringify(await account('join-test'))).not.toContain('password');
    expect(await server.refused('post', '/directory/accounts', body)).toMatchObject({
      status: 409,
      paths: ['name'],
    });
  });

  const poolIn = (ou: string, change: object) =>
    server.newPool(version, {
      name: 'joined',
      pattern: 'WJOIN-#',
      count: 2,
      ou,
      joinAccount: 'join-test',
      ...change,
    });

  it('is refused at another unit before anything is made', async () => {
    const { faults } = await server.refused('post', '/pools', poolIn(DESKS, {}));
    expect(faults).toEqual([
      { path: 'joinAccount', message: `join-test may not create computers nor delete computers in ${DESKS}` },
    ]);
  });

  it('joins hosts where it may, in whatever notation the unit is given, and takes them away again', async () => {
    const typed = 'ou = maps ; ou=hosts,dc=wrenfield,dc=example';
    const preview = await server.send<PoolPreview>('post', '/pools/preview', poolIn(typed, {}));
    expect([preview.ou, preview.faults]).toEqual([MAPS, []]);
    expect(preview.conditions.filter((one) => one.verdict === 'holds').map((one) => one.what)).toEqual([
      'unit',
      'account',
      'rights',
      'agent',
    ]);
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'register' });
    const { jobId } = await server.send<{ jobId: string }>('post', '/pools', poolIn(typed, {}));
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'failed' });
    expect((await unit(MAPS))?.computers).toBe(2);
    expect((await account('join-test'))?.pools).toEqual(['joined']);
    // The right that was there when it was made is gone when it is undone: nothing is taken away by stealth.
    await setRight('delete computers', false);
    const { jobId: undo } = await server.send<{ jobId: string }>('post', `/jobs/${jobId}/undo`);
    expect(await server.untilEnded(undo)).toMatchObject({ state: 'failed' });
    expect((await unit(MAPS))?.computers).toBe(2);
    await setRight('delete computers', true);
    await server.send('post', `/jobs/${undo}/go-on`);
    expect(await server.untilEnded(undo)).toMatchObject({ state: 'done' });
    expect((await unit(MAPS))?.computers).toBe(0);
  });

  const setRight = (right: string, isGiven: boolean) =>
    server.send('put', '/directory/rights', { unit: MAPS, account: 'join-test', right, isGiven });

  it('that is locked while hosts are made leaves a true ledger; unlocked, it goes on', async () => {
    const body = poolIn(MAPS, { name: 'locked', pattern: 'WLOCK-#' });
    const { jobId, poolId } = await server.send<{ jobId: string; poolId: string }>('post', '/pools', body);
    const fault = await server.send<{ id: string }>('post', '/estate/faults', {
      kind: 'account locked',
      target: 'join-test',
    });
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'failed' });
    const failed = (await ledgerOf(get, jobId)).filter((row) => row.state === 'failed');
    expect(failed[0]).toMatchObject({ system: 'directory', detail: 'the account join-test is locked' });
    await server.send('delete', `/estate/faults/${fault.id}`);
    await server.send('post', `/jobs/${jobId}/go-on`);
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'done' });
    expect(await hostsOf(get, poolId)).toHaveLength(2);
  });

  it('whose password is wrong is not taken, and is when it is right', async () => {
    const { directory } = server.app.estate;
    await directory.createAccount('k', 'join-old', MAPS, 'right one');
    expect((await account('join-old'))?.isKnown).toBe(false);
    const tell = (password: string) =>
      ['put', '/directory/accounts/join-old/password', { password }] as const;
    expect(await server.refused(...tell('wrong one'))).toMatchObject({ status: 422, paths: ['password'] });
    expect(await server.refused(...tell(''))).toMatchObject({ paths: ['password'] });
    await server.send(...tell('right one'));
    expect((await account('join-old'))?.isKnown).toBe(true);
  });
});

describe('LDIF', () => {
  let folder: string;
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'vatline-ldif-'));
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));
  const exported = async (query = '') =>
    (await request(server.app.http).get(`/api/v1/directory/export.ldif${query}`).expect(200)).text;
  const send = (text: string | Buffer) =>
    request(server.app.http).post('/api/v1/directory/import').attach('file', Buffer.from(text), 'd.ldif');

  it('that is written is taken by a directory server, which gives back the same entries', async () => {
    const text = await exported();
    const data = join(folder, 'data');
    mkdirSync(data);
    writeFileSync(join(folder, 'directory.ldif'), text);
    writeFileSync(
      join(folder, 'slapd.conf'),
      `include /etc/ldap/schema/core.schema\nmodulepath /usr/lib/ldap\nmoduleload back_mdb\n` +
        `database mdb\nsuffix "${ROOT}"\nrootdn "CN=admin,${ROOT}"\ndirectory ${data}\n`,
    );
    const config = join(folder, 'slapd.conf');
    execFileSync('/usr/sbin/slapadd', ['-f', config, '-l', join(folder, 'directory.ldif')]);
    const back = execFileSync('/usr/sbin/slapcat', ['-f', config], { encoding: 'utf8' });
    const entries = (of: string) => {
      const records = readLdif(of);
      if (!records.ok) throw new Error(JSON.stringify(records.error));
      const read = entriesOf(records.value, ROOT);
      if (!read.ok) throw new Error(JSON.stringify(read.error));
      const { units, computers } = read.value;
      return {
        units: units.map((one) => one.name).sort(),
        computers: computers.map((one) => one.name).sort(),
      };
    };
    expect(entries(back)).toEqual(entries(text));
    expect(entries(text).computers).toEqual(['WLOCK-1', 'WLOCK-2']);
  });

  it('of one pool has the accounts that were made for it', async () => {
    const pool = (await get<{ id: string; name: string }[]>('/pools')).find((one) => one.name === 'locked');
    const text = await exported(`?pool=${pool?.id ?? ''}`);
    expect(text).toContain(`dn: CN=WLOCK-1,${MAPS}`);
    expect(text).not.toContain('organizationalUnit');
  });

  it('is taken in: what is new is told, what is there stays', async () => {
    const text = readFileSync(new URL('./directory.ldif', import.meta.url), 'utf8');
    expect((await send(text)).body).toEqual({ units: 1, computers: 1, people: 2, groups: 2, others: 1 });
    expect((await send(text)).body).toEqual({ units: 0, computers: 0, people: 0, groups: 0, others: 1 });
    expect(await unit(`OU=Bindery,OU=Hosts,${ROOT}`)).toMatchObject({ computers: 1 });
    const groups = await get<{ name: string; users: number }[]>('/estate/groups');
    expect(groups.filter((one) => one.name.startsWith('Bind'))).toMatchObject([
      { name: 'Binders', users: 2 },
      { name: 'Binding', users: 2 },
    ]);
    const { names } = await server.send<PoolPreview>('post', '/pools/preview', {
      pattern: 'WBIND-#',
      start: 1,
      count: 2,
      fillGaps: true,
    });
    expect(names).toEqual(['WBIND-2', 'WBIND-3']);
  });

  it.each([
    [
      'a change record',
      `dn: ${DESKS}\nchangetype: delete\n`,
      'line 2: changetype is a change record; export the entries themselves',
    ],
    [
      'a name outside',
      'dn: OU=a,DC=elsewhere\nobjectClass: organizationalUnit\n',
      `line 1: dn lies outside of the directory, whose root is ${ROOT}`,
    ],
    [
      'a malformed name',
      `dn: OU=a,,${ROOT}\nobjectClass: organizationalUnit\n`,
      'line 1: dn has ",DC=wrenfiel" where a part such as OU=Desks should be',
    ],
    ['nothing at all', '', 'has no records'],
  ])('%s is refused at its line, and nothing is taken', async (_what, text, message) => {
    const before = await units();
    const response = await send(text);
    expect([response.status, (response.body as { faults: object[] }).faults[0]]).toEqual([
      422,
      { path: 'file', message },
    ]);
    expect(await units()).toEqual(before);
  });

  it('over its bound is refused before it is read', async () => {
    const response = await send(Buffer.alloc(50_000_001, 'a')).catch((error: Error) => error);
    // The server may close the connection while it is still being sent.
    if (!(response instanceof Error)) expect([413, 422]).toContain(response.status);
    expect(await get('/estate')).toBeTruthy();
  });
});
