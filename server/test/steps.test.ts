import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { LineDetail } from '@vatline/contract/image';
import type { Step } from '@vatline/core/image/recipe';
import { desksSheet, everyKind, officeSuite } from '../../contract/test/every-kind.ts';
import { hardware, recipe, TestServer } from './harness.ts';

let server: TestServer;
let suiteId: string;
beforeAll(async () => {
  server = await TestServer.open();
  await server.send('put', '/fragments/Shared%20start', { steps: sharedStart, basedOn: 0 });
  suiteId = (await server.send<{ id: string }>('post', '/option-suites', officeSuite)).id;
  await server.send('put', `/option-suites/${suiteId}/sheets/Desks`, { values: desksSheet, basedOn: 0 });
});
afterAll(() => server.close());

const sharedStart: Step[] = [
  {
    id: 'tips',
    kind: 'registry setting',
    key: 'Machine\\Software\\Tips',
    name: 'On',
    type: 'REG_DWORD',
    value: '0',
  },
];

async function inventoryOf(lineId: string) {
  const { machine } = await server.get<LineDetail>(`/lines/${lineId}`);
  return server.app.estate.hypervisor.inventory(machine?.id ?? '');
}

/** A line with a recipe, built; gives its job and what is on the machine. */
async function built(name: string, steps: readonly Step[]) {
  const { id } = await server.send<{ id: string }>('post', '/lines', { name, hardware });
  await server.send('put', `/lines/${id}/recipe`, { steps, basedOn: 1 });
  const { jobId } = await server.send<{ jobId: string }>('post', `/lines/${id}/builds`);
  const job = await server.untilEnded(jobId);
  const entries = await inventoryOf(id);
  return { id, job, entries, log: job.log.map((row) => row.text) };
}

describe('a step by an option sheet', () => {
  it('is not run by another sheet than the recipe took', async () => {
    await server.send('put', `/option-suites/${suiteId}/sheets/Maps`, {
      values: { edition: 'Small' },
      basedOn: 0,
    });
    const start = everyKind.filter((step) => ['operating system', 'restart'].includes(step.kind));
    const office = everyKind.find((step) => step.kind === 'application by option sheet');
    const { job } = await built('Changed sheet', [
      ...start.slice(0, 1),
      { ...office, sheet: 'Maps' } as Step,
      ...start.slice(1),
    ]);
    expect(job.state).toBe('failed');
    expect(job.error).toBe(
      'the option sheet “Maps” was changed since the recipe took it; take it anew in the recipe',
    );
  });
});

describe('a recipe of every kind of step', () => {
  it('is kept, built and read back; each step leaves what it says', async () => {
    const { id, job, entries, log } = await built('Every kind', everyKind);
    expect([job.state, job.error]).toEqual(['done', null]);
    const line = await server.get<LineDetail>(`/lines/${id}`);
    expect(line.recipe).toEqual(everyKind);
    const has = (entry: object) => expect(entries).toContainEqual(expect.objectContaining(entry));
    has({ kind: 'application', name: 'Guest tools', version: '12.1' });
    has({ kind: 'driver', name: 'para-virtual disk' });
    has({ kind: 'application', name: 'Marlstone Viewer', version: '1.4' });
    has({ kind: 'application', name: 'Marlstone Office', version: '1.4' });
    has({ kind: 'file', path: 'Users/All/welcome.txt', sha256: 'ab'.repeat(32) });
    has({ kind: 'file', path: 'System/Languages/ga-IE.pack' });
    has({ kind: 'shortcut', path: 'Users/All/Start menu/Ledger' });
    has({ kind: 'registry', name: 'Mode', value: 'kiosk' });
    has({ kind: 'service', name: 'System service 2', start: 'disabled' });
    has({ kind: 'certificate', store: 'trusted publishers', subject: 'CN=County signing' });
    has({ kind: 'service', name: 'ProfileAgent' });
    has({ kind: 'registry', name: 'Desks', value: '3' });
    has({ kind: 'registry', name: 'On', value: '0' });
    expect(entries.filter((entry) => entry.kind === 'task')).toEqual([]);
    expect(log).toContain('5: Marlstone Ledger is there in 1.4 or newer');
    // The updates ask for a restart and are given it; the tools are restarted after in any case.
    expect(log.filter((text) => /: restart$/.test(text))).toEqual(['2: restart', '3: restart']);
    // The clean-up is left out: it has no step and no checkpoint of its own.
    expect(job.steps.map((step) => step.title)).not.toContain('Clean-up');
    expect(line.checkpoints).toHaveLength(everyKind.length - 1);
  });

  it('an inventory of a build from checkpoints equals that of a full one', async () => {
    const change = (steps: readonly Step[]) =>
      steps.map((step) => (step.kind === 'certificate' ? { ...step, store: 'personal' as const } : step));
    const { id } = await built('In two goes', everyKind);
    await server.send('put', `/lines/${id}/recipe`, { steps: change(everyKind), basedOn: 2 });
    const again = await server.run(`/lines/${id}/builds`);
    expect(again.steps[0]?.title).toBe('Back to the checkpoint after step 12');
    const full = await built('In one go', change(everyKind));
    expect(await inventoryOf(id)).toEqual(full.entries);
  });
});

describe('a step that fails', () => {
  const service: Step = { id: 'x', kind: 'service start', name: 'No such service', start: 'manual' };

  it('is tried as often as it says, then stops the build', async () => {
    const { job, log } = await built('Tries', [...recipe, { ...service, retries: 2 }]);
    expect([job.state, job.error]).toEqual(['failed', 'the machine has no service No such service']);
    expect(log.filter((text) => text.includes('trying again'))).toEqual([
      '6: the machine has no service No such service; trying again, 2 of 3',
      '6: the machine has no service No such service; trying again, 3 of 3',
    ]);
  });

  it('ran, but did not leave what it should: the build stops and no checkpoint is kept', async () => {
    const steps = [...recipe];
    steps[3] = { ...steps[3], success: { kind: 'service', name: 'HostAgent', start: 'manual' } } as Step;
    const { id, job } = await built('Looked at', steps);
    expect(job.error).toBe(
      'the step ran but its success check does not hold: service HostAgent starts automatic and not manual',
    );
    expect((await server.get<LineDetail>(`/lines/${id}`)).checkpoints).toHaveLength(3);
  });

  it('leaves a build that was killed to go on where it was', async () => {
    const { id } = await server.send<{ id: string }>('post', '/lines', { name: 'Killed', hardware });
    await server.send('put', `/lines/${id}/recipe`, { steps: everyKind, basedOn: 1 });
    const { jobId } = await server.send<{ jobId: string }>('post', `/lines/${id}/builds`);
    await server.advance(40);
    await server.restart();
    const job = await server.untilEnded(jobId);
    expect([job.state, job.error]).toEqual(['done', null]);
  });
});
