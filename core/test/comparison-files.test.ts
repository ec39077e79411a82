import { parse } from 'csv-parse/sync';
import { describe, expect, it } from 'vitest';
import { compareVersions } from '../src/image/compare-versions.ts';
import { comparisonCsv, comparisonJson } from '../src/image/comparison-files.ts';
import type { Entry } from '../src/inventory/entry.ts';

const file = (path: string, size: number, digit: string, modified = '2027-01-01T00:00:00Z'): Entry => ({
  kind: 'file',
  path,
  size,
  sha256: digit.repeat(64),
  mode: '0644',
  modified,
});
const value = (name: string, text: string): Entry => ({
  kind: 'registry',
  key: 'K',
  name,
  type: 'REG_SZ',
  value: text,
});
const before = [
  file('a', 10, 'a'),
  file('old/b', 20, 'b'),
  file('gone', 5, 'c'),
  file('dated', 1, 'd'),
  value('x', '1'),
];
const after = [
  file('a', 14, 'e'),
  file('new/b', 20, 'b'),
  file('come', 8, 'f'),
  file('dated', 1, 'd', '2030-01-01T00:00:00Z'),
  value('x', '=cmd()'),
];

describe('a comparison', () => {
  const comparison = compareVersions(before, after);
  const files = comparison.groups.find((group) => group.kind === 'file');

  it('tells what moved apart, leaves dates out, and adds bytes up by kind', () => {
    expect(files?.items.map((item) => [item.change, item.name, item.bytes])).toEqual([
      ['changed', 'a', 4],
      ['added', 'come', 8],
      ['removed', 'gone', -5],
      ['moved', 'new/b', 0],
    ]);
    expect([files?.bytes, files?.same, comparison.sizeChange]).toEqual([7, 1, 7]);
  });

  it('tells the sizes of what has one, before and after, and the digests apart from them', () => {
    expect(files?.items.map(({ before: was, after: is, sizes }) => [was, is, sizes])).toEqual([
      ['aaaaaaaa', 'eeeeeeee', [10, 14]],
      ['', 'ffffffff', [null, 8]],
      ['cccccccc', '', [5, null]],
      ['old/b', 'new/b', [20, 20]],
    ]);
    const registry = comparison.groups.find((group) => group.kind === 'registry');
    expect(registry?.items[0]?.sizes).toEqual([null, null]);
  });

  it('counts entries that were known to be the same beforehand', () => {
    const more = compareVersions(before, after, new Map([['driver', 24]]));
    expect(more.groups.find((group) => group.kind === 'driver')?.same).toBe(24);
    expect(more.equal).toBe(false);
  });

  it('as CSV has a row a difference, whatever the names hold', () => {
    const odd = compareVersions([], [file('a "quoted", name\nin two lines', 3, 'a')]);
    const rows = parse(comparisonCsv(odd), { columns: true }) as Record<string, string>[];
    expect(rows).toMatchObject([
      { kind: 'file', change: 'added', name: 'a "quoted", name\nin two lines', bytes: '3' },
    ]);
    expect(comparisonCsv(comparison).split('\r\n')[0]).toBe(
      'kind,change,name,before,after,size before,size after,bytes',
    );
    expect(comparisonCsv(comparison).split('\r\n')).toHaveLength(1 + 5 + 1);
  });

  it('as CSV holds no formula that a spreadsheet would run', () => {
    const rows = parse(comparisonCsv(comparison), { columns: true }) as Record<string, string>[];
    expect(rows.find((row) => row['kind'] === 'registry')?.['after']).toBe("'=cmd()");
  });

  it('as JSON names both sides and leaves out kinds that neither has', () => {
    const document = JSON.parse(comparisonJson('version:1', 'machine:2', comparison)) as {
      from: string;
      to: string;
      groups: { kind: string }[];
    };
    expect([document.from, document.to]).toEqual(['version:1', 'machine:2']);
    expect(document.groups.map((group) => group.kind)).toEqual(['registry', 'file']);
  });
});
