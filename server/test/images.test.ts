import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { LineDetail } from '@vatline/contract/image';
import { comparisonHeadline } from '@vatline/core/image/compare-versions';
import type { Step } from '@vatline/core/image/recipe';
import { hardware, recipe, TestServer } from './harness.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open();
});
afterAll(() => server.close());

const line = (id: string) => server.get<LineDetail>(`/lines/${id}`);

describe('images', () => {
  let id: string;

  it('builds a recipe step by step, with a log line and a checkpoint for each', async () => {
    ({ id } = await server.send<{ id: string }>('post', '/lines', { name: 'Records desktop', hardware }));
    await server.send('put', `/lines/${id}/recipe`, { steps: recipe, basedOn: 1 });
    const job = await server.run(`/lines/${id}/builds`);
    expect(job.steps.map((s) => [s.title, s.state])).toEqual([
      ['Make the machine', 'done'],
      ['Operating system', 'done'],
      ['Updates', 'done'],
      ['Join directory', 'done'],
      ['Host agent', 'done'],
      ['Restart', 'done'],
    ]);
    const { checkpoints, machine, runs } = await line(id);
    expect(checkpoints).toHaveLength(5);
    expect(machine).toMatchObject({
      name: 'BUILD-RECORDSD',
      power: 'on',
      agent: true,
      joined: true,
      restartPending: false,
    });
    expect(runs).toHaveLength(5);
    expect(runs.every((run) => run.minutes > 0 && run.build === job.id)).toBe(true);
  });

  it('refuses to cut a running machine and says why', async () => {
    const { status, detail } = await server.refused('post', `/lines/${id}/versions`);
    expect([status, detail]).toEqual([
      409,
      'The build machine is running: a copy of a running machine holds half-written files',
    ]);
  });

  it('cuts a copy; the build machine stays as it is', async () => {
    await server.run(`/lines/${id}/machine`, { action: 'shut down' });
    await server.run(`/lines/${id}/versions`, { note: 'first' });
    const { versions, machine } = await line(id);
    expect(versions).toMatchObject([{ number: 1, state: 'draft', note: 'first' }]);
    expect(machine).toMatchObject({ power: 'off', joined: true });
    expect(
      (await server.app.estate.hypervisor.machineNames()).filter((name) => name.startsWith('CUT')),
    ).toEqual([]);
  });

  it('a step more: the build starts at the waterline and the comparison names exactly it', async () => {
    const reader: Step = {
      id: 'reader',
      kind: 'application',
      name: 'Pellam Reader',
      publisher: 'Pellam',
      version: '9.0',
      command: 'setup.exe /quiet',
      exitCodes: [0],
    };
    await server.send('put', `/lines/${id}/recipe`, {
      steps: [...recipe.slice(0, 4), reader, recipe[4]],
      basedOn: 2,
    });
    const job = await server.run(`/lines/${id}/builds`);
    expect(job.steps.map((s) => s.title)).toEqual([
      'Back to the checkpoint after step 4',
      'Pellam Reader 9.0',
      'Restart',
    ]);
    await server.run(`/lines/${id}/machine`, { action: 'shut down' });
    await server.run(`/lines/${id}/versions`);
    const [second, first] = (await line(id)).versions;
    const comparison = await server.compare(`version:${first?.id}`, `version:${second?.id}`);
    expect(comparisonHeadline(comparison)).toMatch(
      /^1 application added, 1 shortcut added, \d+ files added$/,
    );
    const touched = comparison.groups.flatMap((group) => group.items.map((item) => item.name));
    expect(touched.every((name) => name.includes('Pellam Reader'))).toBe(true);
    expect(second?.dye).not.toBe(first?.dye);
  });

  it('the inventory of a build from a checkpoint equals that of a full one', async () => {
    const { recipe: steps, versions } = await line(id);
    const { id: other } = await server.send<{ id: string }>('post', '/lines', {
      name: 'From nothing',
      hardware,
    });
    await server.send('put', `/lines/${other}/recipe`, { steps, basedOn: 1 });
    await server.buildAndCut(other);
    const [full] = (await line(other)).versions;
    expect(await server.compare(`version:${versions[0]?.id}`, `version:${full?.id}`)).toMatchObject({
      equal: true,
      sizeChange: 0,
    });
  });

  it('a failed step keeps the machine; after a fix the build goes on from it', async () => {
    const loud: Step = {
      id: 'loud',
      kind: 'application',
      name: 'Corvane Stats',
      publisher: 'Corvane',
      version: '11.2',
      command: 'setup.exe',
      exitCodes: [0],
    };
    const { recipe: steps, recipeRevision } = await line(id);
    await server.send('put', `/lines/${id}/recipe`, { steps: [...steps, loud], basedOn: recipeRevision });
    const failed = await server.run(`/lines/${id}/builds`);
    expect(failed).toMatchObject({ state: 'failed', canGoOn: true });
    expect(failed.error).toMatch('waited 30 minutes for a click');
    await server.send('put', `/lines/${id}/recipe`, {
      steps: [...steps, { ...loud, command: 'setup.exe /quiet' }],
      basedOn: recipeRevision + 1,
    });
    const mended = await server.run(`/lines/${id}/builds`);
    expect([mended.state, mended.steps.length]).toEqual(['done', 2]);
  });

  it('goes on with a failed job by itself from the step that failed', async () => {
    const { recipe: steps, recipeRevision } = await line(id);
    const more: Step = { id: 'more', kind: 'script', title: 'More', text: 'set More=on' };
    await server.send('put', `/lines/${id}/recipe`, { steps: [...steps, more], basedOn: recipeRevision });
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'run step' });
    const failed = await server.run(`/lines/${id}/builds`);
    expect([failed.state, failed.steps.map((s) => s.state)]).toEqual(['failed', ['done', 'failed']]);
    await server.send('post', `/jobs/${failed.id}/go-on`);
    expect((await server.untilEnded(failed.id)).state).toBe('done');
  });

  it('survives a restart in the middle of a build', async () => {
    const other = await server.newLine('Interrupted');
    const { jobId } = await server.send<{ jobId: string }>('post', `/lines/${other}/builds`);
    await server.advance(25);
    await server.restart();
    const job = await server.untilEnded(jobId);
    expect([job.state, job.steps.every((s) => s.state === 'done')]).toEqual(['done', true]);
    // Each step was logged as done once: none ran twice.
    expect(job.log.filter((row) => row.text.includes('done in'))).toHaveLength(5);
  });

  it('can be cancelled while it waits', async () => {
    const other = await server.newLine('Cancelled');
    const { jobId } = await server.send<{ jobId: string }>('post', `/lines/${other}/builds`);
    await server.advance(5);
    await server.send('post', `/jobs/${jobId}/cancel`);
    expect((await server.untilEnded(jobId)).state).toBe('cancelled');
  });

  it('never builds a line twice at once', async () => {
    const other = await server.newLine('Twice');
    const { jobId } = await server.send<{ jobId: string }>('post', `/lines/${other}/builds`);
    expect((await server.refused('post', `/lines/${other}/builds`)).status).toBe(409);
    await server.untilEnded(jobId);
  });
});

describe('bad input', () => {
  const save = (steps: unknown, basedOn = 1) =>
    server.refused('put', `/lines/${bad}/recipe`, { steps, basedOn } as object);
  let bad: string;
  beforeAll(async () => {
    ({ id: bad } = await server.send<{ id: string }>('post', '/lines', { name: 'Bad', hardware }));
  });
  it.each([
    ['an unknown step kind', [{ id: 'x', kind: 'defragment' }], 'steps.0.kind'],
    ['an empty recipe', [], 'steps'],
    ['no operating system first', [recipe[1]], 'steps.0.kind'],
    [
      'a command left out',
      [
        recipe[0],
        {
          id: 'a',
          kind: 'application',
          name: 'A',
          publisher: 'B',
          version: '1',
          command: '',
          exitCodes: [0],
        },
      ],
      'steps.1.command',
    ],
    [
      'no exit code',
      [
        recipe[0],
        {
          id: 'a',
          kind: 'application',
          name: 'A',
          publisher: 'B',
          version: '1',
          command: 'x',
          exitCodes: [],
        },
      ],
      'steps.1.exitCodes',
    ],
    ['media without a digest', [{ ...recipe[0], mediaDigest: 'abc' }], 'steps.0.mediaDigest'],
  ])('%s is refused at its field and nothing is kept', async (_what, steps, path) => {
    const { status, paths } = await save(steps);
    expect([status, paths]).toEqual([422, [path]]);
    expect((await line(bad)).recipeRevision).toBe(1);
  });
  it('a change based on an older revision is a conflict', async () => {
    expect((await save(recipe, 0)).status).toBe(409);
  });
  it('a build of an empty recipe', async () => {
    expect((await server.refused('post', `/lines/${bad}/builds`)).paths).toEqual(['steps']);
  });
  it('a name that is taken, hardware out of range, a line that is not there', async () => {
    expect((await server.refused('post', '/lines', { name: 'Bad', hardware })).paths).toEqual(['name']);
    expect(
      (await server.refused('post', '/lines', { name: 'X', hardware: { ...hardware, processors: 0 } })).paths,
    ).toEqual(['hardware.processors']);
    expect((await server.refused('get', '/lines/nope')).status).toBe(404);
  });
});

describe('a check that is switched off', () => {
  it('lets the cut go on; those that guard the copy cannot be, nor without a reason', async () => {
    const { id } = await server.send<{ id: string }>('post', '/lines', { name: 'No agent', hardware });
    const steps = recipe.filter((step) => step.kind !== 'host agent');
    await server.send('put', `/lines/${id}/recipe`, { steps, basedOn: 1 });
    await server.run(`/lines/${id}/builds`);
    await server.run(`/lines/${id}/machine`, { action: 'shut down' });
    const refused = await server.refused('post', `/lines/${id}/versions`);
    expect(refused.detail).toMatch(/^No host agent: /);
    const off = (check: string, reason = 'the agent comes with the pool') =>
      server.refused('put', `/lines/${id}/checks/${check}`, { reason });
    expect((await off('agent', 'no')).paths).toEqual(['reason']);
    expect((await off('running')).status).toBe(409);
    expect((await off('weather')).status).toBe(404);
    await server.send('put', `/lines/${id}/checks/agent`, { reason: 'the agent comes with the pool' });
    expect((await line(id)).checksOff).toEqual([
      { id: 'agent', reason: 'the agent comes with the pool', at: server.now },
    ]);
    expect(await server.run(`/lines/${id}/versions`)).toMatchObject({ state: 'done' });
    await server.send('delete', `/lines/${id}/checks/agent`);
    expect((await line(id)).checksOff).toEqual([]);
    expect((await server.refused('post', `/lines/${id}/versions`)).detail).toMatch(/^No host agent: /);
  });
});
