import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Capture, PackageSummary, PackageVersion } from '@vatline/contract/package';
import { inventoryHeader } from '@vatline/core/image/inventory';
import { saveInventory } from '@vatline/files/inventory-file';
import { scanTree } from '@vatline/files/scan';
import { TestServer } from './harness.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open();
});
afterAll(() => server.close());

const versionsOf = async (name: string): Promise<PackageVersion[]> =>
  (await server.get<PackageSummary[]>('/packages')).find((row) => row.name === name)?.versions ?? [];
const folders = (name: string) =>
  existsSync(join(server.folder, name)) ? readdirSync(join(server.folder, name)) : [];

describe('a capture on the practice machine', () => {
  let captureId: string;

  it('finds what the installer changed, drops the noise, finds the updater', async () => {
    const started = await server.send<{ captureId: string; jobId: string }>('post', '/captures', {
      installer: 'zinnet-141.0',
    });
    ({ captureId } = started);
    expect((await server.untilEnded(started.jobId)).state).toBe('done');
    const capture = await server.get<Capture>(`/captures/${captureId}`);
    expect(capture).toMatchObject({ state: 'ready', counts: { removed: 0, moved: 0 } });
    const comparison = await server.get<{
      dropped: { rule: string }[];
      updaters: { remedy: string }[];
      changed: unknown[];
    }>(`/captures/${captureId}/comparison`);
    expect(new Set(comparison.dropped.map((row) => row.rule))).toEqual(
      new Set(['temporary', 'update store', 'search index', 'prefetch', 'event log', 'log']),
    );
    expect(comparison.updaters).toHaveLength(3);
    expect(comparison.changed).toHaveLength(1);
  });

  it('packs it without the updater; the container verifies and downloads', async () => {
    const { proposal } = await server.get<Capture>(`/captures/${captureId}`);
    const { jobId } = await server.send<{ jobId: string }>(
      'post',
      `/captures/${captureId}/container`,
      proposal,
    );
    for (let state = 'running'; state === 'running' || state === 'waiting';) {
      ({ state } = await server.get<{ state: string }>(`/jobs/${jobId}`));
      await new Promise((done) => setTimeout(done, 20));
    }
    expect(await server.get(`/jobs/${jobId}`)).toMatchObject({ state: 'done' });
    const [version] = await versionsOf('Zinnet Browser');
    expect(version).toMatchObject({
      version: '141.0',
      state: 'live',
      files: 461,
      entryPoints: proposal.entryPoints,
    });
    expect(await server.send('post', `/package-versions/${version?.id}/verify`)).toMatchObject({
      holds: true,
    });
    expect(folders('containers')).toEqual([version?.digest, `${version?.digest}.cdx.json`].sort());
    const download = await request(server.app.http)
      .get(`/api/v1/package-versions/${version?.id}/download`)
      .buffer(true)
      .parse((stream, done) => {
        const parts: Buffer[] = [];
        stream
          .on('data', (part: Buffer) => parts.push(part))
          .on('end', () => done(null, Buffer.concat(parts)));
      });
    const names = execFileSync('tar', ['tf', '-'], { input: download.body as Buffer }).toString();
    expect(names).toMatch(/\.oci\/oci-layout\n/);
  });

  it.each([
    ['a version that is packaged already', {}, 'version'],
    ['no name', { name: '', version: '142' }, 'name'],
    ['no entry point', { entryPoints: [], version: '142' }, 'entryPoints'],
    [
      'an entry point that is not in it',
      { entryPoints: [{ name: 'X', path: 'nowhere.exe' }], version: '142' },
      'entryPoints.0.path',
    ],
  ])('refuses %s', async (_what, change, path) => {
    const { proposal } = await server.get<Capture>(`/captures/${captureId}`);
    expect(
      (await server.refused('post', `/captures/${captureId}/container`, { ...proposal, ...change })).paths,
    ).toEqual([path]);
  });

  it('refuses an installer that is not in the library', async () => {
    expect((await server.refused('post', '/captures', { installer: 'nope' })).paths).toEqual(['installer']);
  });
});

describe('an uploaded capture', () => {
  let work: string;
  let files: { before: string; after: string; payload: string };

  beforeAll(async () => {
    work = join(server.folder, 'work');
    const tree = join(work, 'tree');
    mkdirSync(join(tree, 'Temp'), { recursive: true });
    writeFileSync(join(tree, 'there.txt'), 'there');
    files = {
      before: join(work, 'before.jsonl'),
      after: join(work, 'after.jsonl'),
      payload: join(work, 'tree.tgz'),
    };
    saveInventory(files.before, inventoryHeader(tree, 0, true), (await scanTree(tree)).entries);
    mkdirSync(join(tree, 'App'));
    for (let i = 0; i < 500; i++) writeFileSync(join(tree, 'App', `part-${i}.dll`), `content ${i}`.repeat(i));
    writeFileSync(join(tree, 'Temp', 'x'), 'noise');
    saveInventory(files.after, inventoryHeader(tree, 0, true), (await scanTree(tree)).entries);
    execFileSync('tar', ['czf', files.payload, '-C', tree, '.']);
  });

  const upload = (
    change: Partial<typeof files> = {},
    fields = { name: 'Own', publisher: 'Us', version: '1' },
  ) => {
    const call = request(server.app.http).post('/api/v1/captures/upload');
    for (const [name, value] of Object.entries(fields)) void call.field(name, value);
    for (const [name, path] of Object.entries({ ...files, ...change }))
      if (path) void call.attach(name, path);
    return call;
  };

  it('is compared, packed, and unpacked to the same bytes by a general OCI tool', async () => {
    const { body } = await upload();
    await server.untilEnded((body as { jobId: string }).jobId);
    const capture = await server.get<Capture>(`/captures/${(body as { captureId: string }).captureId}`);
    expect(capture).toMatchObject({ state: 'ready', counts: { added: 501, dropped: 1, changed: 0 } });
    const { jobId } = await server.send<{ jobId: string }>('post', `/captures/${capture.id}/container`, {
      name: 'Own',
      publisher: 'Us',
      version: '1',
      entryPoints: [{ name: 'Own', path: 'App/part-1.dll' }],
    });
    await server.untilEnded(jobId);
    const [version] = await versionsOf('Own');
    const bundle = join(work, 'bundle');
    execFileSync('umoci', [
      'unpack',
      '--image',
      `${join(server.folder, 'containers', version?.digest ?? '')}:1`,
      bundle,
    ]);
    const sums = (folder: string) =>
      execFileSync('sh', ['-c', 'cd "$0"/App && sha256sum *', folder]).toString();
    expect(sums(join(bundle, 'rootfs'))).toBe(sums(join(work, 'tree')));
  });

  it.each([
    ['a malformed inventory line', 'after', '{"kind":"file"}', /^line 2 is a file without a text "path"/],
    ['an inventory of the wrong shape', 'before', '', /^line 1 is not the header/],
    ['a payload that is no archive', 'payload', 'hello', /neither tar, tar.gz nor ZIP/],
  ])('refuses %s at its part and keeps nothing', async (_what, part, content, why) => {
    const kept = folders('captures');
    const bad = join(work, 'bad');
    writeFileSync(
      bad,
      part === 'after' ? `${JSON.stringify(inventoryHeader('x', 0, true))}\n${content}\n` : content || '{}',
    );
    const { status, body } = await upload({ [part]: bad });
    const problem = (Object.keys(body as object).length > 0 ? body : {}) as {
      faults: { path: string; message: string }[];
    };
    expect(status).toBe(422);
    expect(problem.faults[0]?.path).toBe(part);
    expect(problem.faults[0]?.message).toMatch(why);
    expect(folders('captures')).toEqual(kept);
  });

  it('refuses a form with parts missing, each named', async () => {
    const { status, body } = await upload(
      { payload: '', after: '' },
      { name: '', publisher: 'Us', version: '1' },
    );
    expect(status).toBe(422);
    expect((body as { faults: { path: string }[] }).faults.map((fault) => fault.path)).toEqual([
      'after',
      'payload',
      'name',
    ]);
  });
});
