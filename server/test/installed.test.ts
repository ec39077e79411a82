/** Installed delivery on practice hosts: what is foreseen, what agents do, what they report. */
import { hostsOf } from './usual-requests.ts';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type {
  InstallForecast,
  InstallationInput,
  InstallationRow,
  InstallReport,
  RemovalForecast,
} from '@vatline/contract/installation';
import { entryName } from '@vatline/core/inventory/entry';
import { TestServer } from './harness.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open({ demo: true });
});
afterAll(() => server.close());

const row = async (id: string) => {
  const found = (await server.get<InstallationRow[]>('/installations')).find((one) => one.id === id);
  if (!found) throw new Error('there is no such installation');
  return found;
};
async function create(installer: string, change: Partial<InstallationInput>): Promise<string> {
  const { id } = await server.send<{ id: string }>('post', '/installations', { installer });
  const { installation } = await row(id);
  await server.send('put', `/installations/${id}`, { ...installation, ...change, basedOn: 1 });
  return id;
}
const forecast = async (id: string) =>
  server.send<InstallForecast>('post', `/installations/${id}/forecast`, (await row(id)).installation);
const counted = (list: readonly { state: string }[]) => {
  const counts: Record<string, number> = {};
  for (const { state } of list) counts[state] = (counts[state] ?? 0) + 1;
  return counts;
};
/** What is on a host, by its name. */
async function onHost(name: string) {
  for (const { id } of await server.get<{ id: string }[]>('/pools')) {
    const host = (await hostsOf((path) => server.get(path), id)).find((one) => one.name === name);
    if (host) return server.inventory(`host:${host.id}`);
  }
  throw new Error(`there is no host ${name}`);
}
const report = (id: string) => server.get<InstallReport[]>(`/installations/${id}/report`);
const begin = async (id: string, maxMinutes = 1_500) => {
  const { jobId } = await server.send<{ jobId: string }>('post', `/installations/${id}/begin`);
  return server.untilEnded(jobId, maxMinutes);
};

describe('a source', () => {
  it('from the library becomes one archive, the same each time', async () => {
    const id = await create('knapsel-2.9', {});
    const again = await create('knapsel-2.9', {});
    const { archive } = await row(id);
    expect(archive?.files).toBe(26);
    expect((await row(again)).archive).toEqual(archive);
    const path = join(server.folder, 'archives', `${archive?.digest}.tar.gz`);
    const listed = execFileSync('tar', ['tzf', path]).toString().split('\n').filter(Boolean);
    expect(listed).toHaveLength(26);
    await server.send('delete', `/installations/${again}`);
    expect(existsSync(path)).toBe(true);
    await server.send('delete', `/installations/${id}`);
    expect(existsSync(path)).toBe(false);
  });

  it('is uploaded as ZIP or tar; what is none is refused', async () => {
    const { id } = await server.send<{ id: string }>('post', '/installations', { installer: null });
    const tree = join(server.folder, 'own');
    mkdirSync(tree);
    writeFileSync(join(tree, 'setup.exe'), 'x');
    execFileSync('tar', ['czf', join(server.folder, 'own.tgz'), '-C', tree, '.']);
    const send = (file: string | Buffer) =>
      request(server.app.http).post(`/api/v1/installations/${id}/source`).attach('source', file, 'own.tgz');
    expect((await send(join(server.folder, 'own.tgz'))).status).toBe(200);
    expect((await row(id)).archive?.files).toBe(1);
    const bad = await send(Buffer.from('hello'));
    expect((bad.body as { faults: { path: string }[] }).faults[0]?.path).toBe('source');
    await server.send('delete', `/installations/${id}`);
  });
});

describe('an installation', () => {
  let id: string;

  it('tells beforehand what each host would make of it', async () => {
    id = await create('corvane-11.2', { hosts: 'WCL-PB-*, WCL-ML-*', quietHours: null });
    const answer = await forecast(id);
    expect(answer.faults).toEqual([]);
    expect(answer.order).toEqual(['Corvane Stats 11.2']);
    expect(answer.hosts.map((one) => one.pool).filter((pool) => pool === 'pilot-bench')).toHaveLength(6);
    expect(counted(answer.hosts)).toEqual({ 'to install': answer.hosts.length });
    expect(answer.hosts.every((one) => one.from === server.now)).toBe(true);
  });

  it('requirements leave hosts out, with the reason', async () => {
    const { installation } = await row(id);
    const answer = await server.send<InstallForecast>('post', `/installations/${id}/forecast`, {
      ...installation,
      requirements: { ...installation.requirements, minimumSystem: '25', memoryBytes: 1e12 },
    });
    expect(answer.hosts[0]?.why).toEqual([
      expect.stringMatching(/^it needs system 25, the host has Desktop OS 24/),
      expect.stringMatching(/^it needs 1000.0 GB of memory/),
    ]);
  });

  it('is run by agents at their checks, and every host reports', async () => {
    expect((await begin(id)).state).toBe('done');
    const reports = await report(id);
    const counts = counted(reports);
    expect((counts['installed'] ?? 0) + (counts['failed'] ?? 0)).toBe(reports.length);
    expect(counts['installed']).toBeGreaterThan(8);
    for (const one of reports.filter((each) => each.state === 'failed'))
      expect([one.code, one.why]).toEqual([1603, 'the installer gave up and took back what it had done']);
    const host = reports.find((each) => each.state === 'installed');
    const entries = await onHost(host?.host ?? '');
    expect(entries.some((entry) => entry.kind === 'application' && entry.name === 'Corvane Stats')).toBe(
      true,
    );
  });

  it('begun again, it is found there already', async () => {
    expect((await begin(id)).state).toBe('done');
    const counts = counted(await report(id));
    expect(counts['detected already']).toBeGreaterThan(8);
    expect(counts['installed']).toBeUndefined();
  });

  it('what it needs is installed before it; a circle is refused', async () => {
    const runtime = await create('knapsel-2.9', { hosts: 'WCL-PB-*', quietHours: null });
    const stats = await create('tarrowby-1.1', {
      hosts: 'WCL-PB-0*',
      quietHours: null,
      dependencies: [{ name: 'Knapsel Archiver', range: '>=2' }],
    });
    expect((await forecast(stats)).order).toEqual(['Knapsel Archiver 2.9', 'Tarrowby Clock 1.1']);
    const job = await begin(stats);
    expect(job.steps.map((step) => step.title)).toEqual([
      'Knapsel Archiver 2.9 on 6 hosts',
      'Tarrowby Clock 1.1 on 6 hosts',
    ]);
    const first = await report(runtime);
    expect(first).toHaveLength(6);
    // Where the runtime failed, what needs it was not tried.
    for (const { host, state } of first) {
      const after = (await report(stats)).find((one) => one.host === host);
      if (state === 'failed') expect(after?.why).toBe('it needs Knapsel Archiver, which is not there');
      else expect(['installed', 'failed']).toContain(after?.state);
    }
    const circle = { dependencies: [{ name: 'Tarrowby Clock', range: '*' }] };
    await server.send('put', `/installations/${runtime}`, {
      ...(await row(runtime)).installation,
      ...circle,
      basedOn: (await row(runtime)).revision,
    });
    const refused = await server.refused('post', `/installations/${stats}/begin`);
    expect(refused.faults).toEqual([
      {
        path: 'dependencies.0',
        message: 'needs itself: Tarrowby Clock needs Knapsel Archiver needs Tarrowby Clock',
      },
    ]);
  });

  it('waits for the end of quiet hours, survives a restart meanwhile, and can be cancelled', async () => {
    const needed = await create('halvane-2.2', { hosts: 'WCL-PB-01' });
    const own = await create('pennisk-4.4', {
      hosts: 'WCL-PB-01',
      quietHours: { start: '00:00', end: '23:59' },
      dependencies: [{ name: 'Halvane Print', range: '*' }],
    });
    const { jobId } = await server.send<{ jobId: string }>('post', `/installations/${own}/begin`);
    await server.advance(30);
    const [waiting] = await report(own);
    expect(waiting?.state).toBe('waiting');
    expect((waiting?.at ?? 0) > server.now).toBe(true);
    await server.restart({ demo: true });
    await server.advance(30);
    expect((await report(own)).map((one) => one.state)).toEqual(['waiting']);
    await server.send('post', `/jobs/${jobId}/cancel`);
    await server.untilEnded(jobId);
    // What it needs waited as well, under its own name.
    for (const id of [own, needed])
      expect((await report(id)).map((one) => [one.state, one.why])).toEqual([
        ['cancelled', 'the job ended before its agent began'],
      ]);
  });

  it('is taken away where it is, and stays where something needs it', async () => {
    const base = await create('lanrick-4.0', { hosts: 'WCL-DS-00*', quietHours: null });
    const needy = await create('mossgill-9.1', {
      hosts: 'WCL-DS-001, WCL-DS-002',
      quietHours: null,
      dependencies: [{ name: 'Lanrick Ledger', range: '*' }],
    });
    const removal = async () => (await server.get<RemovalForecast>(`/installations/${base}/removal`)).hosts;
    expect(counted(await removal())).toEqual({ 'not there': 9 });
    await begin(base);
    await begin(needy);
    const has = (of: readonly InstallReport[]) =>
      of.filter((one) => ['installed', 'detected already'].includes(one.state)).map((one) => one.host);
    const [there, needing] = [has(await report(base)), has(await report(needy))];
    const before = await removal();
    expect(before.filter((one) => one.state !== 'not there').map((one) => one.host)).toEqual(there);
    expect(before.filter((one) => one.state === 'needed').map((one) => [one.host, one.by])).toEqual(
      needing.map((host) => [host, ['Mossgill Vault 9.1']]),
    );
    const { jobId } = await server.send<{ jobId: string }>('post', `/installations/${base}/take-away`);
    expect((await server.untilEnded(jobId)).state).toBe('done');
    for (const { host, state, code, why } of await report(base))
      if (needing.includes(host)) expect([state, why]).toEqual(['needed', 'Mossgill Vault 9.1 needs it']);
      else if (!there.includes(host)) expect(state).toBe('not there');
      else if (state === 'removed') {
        expect(why).toBe('ran "System/Agent/Lanrick Ledger 4.0\\setup.exe" /uninstall /quiet');
        const names = (await onHost(host)).map(entryName);
        expect(names).not.toContain('Lanrick Ledger');
      } else expect([state, code]).toEqual(['failed', 1603]);
    expect(counted(await report(base))['removed']).toBeGreaterThan(3);
    expect((await onHost(needing[0] ?? '')).map(entryName)).toContain('Lanrick Ledger');
  });

  it('the deadline ends the quiet', async () => {
    const own = await create('pennisk-4.4', {
      hosts: 'WCL-PB-02',
      quietHours: { start: '00:00', end: '23:59' },
      deadline: server.now + 60 * 60_000,
    });
    expect((await forecast(own)).hosts[0]?.from).toBe(server.now + 60 * 60_000);
    expect((await begin(own, 200)).state).toBe('done');
  });

  it('takes the place of what it replaces, restarts where it is to, and keeps to its time', async () => {
    const own = await create('oddenby-3.3', {
      hosts: 'WCL-PB-03',
      quietHours: null,
      replaces: ['Pennisk Viewer', 'Corvane Stats'],
      restart: 'always',
    });
    const had = (await forecast(own)).hosts[0]?.why;
    await begin(own);
    const [done] = await report(own);
    if (done?.state === 'installed') {
      expect(done.why).toBe(
        'restarted; ran "System/Agent/Oddenby Post 3.3\\setup.exe" /quiet /log "System/Agent/Oddenby Post 3.3.log"',
      );
      const names = (await onHost('WCL-PB-03')).flatMap((entry) =>
        entry.kind === 'application' ? [entry.name] : [],
      );
      expect(names).toContain('Oddenby Post');
      for (const gone of had ?? []) expect(names).not.toContain(gone.replace('in place of ', ''));
    } else expect(done?.code).toBe(1603);
    const slow = await create('skerrowby-1.8', { hosts: 'WCL-PB-04', quietHours: null, timeLimitMinutes: 1 });
    await begin(slow);
    expect((await report(slow))[0]).toMatchObject({
      state: 'failed',
      code: null,
      why: 'it was stopped after 1 min, its limit',
    });
  });

  it('a silent agent is a failed host, not a failed job; what needs the other is not tried there', async () => {
    await server.send('post', '/estate/faults', { kind: 'agent silent', target: 'WCL-PB-05' });
    const own = await create('yarnspell-5.5', { hosts: 'WCL-PB-05, WCL-PB-06', quietHours: null });
    expect((await begin(own)).state).toBe('done');
    const [silent] = await report(own);
    expect(silent).toMatchObject({
      host: 'WCL-PB-05',
      state: 'failed',
      why: 'the agent on WCL-PB-05 has been silent for 15 minutes',
    });
    const needy = await create('glenmorrow-3.1', {
      hosts: 'WCL-PB-05',
      quietHours: null,
      dependencies: [{ name: 'Yarnspell Check', range: '*' }],
    });
    await begin(needy);
    expect((await report(needy))[0]).toMatchObject({
      state: 'failed',
      why: 'it needs Yarnspell Check, which is not there',
    });
  });

  it.each([
    [{ hosts: 'NOWHERE-*' }, 'hosts', 'is the name of no host'],
    [{ installCommand: 'setup {x} /quiet' }, 'installCommand', /unknown placeholder/],
    [{ detection: [] }, 'detection', /again and again/],
  ] as [Partial<InstallationInput>, string, string | RegExp][])(
    '%o is refused at its field',
    async (change, path, message) => {
      const own = await create('umberley-1.4', { hosts: 'WCL-PB-01', ...change });
      const refused = await server.refused('post', `/installations/${own}/begin`);
      expect(refused.paths).toEqual([path]);
      expect(refused.faults[0]?.message).toMatch(message);
    },
  );
});
