/** C12 to C16: two people at once, ends that are written last, notes that decide nothing. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { KeptSchedule } from '@vatline/contract/cut-schedule';
import type { JobDetail } from '@vatline/contract/job';
import type { KeptSuite } from '@vatline/contract/option-sheet';
import type { InstallationRow } from '@vatline/contract/installation';
import { hostsOf } from './usual-requests.ts';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { Rollout, RolloutRequest } from '@vatline/contract/rollout';
import { brackenote } from '@vatline/demo/option-suites';
import { TestServer } from './harness.ts';

let server: TestServer;
let version: string;
let second: string;
let lineId: string;
beforeAll(async () => {
  server = await TestServer.open();
  ({ lineId, versionId: version } = await server.makeVersion());
  await server.buildAndCutAgain(lineId);
  second = (await server.get<{ versions: { id: string }[] }>(`/lines/${lineId}`)).versions[0]?.id ?? '';
});
afterAll(() => server.close());

const post = (path: string, body: object = {}) => request(server.app.http).post(`/api/v1${path}`).send(body);
const statuses = (answers: readonly { status: number }[]) => answers.map((one) => one.status).sort();
const newPool = (name: string, change: object = {}) => server.newPool(version, { name, ...change });
const machines = async () =>
  (await server.app.estate.hypervisor.machineNames()).filter((name) => name.startsWith('W'));
const reserved = () => server.app.db.selectFrom('host_reserved').selectAll().execute();

function rolloutOf(poolId: string, change: Partial<RolloutRequest> = {}): RolloutRequest {
  return {
    poolId,
    imageVersionId: second,
    packageVersionIds: [],
    window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
    zone: 'Europe/Dublin',
    calendarIds: [],
    batch: 2,
    maxUnavailable: 2,
    drainLimitMinutes: 20,
    reserve: null,
    stop: null,
    notice: null,
    isRemake: false,
    onlyHosts: [],
    ...change,
  };
}

/** An archive with one file in it. */
function emptyTar(name: string): Buffer {
  const folder = join(server.folder, 'tar');
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, name), 'run');
  execFileSync('tar', ['cf', join(server.folder, 'tar.tar'), '-C', folder, '.']);
  return readFileSync(join(server.folder, 'tar.tar'));
}

async function makePool(name: string, count: number): Promise<string> {
  const body = newPool(name, { count, pattern: `W${name.toUpperCase()}-##` });
  const { poolId, jobId } = await server.send<{ poolId: string; jobId: string }>('post', '/pools', body);
  expect((await server.untilEnded(jobId, 2_000)).state).toBe('done');
  return poolId;
}

describe('C13: pools', () => {
  it('twenty asked for at once with the same host names: one has them, and its hosts are there', async () => {
    const answers = await Promise.all(
      Array.from({ length: 20 }, (_none, i) => post('/pools', newPool(`same-${i}`, { count: 6 }))),
    );
    const accepted = answers
      .filter((one) => one.status === 200)
      .map((one) => one.body as { poolId: string; jobId: string });
    expect(accepted).toHaveLength(1);
    for (const answer of answers.filter((one) => one.status !== 200))
      expect((answer.body as { faults: { path: string }[] }).faults.map((fault) => fault.path)).toContain(
        'pattern',
      );
    const job = await server.untilEnded(accepted[0]?.jobId ?? '', 2_000);
    expect(job.state).toBe('done');
    expect((await server.get<PoolDetail>(`/pools/${accepted[0]?.poolId ?? ''}`)).hosts).toBe(6);
    expect(await reserved()).toEqual([]);
  });

  it('eight at once that fit one by one but not together: no core is given twice', async () => {
    const [site] = (await server.app.estate.hypervisor.sites()).filter((one) => one.name === 'yard-a');
    const free = (site?.cores.total ?? 0) - (site?.cores.used ?? 0);
    const count = Math.floor(free / 3 / 4);
    const answers = await Promise.all(
      Array.from({ length: 8 }, (_none, i) =>
        post('/pools', newPool(`room-${i}`, { count, size: 'desk-4', pattern: `WROOM${i}-##` })),
      ),
    );
    const accepted = answers.flatMap((one) =>
      one.status === 200 ? [one.body as { poolId: string; jobId: string }] : [],
    );
    expect(accepted).toHaveLength(3);
    for (const { jobId } of accepted) expect((await server.untilEnded(jobId, 4_000)).state).toBe('done');
    const after = (await server.app.estate.hypervisor.sites()).find((one) => one.name === 'yard-a');
    expect(after?.cores.used).toBeLessThanOrEqual(after?.cores.total ?? 0);
    // Room for what follows.
    for (const { poolId } of accepted) {
      const rows = await server.app.db
        .selectFrom('host')
        .select('machine_id')
        .where('pool_id', '=', poolId)
        .execute();
      for (const row of rows) await server.app.estate.hypervisor.deleteMachine('test', row.machine_id ?? '');
    }
  });

  it('cancelled while its first batch is being cloned and undone, nothing of it is there, and going on is refused', async () => {
    const before = await machines();
    const { poolId, jobId } = await server.send<{ poolId: string; jobId: string }>(
      'post',
      '/pools',
      newPool('undone', { count: 10, pattern: 'WUNDO-##' }),
    );
    // The clones have begun and none has ended.
    await new Promise((done) => setTimeout(done, 100));
    await server.send('post', `/jobs/${jobId}/cancel`);
    await server.untilEnded(jobId, 0);
    const { jobId: undo } = await server.send<{ jobId: string }>('post', `/jobs/${jobId}/undo`);
    expect((await server.untilEnded(undo, 600)).state).toBe('done');
    await server.advance(600);
    expect(await machines()).toEqual(before);
    expect(
      (await server.app.estate.directory.computerNames()).filter((name) => name.startsWith('WUNDO')),
    ).toEqual([]);
    expect(await reserved()).toEqual([]);
    const job = await server.get<JobDetail>(`/jobs/${jobId}`);
    expect([job.canGoOn, job.canUndo]).toEqual([false, false]);
    expect((await server.refused('post', `/jobs/${jobId}/go-on`)).detail).toContain(
      'was undone; start it anew',
    );
    expect((await server.refused('get', `/pools/${poolId}`)).status).toBe(404);
    // Its names are free again.
    await server.send('post', '/pools/preview', newPool('again', { count: 10, pattern: 'WUNDO-##' }));
  });

  it('cancelled and gone on with, all of its hosts are there once', async () => {
    const { poolId, jobId } = await server.send<{ poolId: string; jobId: string }>(
      'post',
      '/pools',
      newPool('paused', { count: 9, pattern: 'WPAUS-##' }),
    );
    await new Promise((done) => setTimeout(done, 50));
    await server.send('post', `/jobs/${jobId}/cancel`);
    await server.untilEnded(jobId, 0);
    await server.send('post', `/jobs/${jobId}/go-on`);
    expect((await server.untilEnded(jobId, 2_000)).state).toBe('done');
    expect((await server.get<PoolDetail>(`/pools/${poolId}`)).hosts).toBe(9);
    expect((await machines()).filter((name) => name.startsWith('WPAUS'))).toHaveLength(9);
  });

  it('C15: a datastore that is too full refuses, in the practice estate too, also what is not made yet', async () => {
    const { hypervisor, operations } = server.app.estate;
    const inventoryFile = join(server.folder, 'large.jsonl');
    writeFileSync(inventoryFile, '');
    const store = (await hypervisor.sites()).find((one) => one.name === 'yard-a')?.datastores[0];
    const free = (store?.capacityBytes ?? 0) - (store?.usedBytes ?? 0);
    // Two of them fit one by one, and not both.
    const imageId = await hypervisor.importImage('large', { inventoryFile, sizeBytes: free * 0.7 });
    const clone = (name: string, datastore = store?.name ?? '') =>
      hypervisor
        .clone(`large/${name}`, {
          name,
          site: 'yard-a',
          network: 'desks',
          processors: 1,
          memoryBytes: 4e9,
          graphics: 0,
          imageId,
          disks: { kind: 'full', datastore, data: null, returnsToClean: false },
        })
        .then(
          (operation) => operation.state,
          (error: Error) => error.message,
        );
    const [first, second] = await Promise.all([clone('WBIG-1'), clone('WBIG-2')]);
    expect(first).toBe('running');
    expect(second).toMatch(
      /^the datastore .* of yard-a refuses WBIG-2: it needs [\d,.]+ GB and [\d,.]+ GB are free$/,
    );
    expect(await clone('WBIG-3', 'nowhere')).toBe('yard-a has no datastore nowhere');
    await operations.callOff('large/WBIG-1');
  });
});

describe('C16: starts of one rollout side by side', () => {
  it('twenty are one rollout and nineteen conflicts', async () => {
    const poolId = await makePool('side', 2);
    const answers = await Promise.all(Array.from({ length: 20 }, () => post('/rollouts', rolloutOf(poolId))));
    expect(statuses(answers)).toEqual([200, ...Array.from({ length: 19 }, () => 409)]);
    expect(answers.find((one) => one.status === 409)?.body).toMatchObject({
      detail: 'A rollout of this pool is under way; wait for its end or stop it first',
    });
    const { id } = answers.find((one) => one.status === 200)?.body as { id: string };
    const stopped = await Promise.all([1, 2, 3].map(() => post(`/rollouts/${id}/go-back`)));
    expect(statuses(stopped).every((status) => status < 500)).toBe(true);
    await server.advance(24 * 60);
  });

  it('two sources of one installation, and two writers of everything that is kept', async () => {
    const { id } = await server.send<{ id: string }>('post', '/installations', { installer: null });
    const source = () =>
      request(server.app.http)
        .post(`/api/v1/installations/${id}/source`)
        .attach('source', emptyTar('setup'), 's.tar');
    expect(statuses(await Promise.all([source(), source(), source()]))).toEqual([200, 200, 200]);
    expect(readdirSync(join(server.folder, 'archives')).filter((name) => name.endsWith('.part'))).toEqual([]);
    const [row] = (await server.get<InstallationRow[]>('/installations')).filter((one) => one.id === id);
    const keep = () =>
      request(server.app.http)
        .put(`/api/v1/installations/${id}`)
        .send({ ...row?.installation, name: 'Sorter', basedOn: row?.revision });
    expect(statuses(await Promise.all([keep(), keep()]))).toEqual([200, 409]);

    const suite = await server.send<{ id: string }>('post', '/option-suites', brackenote);
    const [kept] = (await server.get<KeptSuite[]>('/option-suites')).filter((one) => one.id === suite.id);
    const change = () =>
      request(server.app.http)
        .put(`/api/v1/option-suites/${suite.id}`)
        .send({ ...brackenote, basedOn: kept?.revision });
    expect(statuses(await Promise.all([change(), change()]))).toEqual([200, 409]);

    const schedule = {
      rule: 'FREQ=WEEKLY;BYDAY=SA',
      at: '02:00',
      zone: 'Europe/Dublin',
      takeUpdates: false,
      onlyIfChanged: true,
      leaveRunning: false,
      waitHours: 0,
      rollouts: [],
      basedOn: 0,
    };
    const plan = () => request(server.app.http).put(`/api/v1/lines/${lineId}/schedule`).send(schedule);
    expect(statuses(await Promise.all([plan(), plan()]))).toEqual([200, 409]);
    expect((await server.get<KeptSchedule>(`/lines/${lineId}/schedule`)).revision).toBe(1);

    const line = await server.get<{ recipe: object[]; recipeRevision: number }>(`/lines/${lineId}`);
    const recipe = () =>
      request(server.app.http)
        .put(`/api/v1/lines/${lineId}/recipe`)
        .send({ steps: line.recipe, basedOn: line.recipeRevision });
    expect(statuses(await Promise.all([recipe(), recipe(), recipe()]))).toEqual([200, 409, 409]);
  });
});

describe('two who take the same away', () => {
  it('an assignment: the second is told that it is gone, and the journal has it once', async () => {
    const poolId = await makePool('away', 1);
    const [group] = await server.get<{ name: string }[]>('/estate/groups');
    const { id } = await server.send<{ id: string }>('post', '/assignments', {
      group: group?.name,
      poolId,
      target: { kind: 'desktop' },
    });
    const remove = () => request(server.app.http).delete(`/api/v1/assignments/${id}`);
    expect(statuses(await Promise.all([remove(), remove(), remove()]))).toEqual([200, 404, 404]);
    const { total } = await server.get<{ total: number }>('/journal?q=is%20no%20longer%20assigned');
    expect(total).toBe(1);
  });
});

describe('C12, C14: rollouts', () => {
  it('a note for people does not decide whether a host is rebuilt', async () => {
    const poolId = await makePool('note', 2);
    const [host] = await hostsOf((path) => server.get(path), poolId);
    await server.app.db
      .updateTable('host')
      .set({ note: 'somebody saw it flicker' })
      .where('id', '=', host?.id ?? '')
      .execute();
    const { id } = await server.send<{ id: string }>('post', '/rollouts', rolloutOf(poolId));
    await server.advance(24 * 60);
    expect(await server.get<Rollout>(`/rollouts/${id}`)).toMatchObject({ state: 'done', done: 2 });
    const rows = await server.app.db
      .selectFrom('host')
      .select(['note', 'contents_known'])
      .where('pool_id', '=', poolId)
      .execute();
    expect(rows).toEqual([
      { note: '', contents_known: 1 },
      { note: '', contents_known: 1 },
    ]);
  });

  it('stopped with a way back asked for, end and way back are one change', async () => {
    const poolId = await makePool('back', 4);
    const { id } = await server.send<{ id: string }>('post', '/rollouts', rolloutOf(poolId));
    // In steps that are shorter than a host's work, or it may be over between two looks.
    while ((await server.get<Rollout>(`/rollouts/${id}`)).atWork === 0) await server.advance(5);
    await server.send('post', `/rollouts/${id}/go-back`);
    await server.restart();
    await server.advance(36 * 60);
    const rollouts = await server.get<{ poolId: string; isReturn: boolean; state: string }[]>('/rollouts');
    expect(rollouts.filter((one) => one.poolId === poolId).map((one) => [one.isReturn, one.state])).toEqual([
      [true, 'done'],
      [false, 'stopped'],
    ]);
    const hosts = await hostsOf((path) => server.get(path), poolId);
    expect(new Set(hosts.map((one) => one.blend))).toEqual(new Set([1]));
  });
});

describe('C15: build machines', () => {
  it('of lines whose names share eight letters, or have none of A to Z, are called apart', async () => {
    const names: string[] = [];
    for (const name of ['Records office east', 'Records office west', 'Λίμνη', 'Όρος']) {
      const { id } = await server
        .send<{ id: string }>('post', '/lines', {
          name,
          hardware: {
            processors: 2,
            memoryBytes: 8e9,
            disks: [{ sizeBytes: 60e9, controller: 'scsi', thin: true }],
            network: 'paravirtual',
            firmware: 'uefi',
            graphics: 'none',
            legacy: [],
          },
        })
        .catch(async () => ({ id: await server.newLine(name) }));
      const row = await server.app.db
        .selectFrom('image_line')
        .select('machine_name')
        .where('id', '=', id)
        .executeTakeFirstOrThrow();
      names.push(row.machine_name);
    }
    expect(new Set(names).size).toBe(4);
    for (const name of names) expect(name).toMatch(/^BUILD-[A-Z0-9]{1,8}$/);
  });
});
