/** What is done with versions: forks, imports, layers between two, bills of materials, the search over all. */
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { FoundApplication } from '@vatline/contract/application-search';
import type { LineDetail, LineRevision, VersionDelta } from '@vatline/contract/image';
import { leanHardware } from '@vatline/core/image/hardware';
import { inventoryHeader, writeInventory } from '@vatline/core/inventory/text';
import type { Entry } from '@vatline/core/inventory/entry';
import { writeOvf } from '@vatline/core/image/ovf/write-ovf';
import { planDelta } from '@vatline/core/image/delta';
import type { Step } from '@vatline/core/image/recipe';
import { scanTree } from '@vatline/files/scan';
import { writeDelta } from '@vatline/files/oci-delta';
import { bomFaults } from '../../core/test/bom-faults.ts';
import { hardware, TestServer } from './harness.ts';

let server: TestServer;
let lineId: string;
let work: string;
const line = (id = lineId) => server.get<LineDetail>(`/lines/${id}`);

const reader = (version: string): Step => ({
  id: 'reader',
  kind: 'application',
  name: 'Pellam Reader',
  publisher: 'Pellam',
  version,
  command: 'setup.exe /quiet',
  exitCodes: [0],
});

async function cutWith(...steps: Step[]): Promise<void> {
  const { recipe, recipeRevision } = await line();
  const others = recipe.filter((step) => !steps.some((own) => own.id === step.id) && step.id !== 'language');
  const end = others.length - 1;
  await server.send('put', `/lines/${lineId}/recipe`, {
    steps: [...others.slice(0, end), ...steps, ...others.slice(end)],
    basedOn: recipeRevision,
  });
  await server.buildAndCut(lineId);
}

beforeAll(async () => {
  server = await TestServer.open();
  work = mkdtempSync(join(tmpdir(), 'vatline-versions-'));
  lineId = await server.newLine('Records desktop');
  await cutWith(reader('9.0'), { id: 'language', kind: 'language pack', language: 'ga-IE' });
  await cutWith(reader('9.1'));
});
afterAll(async () => {
  await server.close();
  rmSync(work, { recursive: true, force: true });
});

/** Versions 1 and 2. */
async function two() {
  const [second, first] = (await line()).versions;
  return { from: first?.id ?? '', to: second?.id ?? '' };
}

describe('revisions', () => {
  it('are kept, newest first, each with the versions that were cut from it', async () => {
    const revisions = await server.get<LineRevision[]>(`/lines/${lineId}/revisions`);
    expect(revisions.map((row) => [row.revision, row.versions])).toEqual([
      [4, [2]],
      [3, [1]],
      [2, []],
      [1, []],
    ]);
    expect(revisions[3]?.steps).toEqual([]);
    expect((await line()).versions[0]?.jobId).toMatch(/^job-/);
  });
});

describe('a line started from a version of another', () => {
  it('begins with its recipe and hardware, and remembers where it came from', async () => {
    const { from } = await two();
    const { id } = await server.send<{ id: string }>('post', '/lines', {
      name: 'Kiosk',
      hardware: leanHardware,
      fromVersion: from,
    });
    const fork = await line(id);
    expect(fork.forkedFrom).toBe(from);
    expect(fork.recipe.some((step) => step.kind === 'language pack')).toBe(true);
    expect(fork.hardware).toEqual(hardware);
  });

  it('needs a version that there is', async () => {
    const body = { name: 'Other', hardware, fromVersion: 'version-none' };
    expect((await server.refused('post', '/lines', body)).status).toBe(404);
  });
});

describe('a version made elsewhere', () => {
  const entries: Entry[] = [
    { kind: 'application', publisher: 'Tomewick', name: 'Tomewick Catalogue', version: '6.9', size: 5 },
    {
      kind: 'file',
      path: 'a.txt',
      size: 10,
      sha256: 'ab'.repeat(32),
      mode: '0644',
      modified: '2027-01-01T00:00:00Z',
    },
  ];
  const inventory = writeInventory(inventoryHeader('elsewhere', 0, false), entries);
  const send = (files: Record<string, string>) => {
    let call = request(server.app.http)
      .post(`/api/v1/lines/${lineId}/imports`)
      .field('note', 'from the old yard');
    for (const [name, text] of Object.entries(files))
      call = call.attach(name, Buffer.from(text), `${name}.txt`);
    return call;
  };

  it('is brought in by its inventory and OVF, can be searched, compared and rolled out', async () => {
    const ovf = writeOvf('OLD', { ...leanHardware, processors: 6 });
    const response = await send({ inventory, ovf });
    expect([response.status, response.body]).toEqual([200, { id: expect.any(String) as string, number: 3 }]);
    const { id } = response.body as { id: string };
    const [version] = (await line()).versions;
    expect(version).toMatchObject({
      id,
      recipeRevision: 0,
      note: 'from the old yard',
      sizeBytes: 15,
      state: 'draft',
    });
    expect(await server.inventory(`version:${id}`)).toEqual(entries);
    await server.send('post', '/pools', server.newPool(id));
    // What the line is compared with stays the newest version that has a recipe.
    expect((await line()).lastCutRecipe).toHaveLength(6);
  });

  it('is refused at the part that is wrong, and nothing is kept', async () => {
    const before = (await line()).versions.length;
    const faults = async (files: Record<string, string>) => {
      const response = await send(files);
      expect(response.status).toBe(422);
      return (response.body as { faults: { path: string; message: string }[] }).faults.map(
        (f) => `${f.path}: ${f.message}`,
      );
    };
    expect(await faults({})).toEqual(['inventory: is missing; choose a file']);
    expect(await faults({ inventory: 'no' })).toEqual([
      'inventory: line 1 is not the header of an inventory: it is not a JSON object',
    ]);
    expect(await faults({ inventory, ovf: '<Envelope/>' })).toEqual([expect.stringMatching(/^ovf: /)]);
    const header = `${JSON.stringify(inventoryHeader('x', 0, false))}\n`;
    expect(await faults({ inventory: header })).toEqual(['inventory: holds no entry']);
    expect((await line()).versions.length).toBe(before);
  });
});

describe('a layer from one version to another', () => {
  it('is planned first, then made with its real size, and laid over the old version by umoci gives the new', async () => {
    const pair = await two3();
    const query = `from=${pair.from}&to=${pair.to}`;
    const plan = await server.get<VersionDelta>(`/version-deltas?${query}`);
    expect(plan).toMatchObject({ made: null, whiteouts: 1, job: null });
    expect(plan.removedBytes).toBeGreaterThan(3e6);
    const job = await server.run('/version-deltas', pair);
    expect([job.state, job.error]).toEqual(['done', null]);
    const made = (await server.get<VersionDelta>(`/version-deltas?${query}`)).made;
    expect(made?.sizeBytes).toBeGreaterThan(0.3 * plan.putBytes);
    expect(made?.sizeBytes).toBeLessThan(0.8 * plan.putBytes);
    const download = await request(server.app.http)
      .get(`/api/v1/version-deltas/download?${query}`)
      .buffer(true)
      .parse((stream, done) => {
        const pieces: Buffer[] = [];
        stream.on('data', (piece: Buffer) => pieces.push(piece));
        stream.on('end', () => done(null, Buffer.concat(pieces)));
      });
    writeFileSync(join(work, 'delta.tar'), download.body as Buffer);
    execFileSync('tar', ['xf', join(work, 'delta.tar'), '-C', work]);
    expect(await layOver(pair, join(work, '1-to-2.oci'))).toEqual(await filesOf(pair.to));
  });

  it('cannot be made where the bytes are nowhere, and says whose', async () => {
    const [imported] = (await line()).versions;
    const { from } = await two3();
    const job = await server.run('/version-deltas', { from, to: imported?.id });
    expect([job.state, job.error]).toEqual([
      'failed',
      'the practice estate never had the bytes of a.txt, only its digest',
    ]);
    expect(
      (await server.get<VersionDelta>(`/version-deltas?from=${from}&to=${imported?.id}`)).made,
    ).toBeNull();
  });

  it('needs two versions', async () => {
    const { from } = await two3();
    expect((await server.refused('post', '/version-deltas', { from, to: from })).paths).toEqual(['to']);
    expect((await server.refused('get', `/version-deltas/download?from=${from}&to=${from}`)).status).toBe(
      404,
    );
  });

  /** Versions 1 and 2, now that 3 was brought in. */
  async function two3() {
    const { versions } = await line();
    const id = (number: number) => versions.find((version) => version.number === number)?.id ?? '';
    return { from: id(1), to: id(2) };
  }

  async function filesOf(versionId: string) {
    return (await server.inventory(`version:${versionId}`))
      .filter((entry) => entry.kind === 'file')
      .map(({ path, size, sha256, mode }) => ({ path, size, sha256, mode }))
      .sort((a, b) => (a.path < b.path ? -1 : 1));
  }

  /** The old version whole as one layer, the delta as the next; umoci unpacks both. */
  async function layOver(pair: { from: string; to: string }, delta: string) {
    const { hypervisor } = server.app.estate;
    const entries = await server.inventory(`version:${pair.from}`);
    const row = await server.app.db
      .selectFrom('image_version')
      .select('image_id')
      .where('id', '=', pair.from)
      .executeTakeFirstOrThrow();
    const image = join(work, 'image');
    await writeDelta({
      delta: planDelta([], entries),
      read: (path) => hypervisor.readFile(row.image_id, path),
      out: image,
      about: { name: 'old', version: 'old', publisher: '', entryPoints: [] },
      epoch: 1_800_000_000,
    });
    append(image, delta);
    execFileSync('umoci', ['unpack', '--rootless', '--image', `${image}:both`, join(work, 'bundle')], {
      stdio: 'pipe',
    });
    const scan = await scanTree(join(work, 'bundle/rootfs'));
    return scan.entries
      .filter((entry) => entry.kind === 'file')
      .map(({ path, size, sha256, mode }) => ({ path, size, sha256, mode }))
      .sort((a, b) => (a.path < b.path ? -1 : 1));
  }

  /** Puts the layer of one layout on top of another's, by hand, as any tool that knows the format could. */
  function append(image: string, delta: string): void {
    const blob = (folder: string, digest: string) => join(folder, 'blobs/sha256', digest.slice(7));
    const read = (folder: string) => {
      const index = JSON.parse(readFileSync(join(folder, 'index.json'), 'utf8')) as {
        manifests: { digest: string }[];
      };
      const manifest = JSON.parse(readFileSync(blob(folder, index.manifests[0]?.digest ?? ''), 'utf8')) as {
        config: { digest: string; size: number };
        layers: object[];
      };
      const config = JSON.parse(readFileSync(blob(folder, manifest.config.digest), 'utf8')) as {
        rootfs: { diff_ids: string[] };
        history: object[];
      };
      return { index, manifest, config };
    };
    const [old, over] = [read(image), read(delta)];
    for (const name of readdirSync(join(delta, 'blobs/sha256')))
      cpSync(join(delta, 'blobs/sha256', name), join(image, 'blobs/sha256', name));
    const write = (content: object) => {
      const text = JSON.stringify(content);
      const digest = `sha256:${createHash('sha256').update(text).digest('hex')}`;
      mkdirSync(join(image, 'blobs/sha256'), { recursive: true });
      writeFileSync(blob(image, digest), text);
      return { digest, size: Buffer.byteLength(text) };
    };
    const config = write({
      ...old.config,
      rootfs: { type: 'layers', diff_ids: [...old.config.rootfs.diff_ids, ...over.config.rootfs.diff_ids] },
      history: [...old.config.history, ...over.config.history],
    });
    const manifest = write({
      ...old.manifest,
      config: { ...old.manifest.config, ...config },
      layers: [...old.manifest.layers, ...over.manifest.layers],
    });
    const [entry] = old.index.manifests;
    const named = { ...entry, ...manifest, annotations: { 'org.opencontainers.image.ref.name': 'both' } };
    writeFileSync(join(image, 'index.json'), JSON.stringify({ ...old.index, manifests: [named] }));
  }
});

describe('bill of materials over HTTP', () => {
  it('is a valid CycloneDX 1.6 file to keep', async () => {
    const { versions } = await line();
    const response = await request(server.app.http)
      .get(`/api/v1/versions/${versions[1]?.id}/bom`)
      .buffer(true)
      .parse((stream, done) => {
        let text = '';
        stream.on('data', (piece: Buffer) => (text += piece.toString()));
        stream.on('end', () => done(null, text));
      });
    expect(response.headers['content-disposition']).toBe('attachment; filename=Records-desktop-2.cdx.json');
    expect(await bomFaults(response.body as string)).toBeNull();
  });
});

describe('the search over everything', () => {
  const ask = async (q: string) =>
    (await server.get<{ found: FoundApplication[] }>(`/applications?q=${encodeURIComponent(q)}`)).found;

  it('says which versions hold an application, and how many hosts run them', async () => {
    expect(await ask('pellam below 9.1')).toMatchObject([
      { version: '9.0', versions: [{ number: 1 }], pools: [] },
    ]);
    expect((await ask('pellam')).map((row) => [row.version, row.versions.map((v) => v.number)])).toEqual([
      ['9.0', [1]],
      ['9.1', [2]],
    ]);
    const [catalogue] = await ask('tomewick');
    expect(catalogue).toMatchObject({ version: '6.9', versions: [{ number: 3, line: 'Records desktop' }] });
    expect(await ask('nothing like it')).toEqual([]);
  });

  it('counts hosts once they are made, and forgets what was deleted', async () => {
    const { versions } = await line();
    const pools = await server.get<{ id: string; activeJob: { id: string } | null }[]>('/pools');
    if (pools[0]?.activeJob) await server.untilEnded(pools[0].activeJob.id);
    expect((await ask('tomewick'))[0]?.pools).toEqual([{ pool: 'records', hosts: 4 }]);
    await server.app.db
      .insertInto('application')
      .values({ publisher: 'Tomewick', name: 'Tomewick Help', version: '1' })
      .execute();
    const help = await server.app.db
      .selectFrom('application')
      .select('id')
      .where('name', '=', 'Tomewick Help')
      .executeTakeFirstOrThrow();
    const imported = versions.find((version) => version.number === 3)?.id ?? '';
    await server.app.db
      .insertInto('version_holds')
      .values({ version_id: imported, application_id: help.id })
      .execute();
    // Both are on the same four hosts, which are four and not eight.
    expect(await server.getAnew('/applications?q=tomewick')).toMatchObject({ hosts: 4, found: [{}, {}] });
    const first = versions.find((version) => version.number === 1);
    expect(readdirSync(join(server.folder, 'deltas')).some((name) => name.includes(first?.id ?? '-'))).toBe(
      true,
    );
    await server.run(`/lines/${lineId}/deletions`, { versionIds: [first?.id] });
    expect(readdirSync(join(server.folder, 'deltas')).some((name) => name.includes(first?.id ?? '-'))).toBe(
      false,
    );
    expect(await ask('pellam below 9.1')).toEqual([]);
  });

  it('reads versions from before it was kept, once, at a start', async () => {
    await server.app.db.deleteFrom('version_holds').execute();
    await server.app.db.deleteFrom('application').execute();
    await server.app.db.updateTable('image_version').set({ indexed: 0 }).execute();
    expect(await ask('pellam')).toEqual([]);
    await server.restart();
    expect((await ask('pellam')).map((row) => row.version)).toEqual(['9.1']);
  });
});
