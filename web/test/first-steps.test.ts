/** The first steps on an empty line, and what each waits for. */
import { describe, expect, it } from 'vitest';
import type { Home } from '@vatline/contract/home';
import { firstSteps } from '../src/home/first-steps.ts';

const lane = (versions: number, pools: number) =>
  ({
    lineId: 'l1',
    versions: Array.from({ length: versions }, () => ({})),
    pools: Array.from({ length: pools }, () => ({})),
  }) as unknown as Home['lanes'][number];
const said = (lanes: Home['lanes']) =>
  firstSteps({ lanes }).map(({ action, state, lacks }) =>
    [action, state, ...(lacks === '' ? [] : [`needs ${lacks}`])].join(', '),
  );

describe('the first steps', () => {
  it('of an empty line begin with an image line, and packages may come at any time', () =>
    expect(said([])).toEqual([
      'Begin an image line, next',
      'Build and cut, later, needs an image line',
      'Capture a package, at any time',
      'Make a pool, later, needs a version',
      'Assign people, later, needs a pool',
      'Plan a rollout, later, needs a pool',
    ]));

  it('with a line that has no version go on with its build', () => {
    expect(said([lane(0, 0)]).slice(0, 2)).toEqual(['Begin an image line, done', 'Build and cut, next']);
    expect(firstSteps({ lanes: [lane(0, 0)] })[1]?.to).toBe('/images/l1');
  });

  it('with a version go on with a pool', () =>
    expect(said([lane(1, 0)])).toEqual([
      'Begin an image line, done',
      'Build and cut, done',
      'Capture a package, at any time',
      'Make a pool, next',
      'Assign people, later, needs a pool',
      'Plan a rollout, later, needs a pool',
    ]));

  it('with a pool go on with people; nothing is lacking any more', () =>
    expect(said([lane(1, 1)]).slice(3)).toEqual([
      'Make a pool, done',
      'Assign people, next',
      'Plan a rollout, later',
    ]));
});
