import { describe, expect, it } from 'vitest';
import { compareInventories } from '../src/inventory/compare.ts';
import type { Entry } from '../src/inventory/entry.ts';
import type { Step } from '../src/image/recipe.ts';
import { stepsFromChanges, withReproductions } from '../src/image/steps-from-changes.ts';
import { dropNoise } from '../src/package/noise.ts';
import { must } from '../src/result.ts';

const file = (path: string): Entry => ({
  kind: 'file',
  path,
  size: 9,
  sha256: 'a'.repeat(64),
  mode: '0644',
  modified: '2027-01-01T00:00:00Z',
});
const service = (start: string): Entry => ({
  kind: 'service',
  name: 'Spooler',
  start,
  image: 'System/spool.exe',
});
const reader: Entry[] = [
  { kind: 'application', publisher: 'Pellam', name: 'Pellam Reader', version: '9.0', size: 0 },
  file('Program files/Pellam Reader/reader.exe'),
  {
    kind: 'shortcut',
    path: 'Users/All/Desktop/Pellam Reader',
    target: 'Program files/Pellam Reader/reader.exe',
  },
  {
    kind: 'service',
    name: 'PellamUpdate',
    start: 'automatic',
    image: 'Program files/Pellam Reader/update.exe',
  },
  { kind: 'folder', path: 'Program files/Pellam Reader' },
];
const steps: Step[] = [
  {
    id: 'ledger',
    kind: 'application',
    name: 'Ledger',
    publisher: 'L',
    version: '1',
    command: 'x /quiet',
    exitCodes: [0],
  },
  { id: 'link', kind: 'shortcut', name: 'Ledger', target: 'l.exe', place: 'desktop' },
  { id: 'settle', kind: 'wait for settle', limitMinutes: 5 },
  { id: 'end', kind: 'restart' },
];
const found = (before: Entry[], after: Entry[], recipe: readonly Step[] = []) =>
  stepsFromChanges(must(dropNoise(compareInventories(before, after, false))), recipe, [
    { name: 'Pellam Reader', command: 'setup-pellam.exe /quiet' },
  ]);

describe('changes by hand as steps', () => {
  it('an application with all that it brought is one change and one step', () => {
    const changes = found([], [...reader, file('Users/Builder/Temp/x.tmp')]);
    expect(changes.map((c) => [c.title, c.entries.length])).toEqual([['Pellam Reader 9.0 was installed', 5]]);
    expect(changes[0]?.reproduction).toEqual({
      kind: 'add',
      step: {
        id: 'pellam-reader',
        kind: 'application',
        name: 'Pellam Reader',
        publisher: 'Pellam',
        version: '9.0',
        command: 'setup-pellam.exe /quiet',
        exitCodes: [0, 3010],
        success: { kind: 'version', name: 'Pellam Reader', atLeast: '9.0' },
      },
    });
  });

  it('settings, services, tasks, shortcuts, certificates and files become the steps that set them', () => {
    const after: Entry[] = [
      { kind: 'registry', key: 'Machine\\Kiosk', name: 'Mode', type: 'REG_SZ', value: 'on' },
      service('disabled'),
      { kind: 'task', name: 'Sweep', run: 'sweep.exe', schedule: 'daily' },
      { kind: 'shortcut', path: 'Users/All/Start menu/Maps', target: 'maps.exe' },
      { kind: 'certificate', store: 'trusted roots', subject: 'CN=County', sha256: 'b'.repeat(64) },
      file('Users/All/welcome.txt'),
    ];
    const added = found([service('automatic')], after).map(
      (c) => c.reproduction.kind === 'add' && c.reproduction.step,
    );
    expect(added).toMatchObject([
      { kind: 'certificate', subject: 'CN=County', store: 'trusted roots' },
      {
        kind: 'file copy',
        target: 'Users/All/welcome.txt',
        source: 'files/welcome.txt',
        digest: 'a'.repeat(64),
      },
      { kind: 'registry setting', key: 'Machine\\Kiosk', name: 'Mode', value: 'on' },
      { kind: 'shortcut', name: 'Maps', place: 'start menu', target: 'maps.exe' },
      { kind: 'scheduled task', name: 'Sweep', action: 'create' },
      { kind: 'service start', name: 'Spooler', start: 'disabled' },
    ]);
  });

  it('what was taken away leaves the step out that put it there', () => {
    const before: Entry[] = [
      { kind: 'application', publisher: 'L', name: 'Ledger', version: '1', size: 0 },
      { kind: 'shortcut', path: 'Users/All/Desktop/Ledger', target: 'l.exe' },
      { kind: 'task', name: 'Tidy disk', run: 'tidy.exe', schedule: 'weekly' },
      { kind: 'driver', name: 'Old', version: '1' },
    ];
    expect(found(before, [], steps).map((c) => c.reproduction)).toMatchObject([
      { kind: 'leave out', stepId: 'ledger' },
      { kind: 'by script', step: { kind: 'script', title: 'take away Old' } },
      { kind: 'leave out', stepId: 'link' },
      { kind: 'add', step: { kind: 'scheduled task', name: 'Tidy disk', action: 'remove' } },
    ]);
  });

  it('what a step of the recipe brings about already changes that step', () => {
    const value = (text: string): Entry => ({
      kind: 'registry',
      key: 'K',
      name: 'Mode',
      type: 'REG_SZ',
      value: text,
    });
    const app = (version: string): Entry => ({
      kind: 'application',
      publisher: 'L',
      name: 'Ledger',
      version,
      size: 0,
    });
    const recipe: Step[] = [
      { ...steps[0], success: { kind: 'version', name: 'Ledger', atLeast: '1' } } as Step,
      {
        id: 'mode',
        kind: 'registry setting',
        key: 'K',
        name: 'Mode',
        type: 'REG_SZ',
        value: 'a',
        note: 'kept',
      },
      { id: 'spool', kind: 'service start', name: 'Spooler', start: 'automatic' },
      { id: 'end', kind: 'restart' },
    ];
    const changes = found(
      [app('1'), value('a'), service('automatic')],
      [app('2'), value('b'), service('disabled')],
      recipe,
    );
    expect(changes.map((c) => c.title)).toEqual([
      'Ledger 2 was updated',
      'Registry value K\\Mode was changed',
      'Service Spooler was changed',
    ]);
    const changed = withReproductions(
      recipe,
      changes.map((c) => c.reproduction),
    );
    expect(changed).toMatchObject([
      { id: 'ledger', version: '2', command: 'x /quiet', success: { atLeast: '2' } },
      { id: 'mode', value: 'b', note: 'kept' },
      { id: 'spool', start: 'disabled' },
      { id: 'end' },
    ]);
  });

  it('a service that came from nowhere is not made by setting its start', () => {
    expect(found([], [service('automatic')])[0]?.reproduction).toMatchObject({
      kind: 'by script',
      advice: 'What brought the service is not known; install it by the script',
    });
  });

  it('a task that a step had made is that step left out, another one is removed', () => {
    const task: Entry = { kind: 'task', name: 'Sweep', run: 'sweep.exe', schedule: 'daily' };
    const make: Step = {
      id: 'sweep',
      kind: 'scheduled task',
      name: 'Sweep',
      action: 'create',
      command: 'sweep.exe',
      schedule: 'daily',
    };
    expect(found([task], [], [make])[0]?.reproduction).toEqual({ kind: 'leave out', stepId: 'sweep' });
    expect(found([task], [])[0]?.reproduction).toMatchObject({ kind: 'add', step: { action: 'remove' } });
  });

  it('what no kind of step does is left to a script, with advice', () => {
    const after: Entry[] = [
      { kind: 'update', name: '2027-04', title: 'Quality 2027-04' },
      { kind: 'registry', key: 'K', name: 'Blob', type: 'REG_BINARY', value: '00' },
    ];
    expect(found([], after).map((c) => c.reproduction)).toMatchObject([
      { kind: 'by script', advice: 'No kind of step does it; write in the script what does' },
      { kind: 'by script', advice: 'Updates come by the updates step; take a newer release there' },
    ]);
  });

  it('ids stay apart from those of the recipe and from one another', () => {
    const value = (name: string): Entry => ({ kind: 'registry', key: 'K', name, type: 'REG_SZ', value: '1' });
    const recipe: Step[] = [
      { id: 'registry-setting', kind: 'registry setting', key: 'K', name: 'x', type: 'REG_SZ', value: '' },
    ];
    const ids = found([], [value('a'), value('b')], recipe).map(
      (c) => c.reproduction.kind === 'add' && c.reproduction.step.id,
    );
    expect(ids).toEqual(['registry-setting-2', 'registry-setting-3']);
  });

  it('are taken over before the end of the recipe', () => {
    const add: Step = { id: 'new', kind: 'host agent', version: '1' };
    const changed = withReproductions(steps, [
      { kind: 'add', step: add },
      { kind: 'leave out', stepId: 'link' },
    ]);
    expect(changed.map((step) => [step.id, step.disabled ?? false])).toEqual([
      ['ledger', false],
      ['link', true],
      ['new', false],
      ['settle', false],
      ['end', false],
    ]);
  });
});
