import { describe, expect, it } from 'vitest';
import { compareRecipes, recipeHeadline } from '../src/image/compare-recipes.ts';
import type { Entry } from '../src/inventory/entry.ts';
import { recipeFaults, type Step } from '../src/image/recipe.ts';
import { failedCheck, type SuccessCheck } from '../src/image/success-check.ts';

const restart: Step = { id: 'r', kind: 'restart' };
const updates = (release: string, more: Partial<Step> = {}): Step =>
  ({ id: 'u', kind: 'updates', release, ...more }) as Step;
const agent: Step = { id: 'a', kind: 'host agent', version: '4.8' };
const before = [updates('2027-03'), agent];

describe('what lies between two recipes', () => {
  it.each([
    ['nothing', before, 'nothing differs', true],
    ['another order', [agent, updates('2027-03')], '1 step moved', false],
    ['a step edited', [updates('2027-04'), agent], '1 step changed', false],
    ['a step added', [...before, restart], '1 step added', false],
    ['both steps removed', [], '2 steps removed', false],
    ['other ids', [updates('2027-03', { id: 'x' }), agent], 'nothing differs', true],
    ['only a note', [updates('2027-03', { note: 'ask first' }), agent], '1 step changed', true],
    ['a step left out', [updates('2027-03', { disabled: true }), agent], '1 step changed', false],
    [
      'an edit, a removal and an addition',
      [updates('2027-04'), restart],
      '1 step changed, 1 added, 1 removed',
      false,
    ],
  ])('%s', (_what, after, headline, sameOutcome) => {
    const comparison = compareRecipes(before, after);
    expect([recipeHeadline(comparison), comparison.sameOutcome]).toEqual([headline, sameOutcome]);
  });

  it('names the fields, and says of an edited step that it moved too', () => {
    const three = [...before, restart];
    const after = [restart, agent, updates('2027-04', { label: 'April' })];
    const changed = compareRecipes(three, after).changes.find((row) => row.change === 'changed');
    expect(changed).toMatchObject({ fields: ['release', 'label'] });
    expect(compareRecipes(before, [agent, updates('2027-04')]).changes.map((row) => row.change)).toContain(
      'changed',
    );
  });

  it('counts as moved the fewest steps that explain the order', () => {
    const list = ['a', 'b', 'c', 'd', 'e'].map((id): Step => ({ id, kind: 'host agent', version: id }));
    const [a, b, c, d, e] = list as [Step, Step, Step, Step, Step];
    const moved = compareRecipes(list, [e, a, b, c, d]).changes;
    expect(moved).toEqual([{ change: 'moved', before: e, after: e }]);
  });
});

describe('a recipe that cannot be built', () => {
  const system: Step = { id: 's', kind: 'operating system', system: 'x', edition: '', mediaDigest: 'ab' };
  it.each([
    ['all steps left out', [{ ...system, disabled: true }], ['steps']],
    ['a system twice', [system, { ...system, id: 's2' }], ['steps.1.kind']],
    ['a spare system that is left out', [system, { ...system, id: 's2', disabled: true }], []],
    ['an id twice', [system, agent, agent], ['steps.2.id']],
    [
      'a section in two places',
      [{ ...system, section: 'Base' }, agent, { ...restart, section: 'Base' }],
      ['steps.2.section'],
    ],
    [
      'two sections side by side',
      [{ ...system, section: 'Base' }, { ...agent, section: 'Agents' }, restart],
      [],
    ],
  ] as const)('%s', (_what, steps, paths) => {
    expect(recipeFaults(steps).map((fault) => fault.path)).toEqual(paths);
  });
});

describe('success checks', () => {
  const entries: Entry[] = [
    { kind: 'file', path: 'App/run.exe', size: 1, sha256: 'ab'.repeat(32), mode: '0644', modified: '' },
    { kind: 'registry', key: 'Machine\\App', name: 'Mode', type: 'REG_SZ', value: 'kiosk' },
    { kind: 'service', name: 'AppService', start: 'automatic', image: 'App/s.exe' },
    { kind: 'application', publisher: 'Marl', name: 'App', version: '10.2', size: 0 },
  ];
  const holds: [string, SuccessCheck][] = [
    ['a file, whatever its case', { kind: 'file', path: 'APP/run.exe' }],
    ['a file by digest', { kind: 'file', path: 'App/run.exe', sha256: 'ab'.repeat(32) }],
    ['a value', { kind: 'registry', key: 'machine\\app', name: 'Mode', value: 'kiosk' }],
    ['a service', { kind: 'service', name: 'AppService', start: 'automatic' }],
    ['a newer version', { kind: 'version', name: 'App', atLeast: '9.9' }],
    ['an exit code', { kind: 'exit code', codes: [0, 3010] }],
  ];
  it.each(holds)('%s holds', (_what, check) => expect(failedCheck(check, entries, 3010)).toBeUndefined());

  const fails: [SuccessCheck, string][] = [
    [{ kind: 'file', path: 'App/other.exe' }, 'there is no file App/other.exe'],
    [
      { kind: 'file', path: 'App/run.exe', sha256: 'cd'.repeat(32) },
      'App/run.exe has digest abababababab… and not cdcdcdcdcdcd…',
    ],
    [
      { kind: 'registry', key: 'Machine\\App', name: 'Mode', value: 'desk' },
      'Machine\\App\\Mode is kiosk and not desk',
    ],
    [
      { kind: 'registry', key: 'Machine\\App', name: 'None', value: '' },
      'there is no value Machine\\App\\None',
    ],
    [{ kind: 'service', name: 'Other' }, 'there is no service Other'],
    [
      { kind: 'service', name: 'AppService', start: 'disabled' },
      'service AppService starts automatic and not disabled',
    ],
    [{ kind: 'version', name: 'App', atLeast: '10.10' }, 'App is 10.2, older than 10.10'],
    [{ kind: 'version', name: 'Other', atLeast: '1' }, 'Other is not installed'],
    [{ kind: 'exit code', codes: [0] }, 'it ended with exit 3010 and not 0'],
  ];
  it.each(fails)('%o fails with its reason', (check, reason) =>
    expect(failedCheck(check, entries, 3010)).toBe(reason),
  );
});
