/** Acting on hosts of the demo: what was said beforehand is what happens, in every system. */
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Host } from '@vatline/contract/pool/host';
import type { EffectShown, KeptCopy } from '@vatline/contract/pool/host-action';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { TestServer } from './harness.ts';
import { hostsOf } from './usual-requests.ts';

let server: TestServer;
const pools = new Map<string, string>();
const get = <T>(path: string) => server.get<T>(path);
const estate = () => server.app.estate;
const hosts = (pool: string) => hostsOf(get, pools.get(pool) ?? '');
const host = async (name: string, pool: string): Promise<Host> => {
  const found = (await hosts(pool)).find((one) => one.name === name);
  if (!found) throw new Error(`no ${name}`);
  return found;
};
const path = (pool: string) => `/pools/${pools.get(pool) ?? ''}/actions`;
const preview = (pool: string, body: object) =>
  server.send<EffectShown>('post', `${path(pool)}/preview`, body);
const act = async (pool: string, body: object) => {
  const { jobId } = await server.send<{ jobId: string | null }>('post', path(pool), body);
  return jobId === null ? undefined : server.untilEnded(jobId);
};

beforeAll(async () => {
  server = await TestServer.open({ demo: true });
  for (const pool of await get<PoolSummary[]>('/pools')) pools.set(pool.name, pool.id);
}, 120_000);
afterAll(() => server.close());

describe('hosts', () => {
  it('say where they stand, what their agents and machines say, and how they grow', async () => {
    const one = await host('WCL-DS-001', 'desk-staff');
    expect(one).toMatchObject({ state: 'in service', site: 'yard-a', owner: null, isSilent: false });
    const now = estate().clock.now();
    expect(now - (one.lastReport ?? 0)).toBeLessThan(5 * 60_000);
    expect(now - (one.upSince ?? 0)).toBeGreaterThan(8 * 86_400_000);
    expect(one.growsBytesPerDay).toBeGreaterThan(0);
    expect(one.ownBytes).toBeGreaterThan(17e9);
  });

  it('whose agent is silent show when it reported last', async () => {
    const { id } = await server.send<{ id: string }>('post', '/estate/faults', {
      kind: 'agent silent',
      target: 'WCL-DS-002',
    });
    const since = estate().clock.now();
    await server.advance(20);
    const silent = await host('WCL-DS-002', 'desk-staff');
    expect([silent.isSilent, (silent.lastReport ?? 0) <= since]).toEqual([true, true]);
    await server.send('delete', `/estate/faults/${id}`);
    expect((await host('WCL-DS-002', 'desk-staff')).isSilent).toBe(false);
  });

  it('are found by name, state, blend and site', async () => {
    const id = pools.get('contact-centre') ?? '';
    const found = async (query: string) =>
      (await get<{ total: number }>(`/pools/${id}/hosts?${query}`)).total;
    // Half of the contact centre runs its next blend.
    expect([await found('blend=2'), await found('blend=3'), await found('blend=2&q=CC-02')]).toEqual([
      22, 18, 10,
    ]);
    expect([await found('state=in service'), await found('state=off'), await found('site=yard-a')]).toEqual([
      40, 0, 40,
    ]);
    expect(await found('site=yard-b')).toBe(0);
    expect(await server.refused('get', `/pools/${id}/hosts?state=asleep`)).toMatchObject({
      status: 422,
      paths: ['state'],
    });
  });

  it('are a file of comma-separated values, formulas made text', async () => {
    await server.app.db.updateTable('host').set({ note: '=1+1' }).where('name', '=', 'WCL-ML-08').execute();
    const { text } = await request(server.app.http)
      .get(`/api/v1/pools/${pools.get('map-lab') ?? ''}/hosts.csv`)
      .expect(200);
    const [head = [], ...rows] = text
      .trim()
      .split('\r\n')
      .map((line) => line.split(','));
    const column = (name: string) => rows.map((row) => row[head.indexOf(name)]);
    expect(column('name')).toEqual((await hosts('map-lab')).map((one) => one.name));
    expect([column('state')[7], column('site')[7], column('note')[7]]).toEqual([
      'in service',
      'yard-b',
      "'=1+1",
    ]);
    expect(column('last report')[0]).toMatch(/^2027-03-22T\d\d:\d\d:\d\dZ$/);
  });

  it('name who is on them', async () => {
    const busy = (await hosts('desk-staff')).find((one) => one.sessions > 1) as Host;
    const people = await get<{ account: string }[]>(`/hosts/${busy.name}/people`);
    expect(people).toHaveLength(busy.sessions);
    expect(new Set(people.map((one) => one.account)).size).toBe(busy.sessions);
  });
});

describe('an action', () => {
  it('is said beforehand: whom it signs out, whom it passes over, what seats are left', async () => {
    const names = ['WCL-DS-003', 'WCL-DS-004', 'WCL-NONE-1'];
    const before = (await hosts('desk-staff')).filter((one) => names.includes(one.name));
    expect(await preview('desk-staff', { action: 'power off', hosts: names })).toMatchObject({
      hosts: ['WCL-DS-003', 'WCL-DS-004'],
      sessionsEnded: before.reduce((sum, one) => sum + one.sessions, 0),
      seatsLost: 24,
      seatsNow: 288,
    });
  });

  it('power off and on: nobody is on them in between, they cost nothing, and say since when they are on', async () => {
    const names = ['WCL-DS-003', 'WCL-DS-004'];
    expect(await act('desk-staff', { action: 'power off', hosts: names })).toMatchObject({ state: 'done' });
    expect(await host('WCL-DS-003', 'desk-staff')).toMatchObject({
      state: 'off',
      sessions: 0,
      upSince: null,
    });
    await act('desk-staff', { action: 'hold', hosts: ['WCL-DS-004'] });
    expect(await preview('desk-staff', { action: 'restart', hosts: names })).toMatchObject({
      hosts: [],
      passedOver: names.map((name) => ({ name, why: 'is off' })),
    });
    const nothing = await server.refused('post', path('desk-staff'), { action: 'restart', hosts: names });
    expect(nothing.faults).toEqual([{ path: 'hosts', message: 'nothing to do: WCL-DS-003 is off' }]);
    const began = estate().clock.now();
    expect(await act('desk-staff', { action: 'power on', hosts: names })).toMatchObject({ state: 'done' });
    const on = await host('WCL-DS-003', 'desk-staff');
    expect([on.state, (on.upSince ?? 0) > began]).toEqual(['in service', true]);
    // Held while it was off, it is held now.
    expect((await host('WCL-DS-004', 'desk-staff')).state).toBe('held');
    await act('desk-staff', { action: 'let in', hosts: names });
    expect((await host('WCL-DS-004', 'desk-staff')).state).toBe('in service');
  });

  it('keep a copy: the disks as they are, on a machine of their own, until it is deleted', async () => {
    const id = pools.get('desk-staff') ?? '';
    const copies = () => server.getAnew<KeptCopy[]>(`/pools/${id}/copies`);
    const before = await host('WCL-DS-007', 'desk-staff');
    for (let n = 0; n < 2; n++) await act('desk-staff', { action: 'keep a copy', hosts: ['WCL-DS-007'] });
    const kept = await copies();
    expect(kept.map((copy) => [copy.name, copy.host]).sort()).toEqual([
      ['STUDY-WCL-DS-007', 'WCL-DS-007'],
      ['STUDY-WCL-DS-007-2', 'WCL-DS-007'],
    ]);
    expect(kept.every((copy) => copy.bytes > 0)).toBe(true);
    expect((await host('WCL-DS-007', 'desk-staff')).state).toBe(before.state);
    const gone = kept.find((copy) => copy.name.endsWith('-2'));
    await server.send('delete', `/pools/${id}/copies/${gone?.id ?? ''}`);
    expect((await copies()).map((copy) => copy.name)).toEqual(['STUDY-WCL-DS-007']);
    expect(await server.app.estate.hypervisor.machineNames()).not.toContain('STUDY-WCL-DS-007-2');
    expect((await server.refused('delete', `/pools/${id}/copies/${gone?.id ?? ''}`)).status).toBe(404);
    const physical = await server.refused('post', path('digitisation'), {
      action: 'keep a copy',
      hosts: ['WCL-DG-01'],
    });
    expect(physical.faults[0]?.message).toBe('nothing to do: WCL-DG-01 has no disk of its own');
  });

  it('drain: waits until nobody is left, then holds', async () => {
    const { jobId } = await server.send<{ jobId: string }>('post', path('desk-staff'), {
      action: 'drain',
      hosts: ['WCL-DS-005'],
      limitMinutes: 25,
    });
    await server.advance(1);
    expect((await host('WCL-DS-005', 'desk-staff')).state).toBe('draining');
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'done' });
    expect(await host('WCL-DS-005', 'desk-staff')).toMatchObject({ state: 'held', sessions: 0 });
  });

  it('message: needs words, and reaches those who are there', async () => {
    const body = { action: 'message', hosts: ['WCL-DS-006'] };
    expect(await server.refused('post', path('desk-staff'), body)).toMatchObject({
      status: 422,
      paths: ['text'],
    });
    expect(
      await server.refused('post', path('desk-staff'), { ...body, text: 'x'.repeat(501) }),
    ).toMatchObject({ paths: ['text'] });
    expect(await act('desk-staff', { ...body, text: 'Save your work by noon' })).toMatchObject({
      state: 'done',
    });
  });

  it('of a call that fails says so, and goes on from there', async () => {
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'power' });
    const { jobId } = await server.send<{ jobId: string }>('post', path('desk-staff'), {
      action: 'restart',
      hosts: ['WCL-DS-007'],
    });
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'failed' });
    // Half-way it takes nobody; what was begun is finished by going on.
    expect((await host('WCL-DS-007', 'desk-staff')).state).toBe('held');
    await server.send('post', `/jobs/${jobId}/go-on`);
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'done' });
    expect((await host('WCL-DS-007', 'desk-staff')).state).toBe('in service');
  });
});

describe('a dedicated host', () => {
  it('is handed to somebody else, who is on it from then on', async () => {
    const person = (await estate().directory.people('archivist', { limit: 1 })).people[0];
    const hand = (name: string, account: string | null) =>
      server.send('put', `/hosts/${name}/owner`, { account });
    await hand('WCL-ML-01', person?.account ?? '');
    expect((await host('WCL-ML-01', 'map-lab')).owner).toBe(person?.account);
    const nobody = await server.refused('put', '/hosts/WCL-ML-01/owner', { account: 'nobody.here' });
    expect(nobody.faults).toEqual([
      { path: 'account', message: 'the directory has nobody called nobody.here' },
    ]);
    const forAll = await server.refused('put', '/hosts/WCL-DS-001/owner', { account: null });
    expect(forAll.faults[0]?.message).toBe('the hosts of desk-staff are for anybody');
    await hand('WCL-ML-01', null);
    expect((await host('WCL-ML-01', 'map-lab')).owner).toBeNull();
  });

  it('with data is removed only when that is meant, and then from every system', async () => {
    const body = { action: 'remove', hosts: ['WCL-ML-03'] };
    expect(await preview('map-lab', body)).toMatchObject({ hosts: ['WCL-ML-03'], dataLostBytes: 250e9 });
    expect(await server.refused('post', path('map-lab'), body)).toMatchObject({
      status: 422,
      paths: ['losesData'],
    });
    expect(await act('map-lab', { ...body, losesData: true })).toMatchObject({ state: 'done' });
    expect((await hosts('map-lab')).map((one) => one.name)).not.toContain('WCL-ML-03');
    const { hypervisor, directory, broker } = estate();
    expect(await hypervisor.machineNames()).not.toContain('WCL-ML-03');
    expect(await directory.computerNames()).not.toContain('WCL-ML-03');
    expect(await broker.owners(['WCL-ML-03'])).toEqual(new Map());
    expect(
      server.outside(`select id from disk where role = 'data' and site = 'yard-b' and datastore = 'fast'`),
    ).toHaveLength(7);
  });

  it('that a rollout has in its list is not removed; one that was removed is still in its record', async () => {
    const id = pools.get('contact-centre') ?? '';
    const refused = await server.refused('post', path('contact-centre'), {
      action: 'remove',
      hosts: ['WCL-CC-040'],
    });
    expect(refused.faults[0]?.message).toContain('is in the list of a rollout that is not over');
    const [rollout] = (await get<{ id: string; poolId: string }[]>('/rollouts')).filter(
      (one) => one.poolId === id,
    );
    await server.send('post', `/rollouts/${rollout?.id ?? ''}/stop`);
    expect(await act('contact-centre', { action: 'remove', hosts: ['WCL-CC-001'] })).toMatchObject({
      state: 'done',
    });
    const record = await get<{ rows: { host: { name: string } }[] }>(
      `/rollouts/${rollout?.id ?? ''}/hosts?limit=500`,
    );
    expect(record.rows.map((row) => row.host.name)).toContain('WCL-CC-001');
  });
});
