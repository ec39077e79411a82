/** Changes by hand: found against the last checkpoint, made into steps, and brought about again by a build. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { LineDetail } from '@vatline/contract/image';
import { compareInventories } from '@vatline/core/inventory/compare';
import type { Step } from '@vatline/core/image/recipe';
import { stepsFromChanges, withReproductions } from '@vatline/core/image/steps-from-changes';
import { dropNoise } from '@vatline/core/package/noise';
import { must } from '@vatline/core/result';
import { TestServer } from './harness.ts';

let server: TestServer;
let id: string;
const line = () => server.get<LineDetail>(`/lines/${id}`);
const byHand = (body: object) => server.send('post', `/lines/${id}/hand-changes`, body);

beforeAll(async () => {
  server = await TestServer.open();
  id = await server.newLine('By hand');
});
afterAll(() => server.close());

/** What differs on the machine from the checkpoint it was put to, less the noise. */
async function differences() {
  const { machine } = await line();
  const before = await server.inventory(`checkpoint:${id}:${machine?.key}`);
  const after = await server.inventory(`machine:${id}`);
  return must(dropNoise(compareInventories(before, after, false)));
}

const changes: Step[] = [
  {
    id: 'x',
    kind: 'application',
    name: 'Pellam Reader',
    publisher: 'Pellam',
    version: '9.0',
    command: 'setup.exe',
    exitCodes: [0],
  },
  { id: 'x', kind: 'registry setting', key: 'Machine\\Kiosk', name: 'Mode', type: 'REG_SZ', value: 'on' },
  { id: 'x', kind: 'service start', name: 'System service 3', start: 'disabled' },
  {
    id: 'x',
    kind: 'file copy',
    source: 'files/welcome.txt',
    target: 'Users/All/welcome.txt',
    digest: 'ab'.repeat(32),
  },
];

describe('a machine changed by hand', () => {
  it('must be there and running, and free of jobs', async () => {
    const refused = () =>
      server.refused('post', `/lines/${id}/hand-changes`, { kind: 'do', step: changes[1] });
    expect((await refused()).detail).toBe('There is no build machine yet; build first');
    await server.run(`/lines/${id}/builds`);
    await server.run(`/lines/${id}/machine`, { action: 'shut down' });
    expect((await refused()).detail).toMatch(/BUILD-BYHAND is off; run it first/);
    const { jobId } = await server.send<{ jobId: string }>('post', `/lines/${id}/machine`, { action: 'run' });
    expect((await refused()).detail).toBe('A job is at work on the machine');
    await server.untilEnded(jobId);
  });

  it('refuses what cannot be done there, each with its reason', async () => {
    const refused = (body: object) => server.refused('post', `/lines/${id}/hand-changes`, body);
    expect((await refused({ kind: 'uninstall', name: 'Nothing' })).detail).toBe(
      'Nothing is not installed on the machine',
    );
    expect((await refused({ kind: 'do', step: { id: 'r', kind: 'restart' } })).paths).toEqual(['step.kind']);
    expect((await refused({ kind: 'do', step: { ...changes[2], name: 'No such' } })).detail).toBe(
      'the machine has no service No such',
    );
  });

  it('differs by just what was done; the traces of use are noise', async () => {
    expect((await differences()).dropped).toEqual([]);
    for (const step of changes) await byHand({ kind: 'do', step });
    await server.send('post', `/lines/${id}/hand-notes`, { text: 'installed the reader for the kiosk' });
    const { dropped, ...found } = await differences();
    expect(dropped.map((row) => row.rule)).toEqual(
      ['log', 'temporary', 'temporary', 'temporary', 'temporary'].sort(),
    );
    const reproduced = stepsFromChanges({ dropped, ...found }, (await line()).recipe, []);
    expect(reproduced.map((change) => change.title).sort()).toEqual([
      'File Users/All/welcome.txt was added',
      'Pellam Reader 9.0 was installed',
      'Registry value Machine\\Kiosk\\Mode was added',
      'Service System service 3 was changed',
    ]);
    expect((await line()).handNotes.map((note) => note.text)).toEqual(['installed the reader for the kiosk']);
  });

  it('as steps, a build brings the same machine about again', async () => {
    const found = await differences();
    const { recipe, recipeRevision } = await line();
    const installers = [{ name: 'Pellam Reader', command: 'setup-pellam.exe /quiet' }];
    const made = stepsFromChanges(found, recipe, installers).map((change) => change.reproduction);
    const byHands = await server.inventory(`machine:${id}`);
    await server.send('put', `/lines/${id}/recipe`, {
      steps: withReproductions(recipe, made),
      basedOn: recipeRevision,
    });
    expect(await server.run(`/lines/${id}/builds`)).toMatchObject({ state: 'done' });
    const rebuilt = await server.inventory(`machine:${id}`);
    const rest = must(dropNoise(compareInventories(byHands, rebuilt, false)));
    expect([rest.added, rest.removed, rest.changed, rest.moved]).toEqual([[], [], [], []]);
    // Only what use had left is gone.
    expect(rest.dropped.length).toBeGreaterThan(0);
  });

  it('an application that was uninstalled is a step to leave out', async () => {
    await byHand({ kind: 'uninstall', name: 'Pellam Reader' });
    const { recipe } = await line();
    const [change] = stepsFromChanges(await differences(), recipe, []);
    expect(change).toMatchObject({
      title: 'Pellam Reader was uninstalled',
      reproduction: { kind: 'leave out', stepId: 'pellam-reader' },
    });
  });
});
