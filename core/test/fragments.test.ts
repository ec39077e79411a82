import { describe, expect, it } from 'vitest';
import { checkLine } from '../src/image/checks/check-line.ts';
import { machineState } from '../src/image/checks/check.ts';
import { foldFixes } from '../src/image/checks/fold-fixes.ts';
import { checkpointKeys } from '../src/image/checkpoint-plan.ts';
import {
  builtRecipeFaults,
  expandRecipe,
  foldFragments,
  fragmentFaults,
  fragmentUses,
  type FragmentLibrary,
} from '../src/image/fragments.ts';
import { leanHardware } from '../src/image/hardware.ts';
import type { Step } from '../src/image/recipe.ts';
import { must } from '../src/result.ts';

const system: Step = {
  id: 'system',
  kind: 'operating system',
  system: 'Desktop OS 24.2',
  edition: 'multi-session',
  mediaDigest: 'ab'.repeat(32),
};
const agent: Step = { id: 'agent', kind: 'host agent', version: '4.8' };
const restart: Step = { id: 'end', kind: 'restart' };
const use = (fragment: string, revision: number, id = 'use'): Step => ({
  id,
  kind: 'fragment',
  fragment,
  revision,
});
const tips: Step = {
  id: 'tips',
  kind: 'registry setting',
  key: 'Machine\\Tips',
  name: 'On',
  type: 'REG_DWORD',
  value: '0',
};
const loud: Step = {
  id: 'app',
  kind: 'application',
  name: 'Marl',
  publisher: 'Marl',
  version: '1',
  command: 'setup.exe',
  exitCodes: [0],
};

const library: FragmentLibrary = new Map<string, readonly Step[]>([
  ['Quiet@1', [tips]],
  ['Quiet@2', [tips, agent]],
  ['Outer@1', [use('Quiet', 2, 'inner'), restart]],
  ['Loud@1', [loud]],
  ['A@1', [use('B', 1, 'b')]],
  ['B@1', [use('A', 1, 'a')]],
]);

describe('a recipe with fragments', () => {
  it('stands with their steps in place, nested ones too, and remembers where each came from', () => {
    const { steps, rowOf } = must(expandRecipe([system, use('Outer', 1), restart], library));
    expect(steps.map((step) => [step.id, step.kind])).toEqual([
      ['system', 'operating system'],
      ['use~inner~tips', 'registry setting'],
      ['use~inner~agent', 'host agent'],
      ['use~end', 'restart'],
      ['end', 'restart'],
    ]);
    expect(rowOf).toEqual([0, 1, 1, 1, 2]);
  });

  it('has the checkpoints of the same steps written out, so a fragment costs no rebuild', () => {
    const expanded = must(expandRecipe([system, use('Quiet', 2), restart], library)).steps;
    expect(checkpointKeys(leanHardware, expanded)).toEqual(
      checkpointKeys(leanHardware, [system, tips, agent, restart]),
    );
  });

  it('hands its own marks down: left out, always run, section', () => {
    const marked: Step = { ...use('Quiet', 1), disabled: true, alwaysRun: true, section: 'Base' } as Step;
    const [only] = must(expandRecipe([marked], library)).steps;
    expect(only).toMatchObject({ id: 'use~tips', disabled: true, alwaysRun: true, section: 'Base' });
  });

  it.each([
    [use('Nowhere', 1), 'steps.1.fragment', 'there is no fragment "Nowhere"'],
    [use('Quiet', 7), 'steps.1.revision', '"Quiet" has no revision 7; its newest is 2'],
    [use('A', 1), 'steps.1.fragment', '"A" contains itself: A in B in A'],
  ])('is refused at the step that cannot be looked into (%o)', (step, path, message) => {
    expect(expandRecipe([system, step], library)).toEqual({ ok: false, error: [{ path, message }] });
  });

  it('is refused for what its fragments bring in, at the step that names them', () => {
    const twice: FragmentLibrary = new Map([...library, ['System@1', [system]]]);
    expect(builtRecipeFaults([use('System', 1), agent], twice)).toEqual([]);
    expect(builtRecipeFaults([system, agent, use('System', 1)], twice)).toEqual([
      { path: 'steps.2.kind', message: 'The operating system can be installed only once, first' },
    ]);
    expect(builtRecipeFaults([use('Quiet', 1)], library)).toEqual([
      { path: 'steps.0.kind', message: 'The first step must install the operating system' },
    ]);
  });

  it('tells how far behind it is', () => {
    expect(fragmentUses([use('Quiet', 1), agent, use('Outer', 1)], library)).toMatchObject([
      { newest: 2, behind: 1 },
      { newest: 1, behind: 0 },
    ]);
  });
});

describe('a fragment that is kept', () => {
  it('may not be empty, hold an id twice, or contain itself in whatever revision', () => {
    expect(fragmentFaults('New', [], library)).toMatchObject([{ path: 'steps' }]);
    expect(fragmentFaults('New', [tips, tips], library)).toMatchObject([{ path: 'steps.1.id' }]);
    expect(fragmentFaults('Quiet', [use('Outer', 1)], library)).toEqual([
      { path: 'steps.0.fragment', message: '"Quiet" contains itself: Quiet in Outer in Quiet' },
    ]);
    expect(fragmentFaults('New', [use('Outer', 1)], library)).toEqual([]);
  });
});

describe('a change of the expanded recipe', () => {
  const written = [system, use('Quiet', 2), restart];
  const expanded = must(expandRecipe(written, library)).steps;

  it('folds back to fragments when it leaves them as they are', () => {
    expect(foldFragments(expanded, written, library)).toEqual(written);
    expect(foldFragments([...expanded, loud], written, library)).toEqual([...written, loud]);
    expect(
      foldFragments([expanded[0], expanded[3], expanded[1], expanded[2]] as Step[], written, library),
    ).toEqual([system, restart, use('Quiet', 2)]);
  });

  it('does not fold when it changes, parts or drops what is inside', () => {
    const [a, b, c, d] = expanded as [Step, Step, Step, Step];
    expect(foldFragments([a, { ...b, note: 'x' }, c, d], written, library)).toBeUndefined();
    expect(foldFragments([a, b, d, c], written, library)).toBeUndefined();
    expect(foldFragments([a, c, d], written, library)).toBeUndefined();
    expect(foldFragments([a, d], written, library)).toBeUndefined();
  });

  it('a fix inside a fragment is not offered on the line; its finding says where to mend it', () => {
    const findings = (steps: Step[]) => {
      const line = {
        steps: must(expandRecipe(steps, library)).steps,
        hardware: leanHardware,
        machine: machineState(null, undefined),
        sources: { media: [], release: '2027-03', agentVersion: '4.8', toolsVersion: '12', buildUnit: '' },
        optionSheets: [],
        pools: [],
      };
      return foldFixes(checkLine(line), steps, library).findings.find((finding) => finding.id === 'silent');
    };
    const own = findings([system, loud, use('Quiet', 2), restart]);
    expect(own?.fix).toMatchObject({
      action: 'change',
      steps: [system, { command: 'setup.exe /quiet' }, use('Quiet', 2), restart],
    });
    const inside = findings([system, use('Loud', 1), restart]);
    expect(inside?.fix).toBeUndefined();
    expect(inside?.evidence).toMatch(/mended in the fragment, for all lines that share it$/);
  });
});
