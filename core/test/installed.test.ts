/** Installed delivery: commands, order, requirements, detection, quiet hours; cases worked out by hand. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Entry } from '../src/inventory/entry.ts';
import { commandFaults, fillCommand } from '../src/installed/command.ts';
import { dependants, evaluateRemoval } from '../src/installed/removal.ts';
import { endOf, evaluate, isInHosts, mayBegin, type HostFacts } from '../src/installed/evaluate.ts';
import { installationFaults, newInstallation, type Installation } from '../src/installed/installation.ts';
import { installationOrder, type Linked } from '../src/installed/order.ts';
import { must } from '../src/result.ts';
import { parseInstant } from '../src/time/instant.ts';

const installation = (change: Partial<Installation> = {}): Installation => ({
  ...newInstallation({ name: 'Corvane Stats', publisher: 'Corvane', version: '11.2' }),
  hosts: 'WCL-DS-*',
  ...change,
});
const host = (change: Partial<HostFacts> = {}): HostFacts => ({
  name: 'WCL-DS-001',
  architecture: 'x64',
  system: 'Desktop OS 24.2 multi-session',
  freeDiskBytes: 20e9,
  memoryBytes: 16e9,
  entries: [],
  runScript: (text) => (text === 'exit 0' ? 0 : text === 'exit 4' ? 4 : undefined),
  ...change,
});
const application = (name: string, version: string): Entry => ({
  kind: 'application',
  publisher: 'X',
  name,
  version,
  size: 1,
});

describe('commands', () => {
  it('placeholders are filled, each as often as it stands there', () =>
    expect(
      must(
        fillCommand('"{folder}/setup.exe" /quiet /d "{folder}" {version}', {
          folder: 'C:/t',
          log: 'l',
          name: 'n',
          version: '11.2',
          host: 'h',
        }),
      ),
    ).toBe('"C:/t/setup.exe" /quiet /d "C:/t" 11.2'));
  it.each([
    ['', 'is empty'],
    [
      'setup {fodler}',
      'has the unknown placeholder {fodler}; known are {folder}, {log}, {name}, {version}, {host}',
    ],
    ['setup {folder', 'has a brace without its partner'],
    ['setup {a{b}}', 'has a brace without its partner'],
  ])('%j: %s', (command, message) => expect(commandFaults(command)[0]?.message).toBe(message));
});

describe('an installation', () => {
  it('as it begins, lacks only its hosts', () => {
    expect(installationFaults(installation())).toEqual([]);
    expect(installationFaults(installation({ hosts: '' }))).toEqual([{ path: 'hosts', message: 'is empty' }]);
  });
  it.each([
    [{ installCommand: 'setup.exe' }, 'installCommand', /has no silent switch/],
    [{ exitCodes: [] }, 'exitCodes', /names no code/],
    [
      {
        exitCodes: [
          { code: 0, means: 'done' },
          { code: 0, means: 'restart' },
        ],
      },
      'exitCodes.1.code',
      /is there twice/,
    ],
    [{ detection: [] }, 'detection', /again and again/],
    [{ dependencies: [{ name: 'X', range: 'new' }] }, 'dependencies.0.range', /is no bound/],
    [{ replaces: ['Corvane Stats'] }, 'replaces', /names itself/],
    [{ quietHours: { start: '7', end: '25:00' } }, 'quietHours.start', /is no time/],
    [{ quietHours: { start: '07:00', end: '07:00' } }, 'quietHours.end', /all day/],
  ] as [Partial<Installation>, string, RegExp][])('%o', (change, path, message) => {
    const [fault] = installationFaults(installation(change));
    expect([fault?.path, message.test(fault?.message ?? '')]).toEqual([path, true]);
  });
});

describe('order', () => {
  const one = (name: string, needs: string[] = [], version = '1', replaces: string[] = []): Linked => ({
    name,
    version,
    replaces,
    dependencies: needs.map((need) => ({ name: need, range: '*' })),
  });
  const names = (wanted: Linked, known: Linked[]) => {
    const order = installationOrder(wanted, known);
    return order.ok ? order.value.map((each) => each.name) : order.error;
  };
  it('what is needed comes first, each once', () => {
    const base = one('base');
    const known = [base, one('runtime', ['base']), one('fonts', ['base'])];
    expect(names(one('app', ['runtime', 'fonts']), known)).toEqual(['base', 'runtime', 'fonts', 'app']);
  });
  it('a circle is refused with the way round', () => {
    const known = [one('b', ['c']), one('c', ['a']), one('a', ['b'])];
    expect(names(one('a', ['b']), known)).toEqual([
      { path: 'dependencies.0', message: 'needs itself: a needs b needs c needs a' },
    ]);
  });
  it('missing, or in no version that will do', () => {
    expect(names(one('a', ['x']), [])).toEqual([
      { path: 'dependencies.0', message: 'needs x, which hosts cannot be given yet' },
    ]);
    const wants = { ...one('a'), dependencies: [{ name: 'x', range: '>=2' }] };
    expect(names(wants, [one('x', [], '1.9')])).toEqual([
      { path: 'dependencies.0', message: 'needs x >=2; hosts can be given 1.9' },
    ]);
    const order = must(installationOrder(wants, [one('x', [], '2.1'), one('x', [], '2.10')]));
    expect(order[0]?.version).toBe('2.10');
  });
  it('what it needs it cannot take the place of', () =>
    expect(names(one('a', ['x'], '1', ['x']), [one('x')])).toEqual([
      { path: 'replaces', message: 'takes the place of x, which it needs' },
    ]));
  it('any graph gives an order in which all needs come before, or a fault', () => {
    const graph = fc.array(fc.array(fc.nat(7), { maxLength: 3 }), { minLength: 8, maxLength: 8 });
    fc.assert(
      fc.property(graph, (edges) => {
        const known = edges.map((needs, i) =>
          one(
            `p${i}`,
            [...new Set(needs)].map((n) => `p${n}`),
          ),
        );
        const order = installationOrder(known[0] as Linked, known);
        if (!order.ok) {
          expect(order.error[0]?.message).toMatch(/needs itself/);
          return;
        }
        const place = new Map(order.value.map((each, i) => [each.name, i]));
        for (const each of order.value)
          for (const need of each.dependencies)
            expect((place.get(need.name) ?? 99) < (place.get(each.name) ?? -1)).toBe(true);
      }),
    );
  });
});

describe('what an agent makes of taking it away', () => {
  const runtime = installation({
    name: 'Quaybolt Runtime',
    version: '5.2',
    detection: [{ kind: 'version', name: 'Quaybolt Runtime', atLeast: '5.2' }],
  });
  const stats = installation({ dependencies: [{ name: 'Quaybolt Runtime', range: '>=5' }] });
  const on = (...names: string[]) => host({ entries: names.map((name) => application(name, '11.2')) });
  it('is removed where it is, and nowhere else', () => {
    expect(evaluateRemoval(runtime, on('Quaybolt Runtime'), [runtime, stats])).toEqual({
      state: 'to remove',
    });
    expect(evaluateRemoval(runtime, on('Corvane Stats'), [stats])).toEqual({ state: 'not there' });
    expect(evaluateRemoval({ ...runtime, detection: [] }, on('Quaybolt Runtime'), [])).toEqual({
      state: 'not there',
    });
  });
  it('stays where something that needs it is, but not for what is elsewhere', () => {
    expect(evaluateRemoval(runtime, on('Quaybolt Runtime', 'Corvane Stats'), [stats])).toEqual({
      state: 'needed',
      by: ['Corvane Stats 11.2'],
    });
    expect(dependants(runtime, [stats, runtime, installation({ name: 'Other' })])).toEqual([stats]);
  });
});

describe('what an agent makes of it', () => {
  it('is to be installed where it is not, taking the place of what it replaces', () => {
    const own = installation({ replaces: ['Old Stats', 'Older Stats'] });
    expect(evaluate(own, host({ entries: [application('Old Stats', '3')] }))).toEqual({
      state: 'to install',
      replaces: ['Old Stats'],
    });
  });
  it('is detected in that version or a newer one', () => {
    const of = (version: string) =>
      evaluate(installation(), host({ entries: [application('Corvane Stats', version)] })).state;
    expect([of('11.1'), of('11.2'), of('11.10')]).toEqual([
      'to install',
      'detected already',
      'detected already',
    ]);
  });
  it('does not apply, with every reason', () => {
    const own = installation({
      requirements: {
        architecture: 'arm64',
        minimumSystem: '24.10',
        diskBytes: 30e9,
        memoryBytes: 32e9,
        rules: [
          { kind: 'file', path: 'Program files/Base/base.exe' },
          { kind: 'script', text: 'exit 4' },
          { kind: 'script', text: 'Get-Thing' },
        ],
      },
    });
    expect(evaluate(own, host())).toEqual({
      state: 'not applicable',
      why: [
        'it is for arm64, the host is x64',
        'it needs system 24.10, the host has Desktop OS 24.2 multi-session',
        'it needs 30.0 GB of disk, 20.0 GB are free',
        'it needs 32.0 GB of memory, the host has 16.0 GB',
        'there is no file Program files/Base/base.exe',
        'its script ended with 4',
        'its script cannot be run on this host',
      ],
    });
  });
  it('exit codes mean what is said, and anything else is a failure', () =>
    expect([0, 3010, 1618, 1603].map((code) => endOf(code, installation()))).toEqual([
      'installed',
      'restart',
      'try again',
      'failed',
    ]));
  it('rule groups go by name', () => {
    expect(isInHosts('WCL-DS-*, WCL-PB-0?', 'wcl-ds-014')).toBe(true);
    expect(isInHosts('WCL-DS-*', 'WCL-CC-001')).toBe(false);
    expect(isInHosts('WCL-PB-0?', 'WCL-PB-01')).toBe(false);
    expect(isInHosts(' , ', 'WCL-PB-01')).toBe(false);
    expect(isInHosts('*', 'WCL-PB-01')).toBe(true);
  });
});

describe('when it may begin', () => {
  const at = (text: string) => parseInstant(text) ?? 0;
  const dublin = 'Europe/Dublin';
  const day = { start: '07:00', end: '19:00' };
  const night = { start: '22:00', end: '06:00' };
  it.each([
    ['in quiet hours, at their end', '2027-03-22T08:00:00Z', day, null, '2027-03-22T19:00:00Z'],
    ['outside of them, now', '2027-03-22T20:00:00Z', day, null, '2027-03-22T20:00:00Z'],
    ['over midnight, before it', '2027-03-22T23:00:00Z', night, null, '2027-03-23T06:00:00Z'],
    ['over midnight, after it', '2027-03-23T01:30:00Z', night, null, '2027-03-23T06:00:00Z'],
    // At 01:00 clocks go forward, so 06:00 is 05:00 UTC.
    ['over the night of the clock change', '2027-03-27T23:00:00Z', night, null, '2027-03-28T05:00:00Z'],
    ['without quiet hours, now', '2027-03-22T08:00:00Z', null, null, '2027-03-22T08:00:00Z'],
    [
      'past the deadline, at once',
      '2027-03-22T08:00:00Z',
      day,
      '2027-03-22T07:00:00Z',
      '2027-03-22T08:00:00Z',
    ],
    [
      'at the deadline, if that comes first',
      '2027-03-22T08:00:00Z',
      day,
      '2027-03-22T12:00:00Z',
      '2027-03-22T12:00:00Z',
    ],
  ] as const)('%s', (_what, now, quiet, deadline, wanted) =>
    expect(mayBegin(at(now), quiet, deadline === null ? null : at(deadline), dublin)).toBe(at(wanted)),
  );
});
