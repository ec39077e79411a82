/** Many at once: each row its own result. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Bulk, BulkRequest } from '@vatline/contract/bulk';
import type { Certificate, PackageVersion } from '@vatline/contract/package';
import { openContainer } from '@vatline/files/open-container';
import { join } from 'node:path';
import { TestServer } from './harness.ts';
import { packagesOf } from './usual-requests.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open({ demo: true });
});
afterAll(() => server.close());

const versions = async (): Promise<PackageVersion[]> =>
  (await packagesOf((path) => server.get(path))).flatMap((row) => row.versions);
async function run(request: BulkRequest): Promise<[string, string, string][]> {
  const { jobId } = await server.send<{ jobId: string }>('post', '/bulk', request);
  expect((await server.untilEnded(jobId)).state).toBe('done');
  const { rows } = await server.get<Bulk>('/bulk');
  return rows.map((row) => [row.what, row.state, row.result]);
}

describe('many at once', () => {
  it('a list becomes drafts; what cannot be one says why and holds up no other', async () => {
    const row = (name: string, version: string) => ({ name, version });
    expect(
      await run({
        action: 'draft',
        rows: [
          row('Dockray Scan', '3.4'),
          row('Zinnet Browser', '141.0'),
          row('Pellam Reader', '9.0'),
          row('Zinnet Browser', '150'),
          row('Nothing Known', '1'),
          row('Ostrand Forms', '3.1'),
        ],
      }),
    ).toEqual([
      [
        'Dockray Scan 3.4',
        'refused',
        'It does not suit a container: a driver cannot be attached; its capture is kept',
      ],
      ['Zinnet Browser 141.0', 'done', 'draft made'],
      ['Pellam Reader 9.0', 'refused', 'It is packaged already'],
      ['Zinnet Browser 150', 'refused', 'There is no Zinnet Browser 150 in the library; it has 139.0, 141.0'],
      ['Nothing Known 1', 'refused', 'There is no Nothing Known in the library'],
      ['Ostrand Forms 3.1', 'done', 'draft made; with care: it has to be made to install for everybody'],
    ]);
    const zinnet = (await versions()).find((version) => version.version === '141.0');
    expect(zinnet).toMatchObject({
      state: 'draft',
      format: 'squashfs',
      details: { licence: 'free for any use' },
    });
  });

  it('versions are signed again, the expiring ones first; live ones stay live', async () => {
    const valid = (await server.get<Certificate[]>('/certificates')).find((one) => one.name.endsWith('2026'));
    const tillbeck = (await versions()).find((version) => version.name === 'Tillbeck Cash');
    expect(tillbeck?.signed?.name).toBe('Wrenfield Packaging 2025');
    const rows = await run({
      action: 'sign',
      certificateId: valid?.id ?? '',
      versionIds: [tillbeck?.id ?? '', 'nothing'],
    });
    expect(rows).toEqual([
      ['Tillbeck Cash 5.1', 'done', 'signed by Wrenfield Packaging 2026'],
      ['nothing', 'refused', 'There is no such package version'],
    ]);
    expect((await versions()).find((version) => version.id === tillbeck?.id)).toMatchObject({
      state: 'live',
      signed: { name: 'Wrenfield Packaging 2026' },
    });
  });

  it('containers are converted: the same files and the same manifest in another format', async () => {
    const reader = (await versions()).find((version) => version.name === 'Pellam Reader');
    const request: BulkRequest = { action: 'convert', format: 'vhdx', versionIds: [reader?.id ?? ''] };
    expect(await run(request)).toEqual([
      [
        'Pellam Reader 9.0',
        'done',
        expect.stringMatching(/^Disk, expandable of [\d.]+ MB built beside it$/) as string,
      ],
    ]);
    const after = (await versions()).find((version) => version.id === reader?.id);
    expect([after?.format, after?.containers.map((one) => one.format).sort()]).toEqual([
      'squashfs',
      ['squashfs', 'vhdx'],
    ]);
    const opened = await Promise.all(
      (after?.containers ?? []).map((one) => openContainer(join(server.folder, 'containers', one.digest))),
    );
    const [a, b] = opened.map(({ manifest, tree }) => ({
      manifest,
      files: tree.entries
        .flatMap((entry) => (entry.kind === 'file' ? [`${entry.path} ${entry.size}`] : []))
        .sort(),
    }));
    for (const container of opened) container.close();
    expect(a).toEqual(b);
    expect((await run(request))[0]?.slice(1)).toEqual([
      'refused',
      'It has a container of this format: Disk, expandable',
    ]);
  });

  it('groups are assigned by a list', async () => {
    const rows = await run({
      action: 'assign',
      rows: [
        { package: 'Yarnspell Check', group: 'Branch staff', pool: 'desk-staff' },
        { package: 'Yarnspell Check', group: 'Branch staff', pool: 'desk-staff' },
        { package: 'Yarnspell Check', group: 'Nobody', pool: 'desk-staff' },
        { package: 'Yarnspell Check', group: 'Branch staff', pool: 'nowhere' },
      ],
    });
    expect(rows.map((row) => row[1])).toEqual(['done', 'refused', 'refused', 'refused']);
    expect(rows[0]?.[2]).toMatch(/^assigned, which reaches \d+ people$/);
    expect(rows.slice(1).map((row) => row[2])).toEqual([
      'Branch staff is assigned to this already',
      'group The directory has no group named Nobody',
      'There is no pool nowhere',
    ]);
  });

  it('an empty list is refused', async () => {
    expect((await server.refused('post', '/bulk', { action: 'draft', rows: [] })).paths).toEqual(['rows']);
  });
});
