import { describe, expect, it } from 'vitest';
import {
  canonicalJson,
  checkpointKeys,
  firstToRun,
  planBuild,
  stepIdentity,
} from '../src/image/checkpoint-plan.ts';
import { leanHardware, type Hardware } from '../src/image/hardware.ts';
import { recipeFaults, type Step } from '../src/image/recipe.ts';

const hardware: Hardware = { ...leanHardware, processors: 4 };
const steps: Step[] = [
  {
    id: 'a',
    kind: 'operating system',
    system: 'Desktop OS 24.2',
    edition: 'multi-session',
    mediaDigest: 'ab',
  },
  { id: 'b', kind: 'updates', release: '2027-03' },
  { id: 'c', kind: 'host agent', version: '4.8' },
  { id: 'd', kind: 'join directory', ou: 'OU=Build,DC=wrenfield,DC=example' },
  { id: 'e', kind: 'restart' },
];
const none = new Map<string, number[]>();

describe('checkpoint plan', () => {
  it('starts from the deepest checkpoint whose key matches, and counts the minutes saved', () => {
    const keys = checkpointKeys(hardware, steps);
    const plan = planBuild(hardware, steps, new Set(keys.slice(0, 3)), none);
    expect([plan.waterline, plan.minutesSaved, plan.minutesToRun]).toEqual([3, 18 + 14 + 1, 1 + 3]);
  });

  it('uses the median of past runs', () => {
    const history = new Map([[stepIdentity(steps[1] as Step), [10, 12, 40]]]);
    expect(planBuild(hardware, steps, new Set(), history).minutesToRun).toBe(18 + 12 + 1 + 1 + 3);
  });

  it('a changed step, new hardware or other media move the waterline up; notes and ids do not', () => {
    const made = new Set(checkpointKeys(hardware, steps));
    const change = (i: number, step: Partial<Step>) =>
      steps.map((s, n) => (n === i ? ({ ...s, ...step } as Step) : s));
    const waterline = (list: Step[], hw = hardware) => planBuild(hw, list, made, none).waterline;
    expect(waterline(change(1, { release: '2027-04' } as Partial<Step>))).toBe(1);
    expect(waterline(change(2, { note: 'ask first', id: 'zz' }))).toBe(5);
    expect(waterline(change(0, { mediaDigest: 'cd' } as Partial<Step>))).toBe(0);
    expect(waterline(steps, { ...hardware, processors: 2 })).toBe(0);
    expect(waterline([steps[0], steps[2], steps[1], steps[3], steps[4]] as Step[])).toBe(1);
  });

  it('neither labels, sections, tries nor steps left out move it; a restart rule does', () => {
    const made = new Set(checkpointKeys(hardware, steps));
    const change = (step: Partial<Step>) =>
      planBuild(
        hardware,
        steps.map((s, n) => (n === 2 ? ({ ...s, ...step } as Step) : s)),
        made,
        none,
      );
    expect(change({ label: 'Agent', section: 'Base', retries: 2, expectedMinutes: 9 }).waterline).toBe(5);
    expect(change({ restart: 'always' }).waterline).toBe(2);
    expect(change({ disabled: true })).toMatchObject({ waterline: 2, stepsKept: 2, stepsToRun: 2 });
    const withSpare: Step[] = [
      ...steps.slice(0, 3),
      { id: 'x', kind: 'restart', disabled: true },
      ...steps.slice(3),
    ];
    expect(planBuild(hardware, withSpare, made, none)).toMatchObject({
      waterline: 6,
      stepsKept: 5,
      stepsToRun: 0,
      minutesSaved: 18 + 14 + 1 + 1 + 3,
    });
  });

  it.each([
    ['below the waterline', 2, [], 2],
    ['past a step that is left out', 2, [2], 3],
    ['none when all that follow are left out', 3, [3, 4], -1],
    ['none when everything comes from checkpoints', 5, [], -1],
  ])('the first step to run stands %s', (_where, waterline, leftOut: number[], expected) => {
    const list = steps.map((step, i) => (leftOut.includes(i) ? { ...step, disabled: true } : step));
    expect(firstToRun(list, waterline)).toBe(expected);
  });

  it('a step lasts what it names while it has no history, with its restart when it names none', () => {
    const lasts = (step: Step) => planBuild(hardware, [step], new Set(), none).minutesToRun;
    expect(lasts({ id: 'a', kind: 'host agent', version: '1', expectedMinutes: 7 })).toBe(7);
    expect(lasts({ id: 'a', kind: 'host agent', version: '1', restart: 'always' })).toBe(1 + 3);
  });

  it('nothing below a step that always runs comes from a checkpoint', () => {
    const made = new Set(checkpointKeys(hardware, steps));
    const always = steps.map((s, i) => (i === 2 ? { ...s, alwaysRun: true } : s));
    expect(planBuild(hardware, always, made, none).waterline).toBe(2);
  });

  it('writes equal things as equal texts', () => {
    expect(canonicalJson({ b: [1, { d: undefined, c: 'x' }], a: null })).toBe('{"a":null,"b":[1,{"c":"x"}]}');
  });
});

describe('recipe faults', () => {
  it.each([
    [[], 'steps'],
    [steps.slice(1), 'steps.0.kind'],
    [[...steps, { ...steps[0], id: 'f' } as Step], 'steps.5.kind'],
    [[...steps, steps[4] as Step], 'steps.5.id'],
  ])('case %#', (list, path) => {
    expect(recipeFaults(list as Step[]).map((f) => f.path)).toContain(path);
  });

  it('a good recipe has none', () => expect(recipeFaults(steps)).toEqual([]));
});
