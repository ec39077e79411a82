import { describe, expect, it } from 'vitest';
import { layOutLineage, type LineageLine } from '../src/image/lineage.ts';

const line = (id: string, count: number, forkedFrom: string | null = null): LineageLine => ({
  id,
  name: id,
  forkedFrom,
  versions: Array.from({ length: count }, (_, i) => ({ id: `${id}${i + 1}`, number: i + 1, cutAt: i })),
});
const drawn = (lines: LineageLine[], atMost = 10) => {
  const { lanes, ...rest } = layOutLineage(lines, atMost);
  return {
    lanes: lanes.map((lane) => [
      lane.line.id,
      lane.versions.map((v) => `${v.version.id}@${v.column}`).join(' '),
    ]),
    ...rest,
  };
};

describe('lineage', () => {
  it('puts the newest of all lines under one another', () => {
    expect(drawn([line('a', 3), line('b', 1)])).toEqual({
      lanes: [
        ['a', 'a1@0 a2@1 a3@2'],
        ['b', 'b1@2'],
      ],
      forks: [],
      columns: 3,
    });
  });

  it('puts a fork below the line it came from, right of the version it began with', () => {
    expect(drawn([line('a', 3), line('b', 1), line('c', 2, 'a2')])).toEqual({
      lanes: [
        ['a', 'a1@0 a2@1 a3@2'],
        ['c', 'c1@2 c2@3'],
        ['b', 'b1@2'],
      ],
      forks: [{ from: { row: 0, column: 1 }, to: { row: 1, column: 2 } }],
      columns: 4,
    });
  });

  it('a fork without a version yet has an arrow to its place', () => {
    expect(drawn([line('a', 2), line('c', 0, 'a2')]).forks).toEqual([
      { from: { row: 0, column: 1 }, to: { row: 1, column: 2 } },
    ]);
  });

  it('shows the newest of many, and those that forks start from', () => {
    expect(drawn([line('a', 9), line('c', 1, 'a2')], 3).lanes[0]).toEqual(['a', 'a2@0 a7@1 a8@2 a9@3']);
  });

  it('shows lines that claim to come from one another, and from versions that are gone', () => {
    const rows = layOutLineage([line('a', 1, 'b1'), line('b', 1, 'a1'), line('c', 1, 'gone')], 5).lanes;
    expect(rows.map((lane) => lane.line.id).sort()).toEqual(['a', 'b', 'c']);
  });
});
