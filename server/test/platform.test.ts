import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { api } from '@vatline/contract/api';
import type { Clock } from '@vatline/contract/estate';
import type { Home, TapeItem, Waiting } from '@vatline/contract/home';
import type { Cell } from '@vatline/contract/pool/host';
import { readConfig } from '../src/platform/config.ts';
import { Pace } from '../src/platform/jobs/pace.ts';
import { schemaName } from '../src/platform/database.ts';
import { hardware, TestServer } from './harness.ts';
import { packagesOf } from './usual-requests.ts';

describe('with the demo', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.open({ demo: true });
  });
  afterAll(() => server.close());

  it('counts what waits at each station as home lists it', async () => {
    const { needs } = await server.get<Home>('/home');
    const waiting = await server.get<Waiting>('/waiting');
    const listed: Record<string, number> = {};
    for (const { to } of needs) {
      const station = to.split('/')[1] ?? '';
      listed[station] = (listed[station] ?? 0) + 1;
    }
    // Home lists the first seven.
    const total = Object.values(waiting).reduce((sum, n) => sum + n, 0);
    expect(total).toBeGreaterThanOrEqual(needs.length);
    for (const [station, n] of Object.entries(listed)) expect(waiting[station]).toBeGreaterThanOrEqual(n);
    if (total === needs.length) expect(waiting).toEqual(listed);
  });

  it('gives the hosts of a pool as cells, as many as home counts', async () => {
    const { lanes, hosts } = await server.get<Home>('/home');
    const pools = lanes.flatMap((lane) => lane.pools);
    let cells = 0;
    for (const pool of pools) {
      const own = await server.get<Cell[]>(`/pools/${pool.id}/cells`);
      expect(own).toHaveLength(pool.hosts);
      expect(own.map((cell) => cell.name)).toEqual(own.map((cell) => cell.name).sort());
      cells += own.length;
    }
    expect([hosts, cells]).toEqual([154, 154]);
    const contact = pools.find((pool) => pool.name === 'contact-centre');
    const waiting = (await server.get<Cell[]>(`/pools/${contact?.id}/cells`)).filter(
      (cell) => cell.next !== null,
    );
    expect(waiting).toHaveLength(contact?.rollout?.left ?? 0);
    expect((await server.refused('get', '/pools/nope/cells')).status).toBe(404);
  });

  it('finds hosts by a part of their names, so many and no more', async () => {
    expect(await server.get('/hosts?q=cc-00&limit=2')).toEqual([
      { name: 'WCL-CC-001', pool: 'contact-centre' },
      { name: 'WCL-CC-002', pool: 'contact-centre' },
    ]);
    expect(await server.get('/hosts?q=nowhere')).toEqual([]);
    // What would be a pattern to the database is left out.
    expect(await server.get('/hosts?q=%25')).toHaveLength(20);
    expect((await server.refused('get', '/hosts?limit=0')).paths).toEqual(['limit']);
  });

  it('the first screen tells the story: 154 hosts, two rollouts, what waits', async () => {
    const home = await server.get<Home>('/home');
    expect([home.hosts, home.asTheyShould]).toEqual([154, 154 - 22 - 24]);
    expect(home.next).toMatchObject({ pool: 'contact-centre', hosts: 22 });
    expect(home.lanes.map((lane) => [lane.line, lane.pools.length])).toEqual([
      ['Staff multi-session', 3],
      ['Reader desktop', 2],
      ['Map workstation', 1],
    ]);
    expect(home.needs.map((need) => need.title)).toEqual([
      'WCL-PB-04',
      'Tillbeck Cash 5.1: its certificate runs out in 9 days',
      'Staff multi-session 15 is in test',
      'Reader desktop 12 is draft',
      'Zinnet Browser 141.0 is out',
    ]);
  });

  it('every container of the demo is really there and holds', async () => {
    const packages = await packagesOf((path) => server.get(path));
    const ids = packages.flatMap((row) => row.versions.map((version) => version.id));
    expect(ids.length).toBeGreaterThanOrEqual(24);
    for (const id of ids)
      expect(await server.send('post', `/package-versions/${id}/verify`)).toMatchObject({ holds: true });
  });

  it('the tape shows the windows, and the clocks going forward on 28 March at 01:00', async () => {
    const from = server.now;
    const items = await server.get<TapeItem[]>(`/tape?from=${from}&to=${from + 7 * 86_400_000}`);
    expect(items.map((item) => item.kind)).toContain('rollout');
    expect(items.find((item) => item.kind === 'clock change')).toMatchObject({
      label: 'clocks go forward',
      start: Date.parse('2027-03-28T01:00:00Z'),
    });
  });

  it('all rollouts of the demo come to their ends in the weeks that follow', async () => {
    await server.advance(21 * 24 * 60);
    const rollouts =
      await server.get<{ pool: string; state: string; done: number; hosts: number }[]>('/rollouts');
    expect(rollouts.map((row) => [row.pool, row.state, row.done])).toEqual([
      ['desk-staff', 'done', 24],
      ['contact-centre', 'done', 40],
    ]);
    const home = await server.get<Home>('/home');
    expect(home.asTheyShould).toBe(154);
  });
});

describe('the platform', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.open();
  });
  afterAll(() => server.close());

  it('says that it is well', async () => {
    expect(await server.get('/health')).toEqual({
      status: 'well',
      trouble: null,
      schema: schemaName,
      jobsRunning: 0,
    });
  });
  it('describes every endpoint in OpenAPI 3.1', async () => {
    const { body } = (await request(server.app.http).get('/api/openapi.json')) as {
      body: { openapi: string; paths: Record<string, Record<string, object>> };
    };
    expect(body.openapi).toBe('3.1.0');
    const described = Object.values(body.paths).flatMap((path) => Object.keys(path)).length;
    expect(described).toBe(Object.values(api).flatMap((group) => Object.keys(group)).length);
    expect(body.paths['/api/v1/lines/{id}/recipe']?.['put']).toMatchObject({
      requestBody: { required: true },
    });
  });
  it('answers problems for unknown addresses, broken JSON, fields too many', async () => {
    expect((await server.refused('get', '/nothing')).status).toBe(404);
    const broken = await request(server.app.http)
      .post('/api/v1/lines')
      .set('content-type', 'application/json')
      .send('{');
    expect([broken.status, broken.headers['content-type']]).toEqual([
      400,
      expect.stringContaining('problem+json'),
    ]);
    expect((await server.refused('post', '/estate/clock', { action: 'rate', rate: 7 })).paths).toEqual([
      'rate',
    ]);
    expect((await server.refused('get', `/tape?from=x&to=${Date.UTC(2027, 3)}`)).paths).toEqual(['from']);
  });
  it('refuses a body over the limit', async () => {
    const big = await request(server.app.http)
      .post('/api/v1/lines')
      .send({ name: 'x'.repeat(3_000_000) });
    expect(big.status).toBe(413);
  });
  it('sends headers that keep strangers out', async () => {
    const { headers } = await request(server.app.http).get('/api/v1/health');
    expect(headers['content-security-policy']).toMatch("default-src 'self'");
    expect(headers['x-powered-by']).toBeUndefined();
  });
  it('tells listeners which topics changed, gathered', async () => {
    const http = server.app.http.listen(0);
    const { port } = http.address() as { port: number };
    const abort = new AbortController();
    const stream = await fetch(`http://127.0.0.1:${port}/api/v1/live`, { signal: abort.signal });
    const reader = (stream.body as ReadableStream<Uint8Array>).getReader();
    await server.send('post', '/estate/faults', { kind: 'quota exhausted', target: 'yard-a' });
    let text = '';
    while (!text.includes('data:')) text += Buffer.from((await reader.read()).value ?? []).toString();
    expect(JSON.parse(text.slice(text.indexOf('data:') + 5))).toEqual(
      expect.arrayContaining(['estate', 'journal']),
    );
    abort.abort();
    http.close();
  });
  it('the clock: sets its speed, refuses to go where nothing is', async () => {
    expect(await server.send<Clock>('post', '/estate/clock', { action: 'rate', rate: 0 })).toMatchObject({
      rate: 0,
    });
    expect((await server.refused('post', '/estate/clock', { action: 'next event' })).status).toBe(409);
    expect((await server.refused('post', '/estate/clock', { action: 'end of window' })).status).toBe(409);
  });
  it.each([
    ['fail next', 'lunch'],
    ['quota exhausted', 'yard-z'],
    ['agent silent', 'WCL-XX-1'],
  ])('refuses the fault %s on %s', async (kind, target) => {
    expect((await server.refused('post', '/estate/faults', { kind, target })).paths).toEqual(['target']);
  });
});

describe('a folder that was started empty', () => {
  it('keeps its own work at a later start with the demo, and an empty one is filled', async () => {
    const server = await TestServer.open();
    await server.send('post', '/lines', { name: 'Mine', hardware });
    await server.restart({ demo: true });
    expect(await server.get<{ name: string }[]>('/lines')).toMatchObject([{ name: 'Mine' }]);
    await server.close();
    const empty = await TestServer.open();
    await empty.restart({ demo: true });
    expect((await empty.get<Home>('/home')).hosts).toBe(154);
    await empty.close();
  });
});

describe('small parts', () => {
  it('reads its configuration and refuses a port that is none', () => {
    expect(readConfig({}, '/x')).toMatchObject({ port: 4780, host: '127.0.0.1', dataFolder: '/x/data' });
    expect(readConfig({ PORT: '80', HOST: '::', VATLINE_DATA: 'd' }, '/x')).toMatchObject({
      port: 80,
      host: '::',
      dataFolder: '/x/d',
    });
    expect(() => readConfig({ PORT: 'http' }, '/x')).toThrow('PORT is "http"');
  });
  it('a pace holds the clock while any strand works, and passes the hold back', async () => {
    let holds = 0;
    const clock = { hold: () => (holds++, () => void holds--) };
    const pace = new Pace(clock as never);
    pace.enter();
    const seen: number[] = [];
    const strand = (wait: boolean) => async () => {
      if (wait) {
        pace.leave();
        await Promise.resolve();
        pace.enter();
      }
      seen.push(holds);
    };
    await pace.together([strand(true), strand(false), strand(true)]);
    expect([seen, holds]).toEqual([[1, 1, 1], 1]);
    pace.leave();
    expect(holds).toBe(0);
  });
});
