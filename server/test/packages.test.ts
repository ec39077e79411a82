import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Capture } from '@vatline/contract/capture';
import type { Certificate, PackageVersion } from '@vatline/contract/package';
import { makeAuthority } from '@vatline/demo/certificates';
import { inventoryHeader } from '@vatline/core/inventory/text';
import { saveInventory } from '@vatline/files/inventory-file';
import { scanTree } from '@vatline/files/scan';
import { TestServer } from './harness.ts';
import { packagesOf } from './usual-requests.ts';

interface Judgement {
  findings: { kind: string; evidence: { note: string }[] }[];
  clean: { holds: boolean; evidence: string[] }[];
  pictures: Record<string, { fault: string }>;
}

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open();
});
afterAll(() => server.close());

const versionsOf = async (name: string): Promise<PackageVersion[]> =>
  (await packagesOf((path) => server.get(path))).find((row) => row.name === name)?.versions ?? [];
const folders = (name: string) =>
  existsSync(join(server.folder, name)) ? readdirSync(join(server.folder, name)) : [];

describe('a capture on the practice machine', () => {
  let captureId: string;

  it('finds what the installer changed, drops the noise, finds the updater', async () => {
    const started = await server.send<{ captureId: string; jobId: string }>('post', '/captures', {
      installers: ['zinnet-141.0'],
      quiet: false,
    });
    ({ captureId } = started);
    expect((await server.untilEnded(started.jobId)).state).toBe('done');
    const capture = await server.get<Capture>(`/captures/${captureId}`);
    expect(capture).toMatchObject({ state: 'ready', counts: { removed: 0, moved: 0 } });
    const comparison = await server.get<{
      dropped: { rule: string }[];
      changed: unknown[];
    }>(`/captures/${captureId}/comparison`);
    const judgement = await server.get<Judgement>(`/captures/${captureId}/judgement`);
    expect(new Set(comparison.dropped.map((row) => row.rule))).toEqual(
      new Set(['temporary', 'update store', 'search index', 'prefetch', 'event log', 'log']),
    );
    expect(judgement.findings.map((finding) => [finding.kind, finding.evidence.length])).toEqual([
      ['updater', 3],
    ]);
    expect(judgement.clean.map((check) => [check.holds, check.evidence])).toEqual([
      [false, ['System search index', 'System update']],
      [true, []],
      [true, []],
    ]);
    expect(Object.keys(judgement.pictures)).toEqual(['Program files/Zinnet Browser/Zinnet.ico']);
    expect(comparison.changed).toHaveLength(1);
  });

  const versionOf = async () => {
    const [version] = await versionsOf('Zinnet Browser');
    if (!version) throw new Error('there is no version');
    return version;
  };

  it('builds three containers without the updater, as a draft; one is chosen', async () => {
    const { proposal } = await server.get<Capture>(`/captures/${captureId}`);
    const { jobId } = await server.send<{ jobId: string }>(
      'post',
      `/captures/${captureId}/container`,
      proposal,
    );
    expect((await server.untilEnded(jobId)).state).toBe('done');
    const version = await versionOf();
    expect(version).toMatchObject({
      version: '141.0',
      state: 'draft',
      format: 'squashfs',
      files: 461,
      entryPoints: proposal.entryPoints,
      captureId,
      signed: null,
      verified: null,
    });
    expect(version.containers.map((one) => one.format)).toEqual(['squashfs', 'oci', 'vhdx']);
    expect(folders('containers').sort()).toEqual(
      version.containers.flatMap((one) => [one.digest, `${one.digest}.cdx.json`]).sort(),
    );
    await server.send('post', `/package-versions/${version.id}/choose`, { format: 'oci' });
    expect((await versionOf()).digest).toBe(version.containers.find((one) => one.format === 'oci')?.digest);
    expect(
      (await server.refused('post', `/package-versions/${version.id}/choose`, { format: 'vhdx-fixed' }))
        .paths,
    ).toEqual(['format']);
  });

  it('says what clashes: nothing, with an empty library', async () => {
    expect(await server.get(`/packages/clashes?capture=${captureId}`)).toEqual([]);
  });

  it('is read from the container, and single files are taken out of it', async () => {
    const { id } = await versionOf();
    const contents = await server.get<{ path: string; kind: string; size: number }[]>(
      `/package-versions/${id}/contents`,
    );
    expect(contents.filter((row) => row.kind === 'file')).toHaveLength(461);
    const wanted = contents.find((row) => row.path.endsWith('.txt'));
    const { body } = (await request(server.app.http)
      .get(`/api/v1/package-versions/${id}/file`)
      .query({ path: wanted?.path })
      .buffer(true)
      .parse((stream, done) => {
        let bytes = 0;
        stream.on('data', (part: Buffer) => (bytes += part.length)).on('end', () => done(null, bytes));
      })) as { body: number };
    expect(body).toBe(wanted?.size);
  });

  it('unsigned, it is not verified and cannot be offered', async () => {
    const { id } = await versionOf();
    const { holds, findings } = await server.send<{
      holds: boolean;
      findings: { holds: boolean; what: string }[];
    }>('post', `/package-versions/${id}/verify`);
    expect(holds).toBe(false);
    expect(findings.filter((finding) => !finding.holds)).toEqual([
      { holds: false, what: 'signature: there is none beside the container' },
    ]);
    expect((await server.refused('post', `/package-versions/${id}/offer`)).status).toBe(409);
  });

  it('signed with a certificate, it verifies and goes live', async () => {
    const { id } = await versionOf();
    const authority = makeAuthority(server.app.estate.clock.now());
    const bring = (name: string, pem: string) =>
      request(server.app.http)
        .post('/api/v1/certificates')
        .field('name', name)
        .field('password', '')
        .attach('file', Buffer.from(pem), 'key.pem');
    const brought = await bring('Packaging', authority.valid.pem);
    expect(brought.status).toBe(200);
    expect((await bring('Packaging', authority.valid.pem)).status).toBe(422);
    const again = (await bring('Nonsense', 'nonsense')).body as {
      faults: { path: string; message: string }[];
    };
    expect(again.faults).toEqual([{ path: 'file', message: 'is neither PKCS #12 nor PEM' }]);
    const [certificate, ...others] = await server.get<Certificate[]>('/certificates');
    expect([certificate?.name, certificate?.fault, others]).toEqual(['Packaging', '', []]);
    const stored = await server.app.db.selectFrom('certificate').selectAll().executeTakeFirstOrThrow();
    expect(JSON.stringify([stored, certificate])).not.toContain('PRIVATE KEY');
    expect(statSync(join(server.folder, 'sealing.key')).mode & 0o777).toBe(0o600);
    const sign = { certificateId: certificate?.id };
    await server.send('post', `/package-versions/${id}/sign`, sign);
    expect(await server.send('post', `/package-versions/${id}/verify`)).toMatchObject({ holds: true });
    expect((await versionOf()).state).toBe('verified');
    expect((await server.run(`/package-versions/${id}/offer`)).state).toBe('done');
    expect(await versionOf()).toMatchObject({
      state: 'live',
      share: 'containers',
      signed: { name: 'Packaging' },
    });
    expect((await server.refused('post', `/package-versions/${id}/choose`, { format: 'vhdx' })).status).toBe(
      409,
    );
  });

  it('held and signed anew, it has to be verified before it is offered again', async () => {
    const { id, signed } = await versionOf();
    await server.send('patch', `/package-versions/${id}`, { state: 'held' });
    await server.send('post', `/package-versions/${id}/sign`, { certificateId: signed?.certificateId });
    expect((await server.refused('post', `/package-versions/${id}/offer`)).status).toBe(409);
    expect(await server.send('post', `/package-versions/${id}/verify`)).toMatchObject({ holds: true });
    expect((await server.run(`/package-versions/${id}/offer`)).state).toBe('done');
  });

  it('downloads as a general tool takes it', async () => {
    const version = await versionOf();
    const download = await request(server.app.http)
      .get(`/api/v1/package-versions/${version.id}/download`)
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
    expect((await server.refused('post', '/captures', { installers: ['nope'] })).paths).toEqual([
      'installers.0',
    ]);
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
    const layer = version?.containers.find((one) => one.format === 'oci');
    const bundle = join(work, 'bundle');
    execFileSync('umoci', [
      'unpack',
      '--image',
      `${join(server.folder, 'containers', layer?.digest ?? '')}:1`,
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
      'payload',
      'after',
      'name',
    ]);
  });
});
