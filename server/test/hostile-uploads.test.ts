/** A2, A3, B9: uploads that break off, never end, or claim too much, against a server in a process of its own. */
import { randomBytes } from 'node:crypto';
import { existsSync, readdirSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import { execFile, execFileSync } from 'node:child_process';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { RunningApp } from './running-app.ts';

/** Not in place: a connection that nobody looks at for five seconds is closed. */
const run = promisify(execFile);

let app: RunningApp;
let paths: string[];
beforeAll(async () => {
  app = await RunningApp.start();
  const [line] = await app.api<{ id: string }[]>('/lines');
  const [installation] = await app.api<{ id: string }[]>('/installations');
  paths = [
    '/captures/upload',
    '/certificates',
    `/installations/${installation?.id ?? ''}/source`,
    `/lines/${line?.id ?? ''}/imports`,
  ];
});
afterAll(async () => {
  if (process.env['SHOW_OUTPUT']) process.stderr.write(app.output);
  await app.stop();
});

const form = (parts: readonly [string, string | Buffer, string?][], boundary = 'b'): Buffer =>
  Buffer.concat([
    ...parts.flatMap(([name, content, file]) => [
      Buffer.from(
        `--${boundary}\r\ncontent-disposition: form-data; name="${name}"${file ? `; filename="${file}"` : ''}\r\n\r\n`,
      ),
      Buffer.from(content),
      Buffer.from('\r\n'),
    ]),
    Buffer.from(`--${boundary}--\r\n`),
  ]);

const post = (path: string, body: Buffer, headers: Record<string, string> = {}) =>
  fetch(`${app.address}/api/v1${path}`, {
    method: 'POST',
    headers: { 'content-type': 'multipart/form-data; boundary=b', ...headers },
    body: new Uint8Array(body),
  });

/** Sends the beginning of a form and leaves without a word, by a reset. */
function breakOff(path: string, after: number): Promise<void> {
  const url = new URL(app.address);
  const body = form([
    ['payload', randomBytes(300_000), 'p.tar'],
    ['before', randomBytes(100_000), 'b'],
  ]);
  return new Promise((done, fail) => {
    const socket = connect(Number(url.port), url.hostname, () => {
      socket.write(
        `POST /api/v1${path} HTTP/1.1\r\nhost: ${url.host}\r\ncontent-type: multipart/form-data; boundary=b\r\ncontent-length: ${body.length}\r\n\r\n`,
      );
      socket.write(body.subarray(0, after), () => socket.resetAndDestroy());
    });
    socket
      .on('close', () => done())
      .on('error', (error: NodeJS.ErrnoException) => {
        if (error.code !== 'ECONNRESET') fail(error);
      });
  });
}

const list = (name: string) => {
  const folder = join(app.folder, name);
  return existsSync(folder) ? readdirSync(folder) : [];
};
const uploads = () => list('uploads');

async function settled(holds: () => boolean | Promise<boolean>): Promise<void> {
  for (let i = 0; i < 200 && !(await holds()); i++) await new Promise((done) => setTimeout(done, 25));
  expect(await holds()).toBe(true);
}

describe('A2: an upload that breaks off is a line in the log', () => {
  it('wherever it breaks off, in every form, nothing ends and nothing is left', async () => {
    const captures = list('captures').length;
    for (const path of paths) for (const after of [0, 40, 5_000, 250_000]) await breakOff(path, after);
    await settled(() => uploads().length === 0);
    await settled(() => list('captures').length === captures);
    expect(app.isRunning).toBe(true);
    expect(await app.api('/health')).toMatchObject({ status: 'well' });
    expect(app.output).not.toContain('nobody waited for');
  });

  it('forms without an end, without a boundary, and of another kind are refused in words', async () => {
    for (const path of paths) {
      const whole = form([['payload', 'x', 'p.tar']]);
      const cut = await post(path, whole.subarray(0, whole.length - 12));
      expect([path, cut.status, ((await cut.json()) as { detail: string }).detail]).toEqual([
        path,
        400,
        'This is no form that can be read: Unexpected end of form',
      ]);
      const bare = await post(path, whole, { 'content-type': 'multipart/form-data' });
      expect([path, bare.status]).toEqual([path, 400]);
      const other = await post(path, whole, { 'content-type': 'application/x-tar' });
      expect([path, other.status]).toEqual([path, 422]);
    }
    expect(app.isRunning).toBe(true);
  });

  it('a form that says it is larger than it may be is refused before it is read', async () => {
    const url = new URL(app.address);
    const answer = await new Promise<string>((done, fail) => {
      let text = '';
      const socket = connect(Number(url.port), url.hostname, () => {
        socket.write(
          `POST /api/v1/certificates HTTP/1.1\r\nhost: ${url.host}\r\ncontent-type: multipart/form-data; boundary=b\r\ncontent-length: 90000000000\r\n\r\n`,
        );
      });
      socket.on('data', (piece) => (text += piece.toString()));
      socket.on('close', () => done(text)).on('error', fail);
    });
    expect(answer).toContain('413 Payload Too Large');
    expect(answer).toContain('larger than the 2 MB that it may be');
  });

  it('a source with a link to a folder is kept', async () => {
    const folder = join(app.folder, 'uploads', 'made-by-test');
    execFileSync('sh', [
      '-c',
      `mkdir -p ${folder}/bin && echo run > ${folder}/bin/setup && ln -s bin ${folder}/tools && tar cf ${folder}.tar -C ${folder} . && rm -r ${folder}`,
    ]);
    const archive = execFileSync('cat', [`${folder}.tar`]);
    const answer = await post(paths[2] ?? '', form([['source', archive, 's.tar']]));
    expect([answer.status, await answer.json()]).toEqual([200, { done: true }]);
  });
});

describe('B9: what uploads claim is bounded, and others go on meanwhile', () => {
  /** The longest that somebody else waits while something is going on, in milliseconds. */
  async function longestWait(during: Promise<unknown>): Promise<number> {
    let longest = 0;
    let over = false;
    void during.finally(() => (over = true));
    while (!over) {
      const begun = performance.now();
      await app.api('/health');
      longest = Math.max(longest, performance.now() - begun);
      await new Promise((done) => setTimeout(done, 5));
    }
    return longest;
  }
  const header = JSON.stringify({
    inventory: 1,
    root: 'x',
    takenAt: '2027-01-01T00:00:00Z',
    caseSensitive: true,
  });
  it('an inventory of one line of 40 MB, and one of 300,000 lines', async () => {
    const long = form([
      ['inventory', `${header}\n{"kind":"folder","path":"${'x'.repeat(40_000_000)}"}`, 'i'],
    ]);
    const refused = post(paths[3] ?? '', long);
    expect(await longestWait(refused)).toBeLessThan(1_000);
    const answer = (await (await refused).json()) as { faults: { path: string; message: string }[] };
    expect(answer.faults).toEqual([{ path: 'inventory', message: 'line 2 has over 4,194,304 bytes' }]);

    const many = Array.from(
      { length: 300_000 },
      (_none, i) =>
        `{"kind":"file","path":"folder/${i}","size":1,"sha256":"${'a'.repeat(64)}","mode":"0644","modified":"2027-01-01T00:00:00Z"}`,
    );
    const taken = post(paths[3] ?? '', form([['inventory', [header, ...many].join('\n'), 'i']]));
    expect(await longestWait(taken)).toBeLessThan(1_000);
    expect((await taken).status).toBe(200);
  });

  it('a PKCS #12 that asks for a million iterations', async () => {
    const folder = join(app.folder, 'uploads');
    const at = (name: string) => join(folder, name);
    execFileSync('mkdir', ['-p', folder]);
    await run('openssl', [
      'req',
      '-x509',
      '-newkey',
      'rsa:2048',
      '-nodes',
      '-keyout',
      at('k'),
      '-out',
      at('c'),
      '-subj',
      '/CN=x',
    ]);
    await run('openssl', [
      'pkcs12',
      '-export',
      '-inkey',
      at('k'),
      '-in',
      at('c'),
      '-iter',
      '1000000',
      '-passout',
      'pass:x',
      '-out',
      at('p'),
    ]);
    const body = form([
      ['name', 'slow'],
      ['password', 'x'],
      ['file', execFileSync('cat', [at('p')]), 'p'],
    ]);
    const begun = performance.now();
    const asked = post('/certificates', body);
    expect(await longestWait(asked)).toBeLessThan(1_000);
    expect(performance.now() - begun).toBeLessThan(5_000);
    const answer = (await (await asked).json()) as { faults: { path: string; message: string }[] };
    expect(answer.faults).toEqual([
      { path: 'file', message: expect.stringContaining('asks for 1,000,000 iterations') as string },
    ]);
  });

  it('a registry export that is no text, and a payload that is none', async () => {
    const answer = await post(
      '/captures/upload',
      form([
        ['name', 'n'],
        ['publisher', 'p'],
        ['version', '1'],
        ['payload', 'hello', 'p.tar'],
        ['registry', randomBytes(2_000_000), 'r.reg'],
      ]),
    );
    const { faults } = (await answer.json()) as { faults: { path: string }[] };
    expect([answer.status, faults.map((fault) => fault.path)]).toEqual([422, ['registry']]);
  });
});

describe('A3: only our own pages and names are served', () => {
  const url = () => new URL(app.address);
  const raw = (head: string): Promise<string> =>
    new Promise((done, fail) => {
      let text = '';
      const socket = connect(Number(url().port), url().hostname, () => socket.end(head));
      socket.on('data', (piece) => (text += piece.toString()));
      socket.on('close', () => done(text)).on('error', fail);
    });

  it('a name that is neither loopback nor configured is answered 421', async () => {
    for (const host of [
      'evil.example',
      `evil.example:${url().port}`,
      '127.0.0.1.evil.example',
      '10.0.0.1',
      'x@y',
    ]) {
      const answer = await raw(`GET /api/v1/home HTTP/1.1\r\nhost: ${host}\r\nconnection: close\r\n\r\n`);
      expect([host, answer.slice(9, 12)]).toEqual([host, '421']);
      expect(answer).toContain('application/problem+json');
    }
    for (const host of [url().host, `localhost:${url().port}`, 'localhost', '[::1]:1', '127.0.0.2']) {
      const answer = await raw(`GET /api/v1/health HTTP/1.1\r\nhost: ${host}\r\nconnection: close\r\n\r\n`);
      expect([host, answer.slice(9, 12)]).toEqual([host, '200']);
    }
  });

  it('changes asked for by a page of another origin are answered 403, whatever they carry', async () => {
    const bodies: [string, string][] = [
      ['application/json', '{"rate":0}'],
      ['multipart/form-data; boundary=b', form([['name', 'x']]).toString()],
      ['text/plain', 'x'],
      ['application/json', ''],
    ];
    const own = app.address;
    const foreign: Record<string, string>[] = [
      { origin: 'https://evil.example' },
      { origin: 'null' },
      { origin: own.replace('127.0.0.1', 'localhost') },
      { origin: own, 'sec-fetch-site': 'cross-site' },
      { 'sec-fetch-site': 'same-site' },
      { 'sec-fetch-site': 'none' },
    ];
    for (const [type, body] of bodies)
      for (const headers of foreign) {
        const head = Object.entries({
          ...headers,
          'content-type': type,
          'content-length': String(body.length),
        })
          .map(([name, value]) => `${name}: ${value}\r\n`)
          .join('');
        const answer = await raw(
          `POST /api/v1/clock HTTP/1.1\r\nhost: ${url().host}\r\n${head}connection: close\r\n\r\n${body}`,
        );
        expect([headers, answer.slice(9, 12)]).toEqual([headers, '403']);
      }
    const ours = await fetch(`${own}/api/v1/clock`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: own, 'sec-fetch-site': 'same-origin' },
      body: '{"rate":0}',
    });
    expect(ours.status).not.toBe(403);
  });
});

it('A2: after all that the server is the one that was started', () => {
  expect(app.isRunning).toBe(true);
  expect(app.output).not.toMatch(/nobody (waited|caught)/);
  writeFileSync(join(app.folder, 'uploads', 'end'), '');
});
