import { describe, expect, it } from 'vitest';
import { buildRuns, slowdowns, stepSeries, type StepRun } from '../src/image/build-history.ts';

const run = (build: string, identity: string, minutes: number, at: number): StepRun => ({
  build,
  identity,
  minutes,
  at,
});

describe('past builds', () => {
  it('are gathered from the runs of their steps, oldest first', () => {
    const builds = buildRuns([run('two', 'a', 5, 30), run('one', 'a', 3, 10), run('one', 'b', 2, 12)]);
    expect(builds.map((b) => [b.build, b.at, b.minutes, [...b.steps]])).toEqual([
      [
        'one',
        12,
        5,
        [
          ['a', 3],
          ['b', 2],
        ],
      ],
      ['two', 30, 5, [['a', 5]]],
    ]);
  });
});

describe('a step that became slower', () => {
  const history = [run('1', 'a', 4, 1), run('2', 'a', 5, 2), run('3', 'a', 6, 3)];

  it('is told once it took over half as long again, and over a minute more, than usual', () => {
    expect(slowdowns([...history, run('4', 'a', 8, 4)])).toEqual([{ identity: 'a', latest: 8, usual: 5 }]);
    expect(slowdowns([...history, run('4', 'a', 7.5, 4)])).toEqual([]);
    const quick = [1, 2, 3].map((n) => run(String(n), 'b', 1, n));
    expect(slowdowns([...quick, run('4', 'b', 2, 4)])).toEqual([]);
    expect(slowdowns([...quick, run('4', 'b', 2.1, 4)])).toHaveLength(1);
  });

  it('needs three runs before it, in whatever order they come', () => {
    expect(slowdowns([...history.slice(1), run('4', 'a', 20, 4)])).toEqual([]);
    expect(slowdowns([run('4', 'a', 20, 4), ...history])).toHaveLength(1);
  });
});

describe('minutes by step over builds', () => {
  const builds = buildRuns([
    run('1', 'os', 16, 1),
    run('1', 'restart-a', 3, 1),
    run('1', 'restart-b', 3, 1),
    run('1', 'script', 1, 1),
    run('2', 'updates', 14, 2),
    run('2', 'script', 2, 2),
    run('2', 'agent', 1, 2),
  ]);
  const nameOf = (identity: string) => identity.replace(/-.*/, '');

  it('stand longest first, runs of one name together, 0 where a step came from a checkpoint', () => {
    expect(stepSeries(builds, nameOf, 9)).toEqual([
      { name: 'os', minutes: [16, 0] },
      { name: 'updates', minutes: [0, 14] },
      { name: 'restart', minutes: [6, 0] },
      { name: 'script', minutes: [1, 2] },
      { name: 'agent', minutes: [0, 1] },
    ]);
  });

  it('beyond so many stand together, and nothing is lost', () => {
    const series = stepSeries(builds, nameOf, 3);
    expect(series.at(-1)).toEqual({ name: '2 shorter steps', minutes: [1, 3] });
    const all = series.flatMap((row) => row.minutes).reduce((sum, minutes) => sum + minutes, 0);
    expect(all).toBe(builds.reduce((sum, build) => sum + build.minutes, 0));
  });
});
