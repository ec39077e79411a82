/** Where containers lie, what hosts have of them, and the versions of a package together. */
import { existsSync, readFileSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { HostMounts } from '@vatline/contract/pool/host';
import type { JobDetail } from '@vatline/contract/job';
import type { PackageVersion } from '@vatline/contract/package';
import type { ShareDemandFacts } from '@vatline/contract/share';
import { sizeShare, signInsBySecond } from '@vatline/core/package/share-sizing';
import { TestServer } from './harness.ts';
import { packagesOf } from './usual-requests.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open({ demo: true });
});
afterAll(() => server.close());

const summary = async (name: string) => {
  const found = (await packagesOf((path) => server.get(path))).find((row) => row.name === name);
  if (!found) throw new Error(`there is no package ${name}`);
  return found;
};
const versionOf = async (name: string, version: string): Promise<PackageVersion> => {
  const found = (await summary(name)).versions.find((row) => row.version === version);
  if (!found) throw new Error(`there is no ${name} ${version}`);
  return found;
};
const onShare = (share: string, digest: string) => join(server.folder, 'shares', share, digest);
const log = async (jobId: string) =>
  (await server.get<JobDetail>(`/jobs/${jobId}`)).log.map((line) => line.text).join('\n');
const offer = async (id: string, body: object = {}) => {
  const { jobId } = await server.send<{ jobId: string }>('post', `/package-versions/${id}/offer`, body);
  return server.untilEnded(jobId);
};

describe('the share', () => {
  it('holds every offered container, byte for byte', async () => {
    const { digest, share, containerBytes } = await versionOf('Pellam Reader', '9.0');
    expect(share).toBe('containers');
    expect(statSync(onShare('containers', digest)).size).toBe(containerBytes);
  });

  it('goes on with an upload where it was cut off, and checks what arrived', async () => {
    const { id, digest } = await versionOf('Cartolune', '12');
    const copy = onShare('containers', digest);
    const whole = readFileSync(copy);
    truncateSync(copy, 1_000_000);
    const job = await offer(id);
    expect(job.state).toBe('done');
    expect(await log(job.id)).toMatch(/1,000,000 were there/);
    expect(readFileSync(copy).equals(whole)).toBe(true);
  });

  it('what differs is taken away again, and nothing is offered from there', async () => {
    const { id, digest } = await versionOf('Knapsel Archiver', '2.9');
    const copy = onShare('containers-fast', digest);
    // Somebody put other bytes of the same length there.
    await offer(id, { share: 'containers-fast' });
    writeFileSync(copy, Buffer.alloc(statSync(copy).size, 1));
    const job = await offer(id, { share: 'containers-fast' });
    expect([job.state, job.error]).toEqual([
      'failed',
      `What arrived on containers-fast differs from what was sent (${digest}); it was taken away again`,
    ]);
    expect(existsSync(copy)).toBe(false);
    expect((await offer(id, { share: 'containers-fast' })).state).toBe('done');
    expect((await versionOf('Knapsel Archiver', '2.9')).share).toBe('containers-fast');
  });

  it('hosts must be allowed to read; the page says what is wrong, and rights are set', async () => {
    const faults = async (name: string) =>
      (await server.get<ShareDemandFacts>('/shares')).shares.find((share) => share.name === name)?.faults;
    expect(await faults('containers')).toEqual([]);
    expect(await faults('containers-fast')).toEqual(['people may read it, though only hosts have to']);
    const set = (hosts: string) =>
      server.send('put', '/shares/containers-fast/rights', { hosts, packagers: 'write', users: 'nothing' });
    await set('nothing');
    expect(await faults('containers-fast')).toEqual([
      'hosts may not read it, so nothing on it can be attached',
    ]);
    const { id } = await versionOf('Oddenby Post', '3.3');
    const job = await offer(id, { share: 'containers-fast' });
    expect(job.error).toMatch(/Hosts may not read the share containers-fast/);
    await set('read');
    expect(await faults('containers-fast')).toEqual([]);
  });

  it('refuses a share that is not there, and rights that are none', async () => {
    const { id } = await versionOf('Oddenby Post', '3.3');
    expect((await server.refused('post', `/package-versions/${id}/offer`, { share: 'x' })).paths).toEqual([
      'share',
    ]);
    expect(
      (
        await server.refused('put', '/shares/containers/rights', {
          hosts: 'all',
          packagers: 'write',
          users: 'read',
        })
      ).paths,
    ).toEqual(['hosts']);
  });

  it('a full share stops the upload, and says how much is free', async () => {
    const { id } = await versionOf('Wexcombe Atlas', '2.0');
    const shrink = (bytes: number) => server.app.estate.share.setCapacity('containers-fast', bytes);
    await shrink(1_000);
    const job = await offer(id, { share: 'containers-fast' });
    expect(job.error).toMatch(/the share containers-fast is full/);
    await shrink(4e12);
    expect((await versionOf('Wexcombe Atlas', '2.0')).share).toBe('containers');
  });

  it('counts each byte as often as the share says, for room and for reads', async () => {
    const facts = await server.get<ShareDemandFacts>('/shares');
    const share = facts.shares.find((one) => one.name === 'containers');
    expect(share?.scale).toBe(200);
    const { id, containerBytes, entryPoints } = await versionOf('Zinnet Browser', '139.0');
    const counted = facts.pools.flatMap((pool) => pool.packages).find((one) => one.versionId === id);
    expect(counted?.containerBytes).toBe(containerBytes * 200);
    expect(facts.versionBytes).toContain(containerBytes * 200);
    // 12 reads to open it and one for each 400 kB, 3.2 ms each; 35 ms to register each entry point.
    const operations = 12 + Math.ceil((containerBytes * 200) / 400_000);
    expect(counted).toMatchObject({
      operations,
      mountMs: Math.round(operations * 3.2),
      registerMs: 35 * entryPoints.length,
    });
  });

  it('what is asked of it follows from curves, packages and measures', async () => {
    const facts = await server.get<ShareDemandFacts>('/shares');
    const desks = facts.pools.find((pool) => pool.name === 'desk-staff');
    expect(desks?.packages.every((row) => row.measuredOn === null && row.operations > 12)).toBe(true);
    const advice = sizeShare(
      {
        versionBytes: facts.versionBytes,
        growth: 0.3,
        pools: facts.pools.map((pool) => ({
          name: pool.name,
          packages: pool.packages.map((row) => ({
            operationsPerAttach: row.operations,
            attachedAhead: row.attachedAhead,
          })),
          signInsPerSecond: signInsBySecond(pool.expected, 0.1, 3),
          hostsStarting: Array.from({ length: 24 }, () => 0),
        })),
        steadyOperations: 40,
      },
      facts.shares,
    );
    expect(advice.tier?.name).toBe('containers');
    expect(advice.peakHour).toBeGreaterThan(5);
    expect(advice.peakHour).toBeLessThan(10);
  });
});

describe('a host', () => {
  it('tells what it has mounted, from where, since when, and what people open', async () => {
    const host = await server.get<HostMounts>('/hosts/WCL-DS-001/mounts');
    expect(host.pool).toBe('desk-staff');
    expect(host.missing).toEqual([]);
    expect(host.mounts.length).toBeGreaterThan(3);
    expect(host.mounts.every((mount) => mount.isWanted && mount.share === 'containers')).toBe(true);
    const zinnet = host.mounts.find((mount) => mount.version?.name === 'Zinnet Browser');
    expect(zinnet).toMatchObject({ version: { version: '139.0' }, entryPoints: ['Zinnet Browser'] });
    expect(zinnet?.since).toBe(Date.UTC(2027, 2, 10, 8));
    const wait = host.nextCheck - server.now;
    expect(wait > 0 && wait <= 300_000).toBe(true);
  });

  it('is tried with a container for nobody; what that took is kept and counted on', async () => {
    const { id, entryPoints } = await versionOf('Pellam Reader', '9.0');
    const job = await server.run(`/package-versions/${id}/trial`, { host: 'WCL-PB-01' });
    expect(job.state).toBe('done');
    const { signIn } = await versionOf('Pellam Reader', '9.0');
    expect(signIn).toMatchObject({
      host: 'WCL-PB-01',
      format: 'squashfs',
      registerMs: 35 * entryPoints.length,
    });
    // Superblock, tables and trailer open it; the beginning of its program counts as on a container 200 times as large.
    const [opening, scaled] = [(signIn?.operations ?? 0) % 200, Math.floor((signIn?.operations ?? 0) / 200)];
    expect(opening).toBeGreaterThan(4);
    expect(opening).toBeLessThan(40);
    expect(scaled).toBeGreaterThan(0);
    expect(scaled).toBeLessThan(20);
    expect(signIn?.mountMs).toBeGreaterThanOrEqual(Math.floor((signIn?.operations ?? 0) * 3.2));
    const facts = await server.get<ShareDemandFacts>('/shares');
    const measured = facts.pools.flatMap((pool) => pool.packages).filter((row) => row.versionId === id);
    expect(measured[0]).toMatchObject({ measuredOn: 'WCL-PB-01', operations: signIn?.operations });
    expect((await server.get<HostMounts>('/hosts/WCL-PB-01/mounts')).mounts.length).toBe(
      (await server.get<HostMounts>('/hosts/WCL-PB-02/mounts')).mounts.length,
    );
  });

  it('a container that is not on the share any more: the trial fails and says so', async () => {
    const { id, digest } = await versionOf('Umberley Scan', '1.4');
    rmSync(onShare('containers', digest));
    const job = await server.run(`/package-versions/${id}/trial`, { host: 'WCL-PB-01' });
    expect([job.state, job.error]).toEqual(['failed', `the share containers has no container ${digest}`]);
  });

  it('that is not there, and a version on no share, are refused', async () => {
    const { id } = await versionOf('Pellam Reader', '9.0');
    expect((await server.refused('post', `/package-versions/${id}/trial`, { host: 'X' })).paths).toEqual([
      'host',
    ]);
    expect((await server.refused('get', '/hosts/X/mounts')).status).toBe(404);
    expect(await server.send('post', '/hosts/WCL-PB-01/check')).toEqual({ error: null });
  });
});

describe('the versions of a package', () => {
  const clashesOf = async (packageVersionIds: string[]) =>
    (
      await server.send<{ kind: string; what: string }[]>('post', '/packages/clashes', { packageVersionIds })
    ).map((one) => `${one.kind} ${one.what}`);

  it('are compared: what changed, and what updating hosts fetch', async () => {
    const [newer, older] = [
      await versionOf('Tomewick Catalogue', '7.3'),
      await versionOf('Tomewick Catalogue', '7.2'),
    ];
    const comparison = await server.get<{
      counts: Record<string, number>;
      changed: { after: { path?: string } }[];
      update: { wholeBytes: number; newBytes: number; deltaBytes: number; hosts: number };
    }>(`/package-versions/${newer.id}/comparison?with=${older.id}`);
    expect(comparison.changed.some((row) => row.after.path?.endsWith('tomewick.exe'))).toBe(true);
    expect(comparison.counts['same']).toBeGreaterThan(100);
    expect(comparison.update.wholeBytes).toBe(newer.containerBytes);
    expect(comparison.update.newBytes).toBeLessThan(newer.sizeBytes);
    expect(comparison.update.deltaBytes).toBeLessThan(newer.containerBytes);
    const other = await versionOf('Pellam Reader', '9.0');
    expect(
      (await server.refused('get', `/package-versions/${newer.id}/comparison?with=${other.id}`)).paths,
    ).toEqual(['with']);
  });

  it('run side by side where that is said, and clash where it is not', async () => {
    const row = await summary('Tomewick Catalogue');
    expect(row.sideBySide).toBe(true);
    const both = [
      await versionOf('Tomewick Catalogue', '7.2'),
      await versionOf('Tomewick Catalogue', '7.3'),
    ].map((version) => version.id);
    expect(await clashesOf(both)).toEqual([]);
    await server.send('patch', `/packages/${row.id}`, { sideBySide: false, keepVersions: 2 });
    expect(await summary('Tomewick Catalogue')).toMatchObject({ sideBySide: false, keepVersions: 2 });
    expect(await clashesOf(both)).toContain('two versions Tomewick Catalogue');
    await server.send('patch', `/packages/${row.id}`, { sideBySide: true });
  });

  it('clash in a blend with what it lacks, and with what writes the same file', async () => {
    const stats = await versionOf('Corvane Stats', '11.2');
    const runtime = await versionOf('Quaybolt Runtime', '5.2');
    expect(await clashesOf([stats.id])).toEqual([expect.stringMatching(/^dependency Quaybolt Runtime/)]);
    expect(await clashesOf([stats.id, runtime.id])).toEqual([]);
    expect(await clashesOf([])).toEqual([]);
    const writers = [await versionOf('Hesperling Labels', '6.2'), await versionOf('Pellam Reader', '9.0')];
    expect(await clashesOf(writers.map((version) => version.id))).toEqual([
      'file Common files/Page/page.dll',
    ]);
    expect(
      (await server.refused('post', '/packages/clashes', { packageVersionIds: [stats.id, 'none'] })).paths,
    ).toEqual(['packageVersionIds.1']);
  });

  it('have a bill of materials that lists every file', async () => {
    const version = await versionOf('Pellam Reader', '9.0');
    const { body, headers } = (await request(server.app.http)
      .get(`/api/v1/package-versions/${version.id}/bom`)
      .buffer(true)
      .parse((stream, done) => {
        let text = '';
        stream.on('data', (part: Buffer) => (text += part.toString())).on('end', () => done(null, text));
      })) as { body: string; headers: Record<string, string> };
    expect(headers['content-type']).toMatch('application/vnd.cyclonedx+json');
    expect((JSON.parse(body) as { components: unknown[] }).components).toHaveLength(version.files);
  });

  it('go when nothing needs them, with their bytes here and on the share; else nothing goes', async () => {
    const row = await summary('Tomewick Catalogue');
    const used = row.versions.find((version) => version.neededBy.length > 0);
    const refused = await server.refused('post', `/packages/${row.id}/delete-versions`, {
      versionIds: [used?.id],
    });
    expect(refused.detail).toMatch(/is needed: .* attaches it on/);
    const free = await versionOf('Yarnspell Check', '5.5');
    expect(free.neededBy).toEqual([]);
    const paths = [join(server.folder, 'containers', free.digest), onShare('containers', free.digest)];
    expect(paths.map(existsSync)).toEqual([true, true]);
    expect(
      await server.send('post', `/packages/${free.packageId}/delete-versions`, { versionIds: [free.id] }),
    ).toEqual({ freedBytes: free.containerBytes });
    expect(paths.map(existsSync)).toEqual([false, false]);
    expect((await summary('Yarnspell Check')).versions).toEqual([]);
  });
});
