import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareInventories, movedChange } from '../src/inventory/compare.ts';
import { compareSortedLines } from '../src/inventory/compare-sorted-lines.ts';
import { compareVersions, comparisonHeadline } from '../src/image/compare-versions.ts';
import { compareBytes, compareEntries, type Entry, type FileEntry } from '../src/inventory/entry.ts';
import { parseEntry, parseInventory, writeInventory } from '../src/inventory/text.ts';
import { must } from '../src/result.ts';

const file = (path: string, content = path, size = 10): FileEntry => ({
  kind: 'file',
  path,
  size,
  sha256: content,
  mode: '0644',
  modified: '2027-03-22T08:00:00Z',
});
const app = (name: string, version: string): Entry => ({
  kind: 'application',
  publisher: 'Tomewick',
  name,
  version,
  size: 5,
});
const header = { inventory: 1, root: '/', takenAt: '2027-03-22T08:00:00Z', caseSensitive: true } as const;

describe('inventory', () => {
  it('reads what it writes, sorted by kind and path in byte order', () => {
    const entries: Entry[] = [
      file('b'),
      { kind: 'folder', path: 'z' },
      file('B'),
      file('\u{1F600}'),
      file('\uFFFD'),
    ];
    const read = must(parseInventory(writeInventory(header, entries)));
    expect(read.entries.map((e) => ('path' in e ? e.path : ''))).toEqual([
      'B',
      'b',
      '\uFFFD',
      '\u{1F600}',
      'z',
    ]);
    expect(read.header).toEqual(header);
  });

  it('orders as the bytes do', () => {
    const property = fc.property(fc.string({ unit: 'binary' }), fc.string({ unit: 'binary' }), (a, b) => {
      expect(Math.sign(compareBytes(a, b))).toBe(Math.sign(Buffer.compare(Buffer.from(a), Buffer.from(b))));
    });
    fc.assert(property);
  });

  it.each([
    ['{"kind":"file","path":"a"', 'is not a JSON object'],
    ['[]', 'is not a JSON object'],
    ['{"kind":"gadget"}', 'has the unknown kind "gadget"'],
    [
      '{"kind":"file","path":"a","size":-1,"sha256":"","mode":"","modified":""}',
      '"size" is not a whole number',
    ],
    ['{"kind":"link","path":"a"}', 'without a text "target"'],
  ])('says what is wrong with line 7: %s', (text, message) => {
    const result = parseEntry(text, 7);
    expect(result.ok).toBe(false);
    if (!result.ok) expect(`${result.error[0]?.path} ${result.error[0]?.message}`).toMatch(`line 7 `);
    if (!result.ok) expect(result.error[0]?.message).toContain(message);
  });

  it('names the line of a whole inventory', () => {
    const result = parseInventory(`${JSON.stringify(header)}\n${JSON.stringify(file('a'))}\nnonsense\n`);
    expect(result.ok ? '' : result.error[0]?.path).toBe('line 3');
    expect(parseInventory('{}').ok).toBe(false);
  });
});

describe('comparison', () => {
  it('finds added, removed, changed with fields, and moved', () => {
    const before = [file('gone'), file('old/name.dll', 'X'), file('same'), file('touched', 'A')];
    const after = [
      file('new'),
      file('newer/name.dll', 'X'),
      file('same'),
      { ...file('touched', 'B'), size: 11 },
    ];
    const d = compareInventories(before, after, true);
    expect(d.added).toEqual([file('new')]);
    expect(d.removed).toEqual([file('gone')]);
    expect(d.changed.map((c) => c.fields)).toEqual([['sha256', 'size']]);
    expect(d.moved.map((m) => [m.from.path, m.to.path])).toEqual([['old/name.dll', 'newer/name.dll']]);
    expect(d.same).toBe(1);
  });
  it('D26: what moved and has another mode says both', () => {
    const d = compareInventories(
      [file('old/run', 'X'), file('old/kept', 'Y')],
      [{ ...file('new/run', 'X'), mode: '4755' }, file('new/kept', 'Y')],
      true,
    );
    expect(d.moved.map(movedChange)).toEqual(['', 'mode 0644 to 4755']);
  });

  it('a move uses each path once and prefers the longest common end', () => {
    const before = [file('a/one.dll', 'X'), file('a/two.dll', 'X')];
    const after = [file('b/two.dll', 'X'), file('c/other', 'X'), file('d/third', 'X')];
    const d = compareInventories(before, after, true);
    expect(d.moved.map((m) => [m.from.path, m.to.path])).toEqual([
      ['a/two.dll', 'b/two.dll'],
      ['a/one.dll', 'c/other'],
    ]);
    expect(d.added.map((e) => e.kind === 'file' && e.path)).toEqual(['d/third']);
  });

  it('empty files never count as moved', () => {
    const d = compareInventories([file('a', 'E', 0)], [file('b', 'E', 0)], true);
    expect([d.added.length, d.removed.length, d.moved.length]).toEqual([1, 1, 0]);
  });

  it('looks past case where the source does', () => {
    expect(compareInventories([file('A/B', 'X')], [file('a/b', 'X')], false).same).toBe(1);
    expect(compareInventories([file('A/B', 'X')], [file('a/b', 'X')], true).same).toBe(0);
  });

  /** Entries as lines, compared as files are. */
  const byLines = (before: readonly Entry[], after: readonly Entry[]) =>
    compareSortedLines(
      before.map((entry) => JSON.stringify(entry)),
      after.map((entry) => JSON.stringify(entry)),
      { same: (a, b) => a === b, parse: (line) => JSON.parse(line) as Entry },
    );

  it('tells that a stream is out of order, also behind lines that both have', () => {
    expect(byLines([file('b'), file('a')], [])).toMatchObject({ ok: false, error: [{ path: 'before' }] });
    const [a, b, c] = [file('a'), file('b'), file('c')];
    expect(byLines([a, c, b], [a, b, c])).toMatchObject({ ok: false, error: [{ path: 'before' }] });
    expect(byLines([a, b], [a, c, b])).toMatchObject({ ok: false, error: [{ path: 'after' }] });
  });

  it('lines in any order give what the entries give, or say that they are out of order', () => {
    const some = fc.uniqueArray(fc.tuple(fc.stringMatching(/^[a-d]{1,2}$/), fc.constantFrom('x', 'y')), {
      selector: ([path]) => path,
      maxLength: 8,
    });
    fc.assert(
      fc.property(some, some, (a, b) => {
        const [before, after] = [a.map(([p, c]) => file(p, c)), b.map(([p, c]) => file(p, c))];
        const streamed = byLines(before, after);
        if (!streamed.ok) return;
        const whole = compareInventories(before, after, true);
        const sorted = (list: readonly Entry[]) => [...list].sort(compareEntries);
        expect(sorted(streamed.value.added)).toEqual(sorted(whole.added));
        expect(sorted(streamed.value.removed)).toEqual(sorted(whole.removed));
        expect([streamed.value.changed.length, streamed.value.moved.length, streamed.value.same]).toEqual([
          whole.changed.length,
          whole.moved.length,
          whole.same,
        ]);
      }),
    );
  });

  it('loses nothing: every entry is in exactly one list', () => {
    const tree = fc.uniqueArray(fc.tuple(fc.stringMatching(/^[a-d]{1,3}$/), fc.constantFrom('x', 'y')), {
      selector: ([p]) => p,
    });
    const property = fc.property(tree, tree, (a, b) => {
      const [before, after] = [a.map(([p, c]) => file(p, c)), b.map(([p, c]) => file(p, c))];
      const d = compareInventories(before, after, true);
      expect(d.removed.length + d.changed.length + d.moved.length + d.same).toBe(before.length);
      expect(d.added.length + d.changed.length + d.moved.length + d.same).toBe(after.length);
      const inOrder = (list: Entry[]) => [...list].sort(compareEntries);
      expect(byLines(inOrder(before), inOrder(after))).toEqual({ ok: true, value: d });
      const back = compareInventories(after, before, true);
      expect(back.added.length).toBe(d.removed.length);
    });
    fc.assert(property);
  });

  it('of versions puts the figure first and does not mind dates', () => {
    const before = [app('Catalogue', '7.2'), { ...file('x'), modified: 'then' }];
    const after = [app('Catalogue', '7.3'), app('Reader', '9'), { ...file('x'), modified: 'now' }];
    const c = compareVersions(before, after);
    expect(comparisonHeadline(c)).toBe('1 application added, 1 application changed');
    expect(c.sizeChange).toBe(5);
    expect(comparisonHeadline(compareVersions(after, after))).toBe('Nothing differs');
  });
});
