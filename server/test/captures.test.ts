/** Captures beyond the plain one: restarts, several installers, rules, drafts, what the container says. */
import { chmodSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Capture, CaptureDraft } from '@vatline/contract/capture';
import type { RuleSet, RuleTrial } from '@vatline/contract/noise-rules';
import type { Entry } from '@vatline/core/inventory/entry';
import type { CaptureComparison } from '@vatline/core/package/noise';
import { openContainer } from '@vatline/files/open-container';
import { captureFiles } from '../src/package/capture-files.ts';
import { TestServer } from './harness.ts';
import { packagesOf } from './usual-requests.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open();
});
afterAll(() => server.close());

interface Judgement {
  findings: { kind: string; evidence: { entry: Entry; note: string }[] }[];
  clean: { holds: boolean; what: string }[];
}
type Draft = CaptureDraft & { sources: Record<string, string> };

async function capture(installers: string[], options: object = {}): Promise<string> {
  const started = await server.send<{ captureId: string; jobId: string }>('post', '/captures', {
    installers,
    ...options,
  });
  expect((await server.untilEnded(started.jobId)).state).toBe('done');
  return started.captureId;
}
const comparison = (id: string) => server.get<CaptureComparison>(`/captures/${id}/comparison`);
const judgement = (id: string) => server.get<Judgement>(`/captures/${id}/judgement`);
const kinds = async (id: string) => (await judgement(id)).findings.map((finding) => finding.kind);

describe('the practice machine', () => {
  it('restarts when the installer asks: the driver is there only then', async () => {
    const id = await capture(['dockray-3.4']);
    const { added } = await comparison(id);
    expect(added.filter((entry) => entry.kind === 'driver')).toHaveLength(1);
    expect(added.some((entry) => entry.kind === 'file' && entry.path === 'System/Drivers/dockray.sys')).toBe(
      true,
    );
    expect(await kinds(id)).toContain('driver');
  });

  it('without the restart the driver is missed, and the machine says that one is pending', async () => {
    const id = await capture(['dockray-3.4'], { restarts: false });
    const { added } = await comparison(id);
    expect(added.some((entry) => entry.kind === 'driver')).toBe(false);
    expect(added.some((entry) => entry.kind === 'registry' && entry.key.endsWith('Restart required'))).toBe(
      true,
    );
  });

  it('quiet, it writes neither its index nor its update store, and is clean', async () => {
    const id = await capture(['knapsel-2.9']);
    const dropped = new Set((await comparison(id)).dropped.map((row) => row.rule));
    expect([...dropped].sort()).toEqual(['event log', 'log', 'prefetch', 'temporary']);
    expect((await judgement(id)).clean.every((check) => check.holds)).toBe(true);
  });

  it('several installers: the package is of the last, each row has its owner', async () => {
    const id = await capture(['quaybolt-5.2', 'corvane-11.2']);
    expect(await server.get<Capture>(`/captures/${id}`)).toMatchObject({
      name: 'Corvane Stats',
      installers: ['Quaybolt Runtime 5.2', 'Corvane Stats 11.2'],
      quiet: true,
    });
    const owners = await server.get<{ name: string; entries: string[] }[]>(`/captures/${id}/owners`);
    expect(owners.map((owner) => owner.name)).toEqual(['Quaybolt Runtime 5.2', 'Corvane Stats 11.2']);
    const holds = (i: number, key: string) => owners[i]?.entries.includes(key);
    expect(holds(0, 'file Program files/Quaybolt Runtime/quaybolt.exe')).toBe(true);
    expect(holds(1, 'file Program files/Corvane Stats/corvane.exe')).toBe(true);
    expect(holds(0, 'file Program files/Corvane Stats/corvane.exe')).toBe(false);
    // It brings what it needs, so nothing is missing.
    expect(await kinds(id)).not.toContain('dependency');
  });
});

describe('text files', () => {
  it('are there before and after; nothing is read outside of the capture', async () => {
    const id = await capture(['knapsel-2.9']);
    const text = (path: string) =>
      server.get<{ before: string | null; after: string | null }>(
        `/captures/${id}/text?path=${encodeURIComponent(path)}`,
      );
    expect(await text('System/Fonts/cache.idx')).toEqual({
      before: 'fonts 12',
      after: 'fonts 12, looked at again',
    });
    expect(await text('../../vatline.sqlite')).toEqual({ before: null, after: null });
    expect(await text('Program files/Knapsel Archiver/knapsel.exe')).toEqual({ before: null, after: null });
  });
});

describe('pictures', () => {
  it('are given out where they were found, and only those', async () => {
    const id = await capture(['zinnet-141.0']);
    const picture = (path: string) =>
      request(server.app.http).get(`/api/v1/captures/${id}/picture`).query({ path });
    const good = await picture('Program files/Zinnet Browser/Zinnet.ico');
    expect([good.status, good.headers['content-type']]).toEqual([200, 'image/x-icon']);
    expect((await picture('../../sealing.key')).status).toBe(404);
    expect((await picture('Program files/Zinnet Browser/zinnet.exe')).status).toBe(404);
  });

  it.each([
    ['fennimark-6.0', 'is cut short: picture 3 lies outside of the file'],
    ['kettlebeck-8.0', 'is 16 points wide at most, and blurred where it is shown larger'],
    ['skerrowby-1.8', 'neither its program nor its files bring a picture'],
  ])('of %s: %s', async (installer, note) => {
    const { findings } = await judgement(await capture([installer]));
    expect(findings.find((finding) => finding.kind === 'picture')?.evidence[0]?.note).toBe(note);
  });
});

describe('noise rules', () => {
  const fonts = {
    id: 'font cache',
    action: 'drop',
    glob: 'System/Fonts/cache.idx',
    reason: 'made anew by every machine',
  };
  let id: string;

  it('are tried on the captures there are, and kept as a revision', async () => {
    id = await capture(['tarrowby-1.1']);
    const tried = await server.send<RuleTrial[]>('post', '/noise-rules/try', { rules: [fonts] });
    expect(tried.length).toBeGreaterThanOrEqual(8);
    expect(tried.every((row) => row.dropped === 1 && row.kept === 0)).toBe(true);
    expect(tried.find((row) => row.captureId === id)).toMatchObject({
      name: 'Tarrowby Clock',
      version: '1.1',
      isPackaged: false,
      examples: ['System/Fonts/cache.idx'],
    });
    expect(await server.send('put', '/noise-rules/House%20rules', { rules: [fonts], basedOn: 0 })).toEqual({
      revision: 1,
    });
  });

  it('judge a capture anew, and back', async () => {
    const rules = { name: 'House rules', revision: 1 };
    await server.send('post', `/captures/${id}/judge`, { rules });
    const judged = await comparison(id);
    expect([judged.changed, judged.dropped.some((row) => row.rule === 'font cache')]).toEqual([[], true]);
    expect(await server.get<Capture>(`/captures/${id}`)).toMatchObject({ rules, counts: { changed: 0 } });
    await server.send('post', `/captures/${id}/judge`, { rules: null });
    expect((await comparison(id)).changed[0]?.fields).toContain('sha256');
    await server.send('post', `/captures/${id}/judge`, { rules });
  });

  it('a new capture is judged by them at once', async () => {
    const next = await capture(['tarrowby-1.1']);
    expect((await server.get<Capture>(`/captures/${next}`)).rules).toEqual({
      name: 'House rules',
      revision: 1,
    });
    expect((await comparison(next)).changed).toEqual([]);
    const [set] = await server.get<RuleSet[]>('/noise-rules');
    expect(set?.revisions.map((row) => [row.revision, row.captures])).toEqual([[1, 2]]);
    expect((await server.refused('delete', '/noise-rules/House%20rules')).status).toBe(409);
  });

  it.each([
    ['two of one id', [fonts, fonts], ['rules.1.id']],
    [
      'an expression that cannot be read',
      [{ ...fonts, glob: undefined, expression: '(' }],
      ['rules.0.expression'],
    ],
    ['no reason', [{ ...fonts, reason: ' ' }], ['rules.0.reason']],
    ['an unknown kind', [{ ...fonts, kinds: ['cloud'] }], ['rules.0.kinds.0']],
  ])('%s: refused at its place', async (_what, rules, paths) => {
    expect((await server.refused('put', '/noise-rules/Other', { rules, basedOn: 0 })).paths).toEqual(paths);
  });

  it('kept meanwhile by somebody else: refused, nothing is lost', async () => {
    const late = { rules: [], basedOn: 0 };
    expect((await server.refused('put', '/noise-rules/House%20rules', late)).status).toBe(409);
  });

  it('B8: an expression that would never end elsewhere is answered like any other', async () => {
    const rules = [{ ...fonts, glob: undefined, expression: '^(([a-zA-Z /.]+)+)+#$' }];
    const begun = performance.now();
    await server.send('post', '/noise-rules/try', { rules });
    expect(performance.now() - begun).toBeLessThan(3_000);
  });
});

describe('the manifest', () => {
  it('is guessed with its sources, and kept as a draft', async () => {
    const id = await capture(['zinnet-141.0']);
    const draft = await server.get<Draft>(`/captures/${id}/draft`);
    expect(draft.manifest).toMatchObject({
      name: 'Zinnet Browser',
      publisher: 'Zinnet',
      version: '141.0',
      description: 'Zinnet Browser',
      licence: 'free for any use',
      entryPoints: [
        {
          name: 'Zinnet Browser',
          path: 'Program files/Zinnet Browser/zinnet.exe',
          icon: 'Program files/Zinnet Browser/Zinnet.ico',
          protocols: ['zinnet'],
        },
      ],
    });
    expect(draft.sources['version']).toBe('the uninstall entry');
    const changed = { ...draft.manifest, notes: 'as agreed' };
    await server.send('put', `/captures/${id}/draft`, {
      manifest: changed,
      confirmed: ['name'],
      updatersOff: false,
    });
    expect(await server.get<Draft>(`/captures/${id}/draft`)).toMatchObject({
      manifest: { notes: 'as agreed' },
      confirmed: ['name'],
      updatersOff: false,
    });
  });

  it('D25: the estimate says what a disk does not keep, and the layer does', async () => {
    const id = await capture(['cartolune-12']);
    const payload = captureFiles(join(server.folder, 'captures', id)).payload;
    const [program] = readdirSync(payload, { recursive: true, encoding: 'utf8' }).filter((path) =>
      path.endsWith('.exe'),
    );
    chmodSync(join(payload, program ?? ''), 0o4755);
    const { containers } = await server.get<{
      containers: { format: string; lost: { kind: string; entries: number; paths: string[] }[] }[];
    }>(`/captures/${id}/estimate`);
    const loss = { kind: 'permissions', becomes: 'a disk keeps none', entries: 1, paths: [program] };
    expect(containers.map(({ format, lost }) => [format, lost])).toEqual([
      ['squashfs', []],
      ['vhdx', [loss]],
      ['vhdx-fixed', [loss]],
      ['oci', []],
    ]);
  });

  it('the estimate is near what is built then', async () => {
    const id = await capture(['cartolune-12']);
    const estimate = await server.get<{
      files: number;
      containers: {
        format: string;
        bytes: number;
        seconds: number | null;
        lost: { kind: string; entries: number; paths: string[] }[];
      }[];
    }>(`/captures/${id}/estimate`);
    expect(estimate.containers.flatMap(({ lost }) => lost)).toEqual([]);
    expect(estimate.containers.every((one) => one.seconds === null)).toBe(true);
    const { manifest } = await server.get<Draft>(`/captures/${id}/draft`);
    const { jobId } = await server.send<{ jobId: string }>('post', `/captures/${id}/container`, {
      ...manifest,
      formats: ['squashfs', 'vhdx', 'vhdx-fixed', 'oci'],
    });
    expect((await server.untilEnded(jobId)).state).toBe('done');
    const [built] = (await packagesOf((path) => server.get(path))).flatMap((row) => row.versions);
    expect(estimate.files).toBe(built?.files);
    for (const { format, bytes } of built?.containers ?? []) {
      const ratio = (estimate.containers.find((one) => one.format === format)?.bytes ?? 0) / bytes;
      expect([format, ratio > 0.93 && ratio < 1.07]).toEqual([format, true]);
    }
    const again = await server.get<{ containers: { seconds: number | null }[] }>(`/captures/${id}/estimate`);
    expect(again.containers.every((one) => (one.seconds ?? 0) > 0)).toBe(true);
  });

  it('travels whole, with the settings hosts make; the updater is switched off in them', async () => {
    const id = await capture(['zinnet-141.0']);
    const { manifest } = await server.get<Draft>(`/captures/${id}/draft`);
    const { jobId } = await server.send<{ jobId: string }>('post', `/captures/${id}/container`, {
      ...manifest,
      dependencies: [{ name: 'Quaybolt Runtime', range: '>=5 <6' }],
      attach: { timing: 'ahead', onFailure: 'take the host out' },
      formats: ['squashfs', 'oci', 'vhdx'],
    });
    expect((await server.untilEnded(jobId)).state).toBe('done');
    const version = (await packagesOf((path) => server.get(path)))
      .flatMap((row) => row.versions)
      .find((row) => row.name === 'Zinnet Browser');
    expect(version?.details).toMatchObject({
      licence: 'free for any use',
      attach: { timing: 'ahead' },
      settings: 6,
    });
    for (const { digest } of version?.containers ?? []) {
      const container = await openContainer(join(server.folder, 'containers', digest));
      const said = container.manifest;
      container.close();
      expect(said.dependencies).toEqual([{ name: 'Quaybolt Runtime', range: '>=5 <6' }]);
      expect(said.settings?.filter((entry) => entry.kind === 'service')).toEqual([
        {
          kind: 'service',
          name: 'ZinnetUpdate',
          start: 'disabled',
          image: 'Program files/Zinnet Browser/updater/zinnet-update.exe',
        },
      ]);
      expect(said.settings?.some((entry) => entry.kind === 'task')).toBe(false);
    }
  });

  it.each([
    ['a range that is none', { dependencies: [{ name: 'X', range: 'about 5' }] }, 'dependencies.0.range'],
    [
      'an ending without dot',
      { entryPoints: [{ name: 'X', path: 'x', associations: ['pel'] }] },
      'entryPoints.0.associations.0',
    ],
    ['a variable with a space', { environment: [{ name: 'A B', value: '' }] }, 'environment.0.name'],
    ['a picture that is not in it', { icon: 'nowhere.ico' }, 'entryPoints.0.icon'],
  ])('%s: refused at its place', async (_what, change, path) => {
    const id = await capture(['pennisk-4.4']);
    const { manifest } = await server.get<{ manifest: { entryPoints: object[] } }>(`/captures/${id}/draft`);
    const body =
      'icon' in change
        ? { ...manifest, entryPoints: [{ ...manifest.entryPoints[0], ...change }] }
        : { ...manifest, ...change };
    expect((await server.refused('post', `/captures/${id}/container`, body)).paths).toEqual([path]);
  });
});

describe('a payload with a registry export', () => {
  it('in the Western code page and continued lines: everything in it was put there', async () => {
    const tree = join(server.folder, 'own');
    mkdirSync(join(tree, 'Program files/Own'), { recursive: true });
    writeFileSync(join(tree, 'Program files/Own/own.exe'), 'x');
    const archive = join(server.folder, 'own.tgz');
    execFileSync('tar', ['czf', archive, '-C', tree, '.']);
    const reg = [
      'REGEDIT4',
      '',
      '[Machine\\Software\\Own]',
      '"Place"="Caf\xe9"',
      '"Raw"=hex:01,02,\\',
      '  ff',
    ].join('\r\n');
    const send = (registry: Buffer) =>
      request(server.app.http)
        .post('/api/v1/captures/upload')
        .field('name', 'Own')
        .field('publisher', 'Us')
        .field('version', '1')
        .attach('payload', archive)
        .attach('registry', registry, 'own.reg');
    const bad = await send(Buffer.from('REGEDIT4\r\n\r\n[A]\r\n"x"=what'));
    expect((bad.body as { faults: object[] }).faults).toEqual([
      { path: 'registry', message: 'line 4 has a value of an unknown form: what' },
    ]);
    const { body } = await send(Buffer.from(reg, 'latin1'));
    const { jobId, captureId } = body as { jobId: string; captureId: string };
    expect((await server.untilEnded(jobId)).state).toBe('done');
    const { added } = await comparison(captureId);
    expect(added.map((entry) => (entry.kind === 'registry' ? entry.value : entry.kind))).toEqual([
      'file',
      'folder',
      'folder',
      'Café',
      '01 02 ff'.replaceAll(' ', ''),
    ]);
  });
});
