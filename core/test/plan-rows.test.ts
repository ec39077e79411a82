import { describe, expect, it } from 'vitest';
import { checkpointKeys, planBuild } from '../src/image/checkpoint-plan.ts';
import { leanHardware } from '../src/image/hardware.ts';
import { expandWhatCan, numbersOf, planRows, rowsKept } from '../src/image/plan-rows.ts';
import type { Step } from '../src/image/recipe.ts';

const restart = (id: string): Step => ({ id, kind: 'restart' });
const agent: Step = { id: 'agent', kind: 'host agent', version: '4.8' };
const use = (revision: number): Step => ({ id: 'use', kind: 'fragment', fragment: 'Base', revision });
const library = new Map([
  ['Base@1', [restart('a'), agent]],
  ['Base@2', [restart('a'), agent, restart('c')]],
]);
const rows = (steps: Step[], made: number) => {
  const { steps: expanded, rowOf } = expandWhatCan(steps, library);
  const keys = checkpointKeys(leanHardware, expanded).slice(0, made);
  return planRows(steps, rowOf, planBuild(leanHardware, expanded, new Set(keys), new Map()));
};

describe('rows of a plan', () => {
  it('stand for one step or all of a fragment, with their numbers and minutes', () => {
    const list = rows([restart('x'), use(2), restart('y')], 0);
    expect(list.map((row) => [numbersOf(row), row.minutes])).toEqual([
      ['1', 3],
      ['2–4', 3 + 1 + 3],
      ['5', 3],
    ]);
  });

  it('are above the waterline when all of them come from checkpoints', () => {
    const list = rows([restart('x'), use(2), restart('y')], 3);
    expect(list.map((row) => row.kept)).toEqual([true, false, false]);
    expect(rowsKept(list)).toBe(1);
    expect(rowsKept(rows([restart('x'), use(2)], 4))).toBe(2);
  });

  it('leave out a fragment that cannot be looked into, and say why', () => {
    const { steps, rowOf, faults } = expandWhatCan([restart('x'), use(9), restart('y')], library);
    expect([steps.map((step) => step.id), rowOf]).toEqual([
      ['x', 'y'],
      [0, 2],
    ]);
    expect(faults).toEqual([
      { path: 'steps.1.revision', message: '"Base" has no revision 9; its newest is 2' },
    ]);
  });
});
