/** Builds while they run: paused, cancelled and cleaned up, their checkpoints opened and evicted. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { LineDetail } from '@vatline/contract/image';
import type { JobDetail } from '@vatline/contract/job';
import request from 'supertest';
import { recipe, TestServer } from './harness.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open();
});
afterAll(() => server.close());

const line = (id: string) => server.get<LineDetail>(`/lines/${id}`);
const job = (id: string) => server.get<JobDetail>(`/jobs/${id}`);
const start = async (id: string) =>
  (await server.send<{ jobId: string }>('post', `/lines/${id}/builds`)).jobId;
/** Lets what the last event began come to rest. */
const settle = () => new Promise((done) => setImmediate(done));

async function until(id: string, state: string): Promise<JobDetail> {
  for (let i = 0; i < 60; i++) {
    const now = await job(id);
    if (now.state === state) return now;
    await server.advance(1);
    await settle();
  }
  throw new Error(`job never was ${state}`);
}

describe('a build that is paused', () => {
  it('stops before its next step, keeps others away, stays so over a restart, and goes on', async () => {
    const id = await server.newLine('Paused');
    const jobId = await start(id);
    await server.advance(1);
    await server.send('post', `/jobs/${jobId}/pause`);
    expect(await job(jobId)).toMatchObject({ state: 'running', pausing: true, canPause: true });
    const paused = await until(jobId, 'paused');
    expect(paused.steps.map((step) => step.state)).toEqual([
      'done',
      'done',
      'waiting',
      'waiting',
      'waiting',
      'waiting',
    ]);
    expect(paused).toMatchObject({ canGoOn: true, canPause: false, endedAt: null });
    expect((await server.refused('post', `/lines/${id}/builds`)).detail).toContain('is at work on this');
    await server.restart();
    await server.advance(60);
    expect((await job(jobId)).state).toBe('paused');
    await server.send('post', `/jobs/${jobId}/go-on`);
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'done' });
  });

  it('goes on as if nothing had been when it is let go before the step has ended', async () => {
    const id = await server.newLine('Nearly paused');
    const jobId = await start(id);
    await server.advance(1);
    await server.send('post', `/jobs/${jobId}/pause`);
    await server.send('post', `/jobs/${jobId}/go-on`);
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'done' });
  });

  it('can be cancelled while it lies', async () => {
    const id = await server.newLine('Paused and dropped');
    const jobId = await start(id);
    await server.send('post', `/jobs/${jobId}/pause`);
    await until(jobId, 'paused');
    await server.send('post', `/jobs/${jobId}/cancel`);
    expect((await job(jobId)).state).toBe('cancelled');
    expect((await line(id)).activeJob).toBeNull();
  });

  it('cannot be paused once it has ended, nor can a cut', async () => {
    const { lineId } = await server.makeVersion('Cut only');
    const { jobId } = await server.send<{ jobId: string }>('post', `/lines/${lineId}/versions`);
    expect((await server.refused('post', `/jobs/${jobId}/pause`)).detail).toMatch(/cannot be paused/);
    await server.untilEnded(jobId);
    const [newest] = (await line(lineId)).jobs.filter((row) => row.kind === 'build');
    expect((await server.refused('post', `/jobs/${newest?.id}/pause`)).detail).toMatch(/is not at work/);
  });
});

describe('a job that is cancelled cleans up', () => {
  it('a build puts the machine back to its last checkpoint and cannot be gone on with', async () => {
    const id = await server.newLine('Cancelled');
    const jobId = await start(id);
    await server.advance(25);
    await server.send('post', `/jobs/${jobId}/cancel`);
    await until(jobId, 'cancelled');
    // Longer than the step that was at work would have taken.
    await server.advance(60);
    const { machine } = await line(id);
    expect(machine?.key).not.toBeNull();
    expect(await job(jobId)).toMatchObject({ state: 'cancelled', canGoOn: false });
    expect(await server.inventory(`machine:${id}`)).toEqual(
      await server.inventory(`checkpoint:${id}:${machine?.key}`),
    );
    expect((await server.refused('post', `/jobs/${jobId}/go-on`)).detail).toMatch(
      /was cancelled and cleaned up; start it anew/,
    );
    expect(await server.run(`/lines/${id}/builds`)).toMatchObject({ state: 'done' });
  });

  it('a cut that is cancelled while it copies leaves no copy that comes later', async () => {
    const { lineId } = await server.makeVersion('Cut early');
    const { jobId } = await server.send<{ jobId: string }>('post', `/lines/${lineId}/versions`);
    await server.advance(1);
    await server.send('post', `/jobs/${jobId}/cancel`);
    await until(jobId, 'cancelled');
    await server.advance(60);
    const names = await server.app.estate.hypervisor.machineNames();
    expect(names.filter((name) => name.startsWith('CUT-CUTEARLY'))).toEqual([]);
    expect(await server.run(`/lines/${lineId}/versions`)).toMatchObject({ state: 'done' });
  });

  it('a cut takes its copy away, so that the next one finds its name free', async () => {
    const { lineId } = await server.makeVersion('Cut twice');
    const { jobId } = await server.send<{ jobId: string }>('post', `/lines/${lineId}/versions`);
    const copies = async () =>
      (await server.app.estate.hypervisor.machineNames()).filter((name) => name.startsWith('CUT-CUTTWICE'));
    for (let minute = 0; minute < 60 && (await copies()).length === 0; minute++) {
      await server.advance(1);
      await settle();
    }
    expect(await copies()).toHaveLength(1);
    await server.send('post', `/jobs/${jobId}/cancel`);
    await until(jobId, 'cancelled');
    expect(await copies()).toEqual([]);
    expect(await server.run(`/lines/${lineId}/versions`)).toMatchObject({ state: 'done' });
  });
});

describe('two builds of a line', () => {
  it('asked for at once are one, and the other is refused', async () => {
    const id = await server.newLine('Both at once');
    const call = () => request(server.app.http).post(`/api/v1/lines/${id}/builds`).send({});
    const answers = await Promise.all([call(), call(), call()]);
    expect(answers.map((answer) => answer.status).sort()).toEqual([200, 409, 409]);
    const jobs = (await line(id)).jobs.filter((row) => row.kind === 'build');
    expect(jobs).toHaveLength(1);
    await server.untilEnded(jobs[0]?.id ?? '');
  });
});

describe('checkpoints', () => {
  it('can be opened: what was on the machine after each step', async () => {
    const id = await server.newLine('Opened');
    await server.run(`/lines/${id}/builds`);
    const { checkpoints } = await line(id);
    expect(checkpoints.map((checkpoint) => checkpoint.step)).toEqual([0, 1, 2, 3, 4]);
    const at = (step: number) => server.inventory(`checkpoint:${id}:${checkpoints[step]?.key}`);
    const [system, updated] = [await at(0), await at(1)];
    expect(updated.filter((e) => e.kind === 'update').length).toBeGreaterThan(
      system.filter((e) => e.kind === 'update').length,
    );
    expect((await at(3)).some((e) => e.kind === 'service' && e.name === 'HostAgent')).toBe(true);
    expect((await server.refused('get', `/inventories?of=checkpoint:${id}:none`)).status).toBe(404);
    expect((await server.refused('get', '/inventories?of=thing')).paths).toEqual(['of']);
    expect((await server.refused('get', '/inventory-differences?from=nothing&to=thing')).paths).toEqual([
      'to',
    ]);
    // The first holds the system, the others only what they changed.
    expect(checkpoints[0]?.sizeBytes).toBeGreaterThan(10e9);
    expect(checkpoints[3]?.sizeBytes).toBeLessThan(1e9);
  });

  it('differ from one another by lines that a worker finds, with the rest counted', async () => {
    const id = await server.newLine('Differing');
    await server.run(`/lines/${id}/builds`);
    const { checkpoints } = await line(id);
    const [first, second] = checkpoints.map((checkpoint) => `checkpoint:${id}:${checkpoint.key}`);
    const response = await request(server.app.http)
      .get(`/api/v1/inventory-differences?from=${first}&to=${second}`)
      .buffer(true)
      .parse((stream, done) => {
        let text = '';
        stream.on('data', (piece: Buffer) => (text += piece.toString()));
        stream.on('end', () => done(null, text));
      });
    const lines = (response.body as string).split('\n');
    const head = lines.findIndex((text) => text.includes('"same"'));
    const counts = JSON.parse(lines[head] ?? '') as {
      before: number;
      after: number;
      same: Record<string, number>;
    };
    expect(lines.length - head - 1).toBe(counts.before + counts.after);
    // The updates are new; the libraries they replaced are there before and after.
    const added = lines.slice(head + 1 + counts.before).map((text) => JSON.parse(text) as { kind: string });
    expect(added.filter((entry) => entry.kind === 'update')).toHaveLength(18);
    expect(counts.same['driver']).toBe(24);
  });

  it('over the budget go, the least recently used first, never those a build stands on', async () => {
    const id = await server.newLine('Evicted');
    await server.run(`/lines/${id}/builds`);
    const old = (await line(id)).checkpoints;
    const other = recipe.map((step) => (step.kind === 'updates' ? { ...step, release: '2027-02' } : step));
    await server.send('put', `/lines/${id}/recipe`, { steps: other, basedOn: 2 });
    const total = old.reduce((sum, checkpoint) => sum + checkpoint.sizeBytes, 0);
    await server.send('put', `/lines/${id}/checkpoint-budget`, { bytes: total });
    await server.advance(60);
    const ended = await server.run(`/lines/${id}/builds`);
    expect(ended.state).toBe('done');
    const log = (await job(ended.id)).log.map((row) => row.text);
    expect(log.some((text) => /^older checkpoints made room: \d+\.\d GB$/.test(text))).toBe(true);
    const now = (await line(id)).checkpoints;
    expect(now.reduce((sum, checkpoint) => sum + checkpoint.sizeBytes, 0)).toBeLessThanOrEqual(total);
    // All five of the recipe as it is are there, the deepest of the old ones are not.
    const keys = new Set(now.map((checkpoint) => checkpoint.key));
    expect(now.filter((checkpoint) => !old.some((row) => row.key === checkpoint.key))).toHaveLength(4);
    expect(keys.has(old[0]?.key ?? '')).toBe(true);
    expect(keys.has(old[4]?.key ?? '')).toBe(false);
    expect((await server.refused('put', `/lines/${id}/checkpoint-budget`, { bytes: 5 })).paths).toEqual([
      'bytes',
    ]);
  });
});
