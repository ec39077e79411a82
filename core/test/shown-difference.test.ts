import { describe, expect, it } from 'vitest';
import { compareInventories } from '../src/inventory/compare.ts';
import { compareEntries, type Entry } from '../src/inventory/entry.ts';
import { dropNoise } from '../src/package/noise.ts';
import { proposedRules } from '../src/package/rule-effect.ts';
import {
  ShownDifference,
  type DifferenceQuestion,
  type DifferenceRow,
} from '../src/package/shown-difference.ts';
import { must } from '../src/result.ts';

const file = (path: string, size = 10): Entry => ({
  kind: 'file',
  path,
  size,
  sha256: path.padEnd(64, '0'),
  mode: '0644',
  modified: '2027-03-22T08:00:00Z',
});
const entries: Entry[] = [
  file('Program files/Zinnet/help/a.txt', 100),
  file('Program files/Zinnet/help/b.txt', 200),
  file('Program files/Zinnet/zinnet.exe', 5000),
  {
    kind: 'service',
    name: 'ZinnetUpdate',
    start: 'auto',
    image: 'u.exe',
  },
  file('Users/sam/AppData/Local/Temp/left.tmp', 7),
];
const captured = entries.sort(compareEntries);

const opened = () =>
  new ShownDifference(must(dropNoise(compareInventories([], captured, false))), [
    { name: 'Zinnet 141', entries: ['file Program files/Zinnet/zinnet.exe'] },
  ]);
const asking = (change: Partial<DifferenceQuestion> = {}): DifferenceQuestion => ({
  view: 'kept',
  filter: {},
  arrangement: 'tree',
  toggled: [],
  ...change,
});
const told = (row: DifferenceRow) =>
  row.kind === 'branch'
    ? `${row.isClosed ? '+' : '-'} ${row.label} ${row.entries} ${row.bytes}`
    : `${row.label} ${row.entryClass}${row.owner ? ` of ${row.owner}` : ''}`;
const rowsOf = (shown: ShownDifference, question: DifferenceQuestion) =>
  shown.rows(0, shown.ask(question).rows).map(told);

describe('a difference that somebody looks at', () => {
  it('opens with its outermost branches, each with what is in it', () => {
    expect(rowsOf(opened(), asking())).toEqual([
      '- Program files 3 5300',
      '+ Zinnet 3 5300',
      '- Services 1 0',
      'ZinnetUpdate updater',
    ]);
  });
  it('opens and closes branches, and tells class and owner of a row', () => {
    const shown = opened();
    const toggled = ['/:Program files/:Zinnet', '/:Services'];
    expect(rowsOf(shown, asking({ toggled }))).toEqual([
      '- Program files 3 5300',
      '- Zinnet 3 5300',
      '+ help 2 300',
      'zinnet.exe program file of Zinnet 141',
      '+ Services 1 0',
    ]);
  });
  it('filtered to few, everything is open', () => {
    expect(rowsOf(opened(), asking({ filter: { text: 'a.txt' } }))).toEqual([
      '- Program files 1 100',
      '- Zinnet 1 100',
      '- help 1 100',
      'a.txt program file',
    ]);
  });
  it('as a list, gives a part of it; counts are of the whole, whatever is asked for', () => {
    const shown = opened();
    const answer = shown.ask(asking({ arrangement: 'list', filter: { kind: 'file' } }));
    expect(answer).toMatchObject({ rows: 3, counts: { kept: 4, times: 0, dropped: 1 } });
    expect(answer.facets.kinds).toEqual([
      { value: 'file', count: 3 },
      { value: 'service', count: 1 },
    ]);
    expect(shown.rows(1, 3).map((row) => row.label)).toEqual([
      'Program files/Zinnet/help/b.txt',
      'Program files/Zinnet/zinnet.exe',
    ]);
    expect(shown.rows(3, 9)).toEqual([]);
  });
  it('D26: what changed in its time only is a view of its own, and hides nothing', () => {
    const later = captured.map((entry) =>
      'modified' in entry ? { ...entry, modified: '2027-03-23T08:00:00Z' } : entry,
    );
    const [first, ...rest] = later;
    if (first?.kind !== 'file') throw new Error('files sort first');
    const after = [{ ...first, sha256: 'f'.repeat(64) }, ...rest];
    const shown = new ShownDifference(must(dropNoise(compareInventories(captured, after, false))), []);
    const answer = shown.ask(asking({ arrangement: 'list' }));
    expect(answer.counts).toEqual({ kept: 1, times: 2, dropped: 1 });
    expect(shown.rows(0, 9)).toMatchObject([{ label: first.path, leaf: { note: 'sha256, modified' } }]);
    shown.ask(asking({ view: 'times', arrangement: 'list' }));
    expect(shown.rows(0, 9).map((row) => row.kind === 'leaf' && row.leaf.note)).toEqual([
      'modified',
      'modified',
    ]);
  });
  it('the dropped rows are another view', () => {
    const shown = opened();
    shown.ask(asking());
    expect(shown.ask(asking({ view: 'dropped', arrangement: 'list' })).rows).toBe(1);
    expect(shown.rows(0, 1)).toMatchObject([{ leaf: { rule: expect.any(String) as string } }]);
  });
});

describe('rules that a row could become', () => {
  it('say how many rows they take, and which others', () => {
    const shown = opened();
    shown.ask(asking({ arrangement: 'list', filter: { text: 'a.txt' } }));
    const [row] = shown.rows(0, 1);
    if (row?.kind !== 'leaf') throw new Error('a list has leaves only');
    expect(proposedRules(shown.comparison, row.leaf)).toEqual([
      { label: 'this alone', glob: 'Program files/Zinnet/help/a.txt', taken: 1, others: [] },
      {
        label: 'every .txt in help',
        glob: 'Program files/Zinnet/help/*.txt',
        taken: 2,
        others: ['Program files/Zinnet/help/b.txt'],
      },
      {
        label: 'all in Program files/Zinnet/help',
        glob: 'Program files/Zinnet/help/**',
        taken: 2,
        others: ['Program files/Zinnet/help/b.txt'],
      },
      expect.objectContaining({ label: 'all in Program files/Zinnet', taken: 3 }),
      expect.objectContaining({ label: 'all in Program files', taken: 3 }),
      expect.objectContaining({ label: 'every .txt', taken: 2 }),
    ]);
  });
});
