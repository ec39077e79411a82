/** A4 to A6: what a start may delete, who has a folder, what is answered meanwhile, and keys that are gone. */
import { existsSync, mkdirSync, readFileSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import type { Home } from '@vatline/contract/home';
import type { Certificate } from '@vatline/contract/package';
import { RunningApp } from './running-app.ts';
import { packagesOf } from './usual-requests.ts';

const open: RunningApp[] = [];
afterEach(async () => {
  for (const app of open.splice(0)) await app.stop();
});

async function start(...flags: string[]): Promise<RunningApp> {
  const app = await RunningApp.start(...flags);
  open.push(app);
  return app;
}

function folder(): RunningApp {
  const app = RunningApp.inNewFolder();
  open.push(app);
  return app;
}

/** A start that is expected to end: what it said. */
async function ends(app: RunningApp, port: string, flags: string[]): Promise<string> {
  const child = app.spawn(port, flags);
  let said = '';
  child.stdout.on('data', (piece: Buffer) => (said += piece.toString()));
  child.stderr.on('data', (piece: Buffer) => (said += piece.toString()));
  const code = await new Promise((done) => child.once('exit', done));
  expect([code, said]).toEqual([1, said]);
  expect(said).not.toMatch(/\n\s+at /);
  return said;
}

describe('A4: what a start deletes', () => {
  it('nothing of a folder that was never ours, with or without --fresh', async () => {
    const app = folder();
    writeFileSync(join(app.folder, 'thesis.txt'), 'ten years of work');
    mkdirSync(join(app.folder, 'containers'));
    for (const flags of [['--fresh'], []])
      expect(await ends(app, '0', flags)).toContain('no data folder of Vat Line: it holds thesis.txt');
    expect(readdirSync(app.folder).sort()).toEqual(['containers', 'thesis.txt']);
  });

  it('nothing by an option that is misspelt', async () => {
    const app = folder();
    expect(await ends(app, '0', ['--fersh'])).toContain("Unknown option '--fersh'");
    expect(readdirSync(app.folder)).toEqual([]);
  });

  it('nothing under a running server, whatever the port; after a kill the folder is free', async () => {
    const app = await start('--empty');
    await app.api('/lines', { name: 'Records', hardware: undefined }).catch(() => undefined);
    const before = readdirSync(app.folder).sort();
    expect(await ends(app, '0', ['--empty', '--fresh'])).toContain(
      `another Vat Line (process ${app.pid}) works in ${app.folder}`,
    );
    expect(readdirSync(app.folder).sort()).toEqual(before);
    expect(await app.api('/health')).toMatchObject({ status: 'well' });
    await app.kill();
    await app.launch('--empty');
    expect(await app.api('/health')).toMatchObject({ status: 'well' });
  });

  it('nothing when the port is taken', async () => {
    const app = await start('--empty');
    await app.kill();
    const other = createServer().listen(0, '127.0.0.1');
    await new Promise((done) => other.once('listening', done));
    const { port } = other.address() as AddressInfo;
    expect(await ends(app, String(port), ['--empty', '--fresh'])).toContain(
      `port ${port} on 127.0.0.1 is in use`,
    );
    expect(existsSync(join(app.folder, 'vatline.sqlite'))).toBe(true);
    other.close();
  });

  it('containers that no version has, and none that one has or that a job may have built', async () => {
    const app = await start();
    await app.kill();
    const containers = join(app.folder, 'containers');
    const before = readdirSync(containers).sort();
    const orphan = 'a'.repeat(64);
    const leave = () => {
      writeFileSync(join(containers, orphan), 'x');
      writeFileSync(join(containers, `${orphan}.cdx.json`), '{}');
    };
    leave();
    await app.launch();
    expect(before.length).toBeGreaterThan(10);
    expect(readdirSync(containers).sort()).toEqual(before);
    await app.api('/estate/clock', { action: 'rate', rate: 0 });
    await app.api('/captures', { installers: ['knapsel-2.9'] });
    await app.kill();
    leave();
    await app.launch();
    expect(existsSync(join(containers, orphan))).toBe(true);
  });

  it('only what we made, and tells of the rest', async () => {
    const app = await start('--empty');
    await app.kill();
    writeFileSync(join(app.folder, 'notes.txt'), 'mine');
    mkdirSync(join(app.folder, 'containers'), { recursive: true });
    writeFileSync(join(app.folder, 'containers', 'old'), 'x');
    await app.launch('--empty', '--fresh');
    expect(app.output).toContain(`left in ${app.folder}: notes.txt`);
    expect(readFileSync(join(app.folder, 'notes.txt'), 'utf8')).toBe('mine');
    expect(existsSync(join(app.folder, 'containers', 'old'))).toBe(false);
  });
});

describe('A5: while the demo is being filled', () => {
  it('every request is answered that it is; a kill meanwhile does not need --fresh', async () => {
    const app = folder();
    const free = createServer().listen(0, '127.0.0.1');
    await new Promise((done) => free.once('listening', done));
    const { port } = free.address() as AddressInfo;
    await new Promise((done) => free.close(done));
    const address = `http://127.0.0.1:${port}`;

    const killed = app.spawn(String(port), []);
    await new Promise<void>((done) =>
      killed.stdout.on('data', (piece: Buffer) => {
        if (piece.toString().includes('Filling the demo')) done();
      }),
    );
    const asked = await fetch(`${address}/api/v1/home`);
    expect([asked.status, asked.headers.get('retry-after'), asked.headers.get('content-type')]).toEqual([
      503,
      '2',
      'application/problem+json',
    ]);
    expect(((await asked.json()) as { detail: string }).detail).toMatch(
      /^Vat Line is starting: Filling the demo/,
    );
    const page = await fetch(`${address}/rollouts`);
    expect([page.status, await page.text()]).toEqual([
      503,
      expect.stringContaining('<meta http-equiv="refresh" content="2">') as string,
    ]);
    const posted = await fetch(`${address}/api/v1/clock`, { method: 'POST', body: 'x'.repeat(100_000) });
    expect(posted.status).toBe(503);

    const gone = new Promise((done) => killed.once('exit', done));
    killed.kill('SIGKILL');
    await gone;
    expect(existsSync(join(app.folder, 'demo-filling'))).toBe(true);
    await app.launch();
    expect(app.output).toContain('Filling the demo was cut short; beginning anew');
    expect((await app.api<Home>('/home')).hosts).toBe(154);
    expect(existsSync(join(app.folder, 'demo-filling'))).toBe(false);
  });
});

describe('A6: without the sealing key', () => {
  it('certificates are marked unusable and signing is refused, and the key is not replaced', async () => {
    const app = await start();
    const [named] = (await packagesOf((path) => app.api(path))).flatMap((row) => row.versions);
    const certificates = () => app.api<Certificate[]>('/certificates');
    const usable = (await certificates()).find((row) => row.fault === '');
    const sign = () =>
      fetch(`${app.address}/api/v1/package-versions/${named?.id ?? ''}/sign`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ certificateId: usable?.id }),
      });
    const key = join(app.folder, 'sealing.key');
    await app.kill();
    renameSync(key, `${key}.kept`);
    await app.launch();
    expect(existsSync(key)).toBe(false);
    expect((await certificates()).map((row) => row.fault)).toEqual(
      (await certificates()).map(
        () => 'cannot sign: the sealing key is missing: sealing.key in the data folder',
      ),
    );
    const refused = await sign();
    expect([refused.status, ((await refused.json()) as { detail: string }).detail]).toEqual([
      409,
      'Keys and passwords cannot be used: the sealing key is missing: sealing.key in the data folder',
    ]);
    const needs = (await app.api<Home>('/home')).needs.map((need) => need.title);
    expect(needs[0]).toBe('No certificate can sign');

    await app.kill();
    writeFileSync(key, Buffer.alloc(32, 7));
    await app.launch();
    expect((await certificates())[0]?.fault).toContain('is not the one that was sealed with');

    await app.kill();
    rmSync(key);
    renameSync(`${key}.kept`, key);
    await app.launch();
    expect((await certificates()).find((row) => row.id === usable?.id)?.fault).toBe('');
    expect((await sign()).status).toBe(200);
  });
});
