import { describe, expect, it } from 'vitest';
import { planDelta } from '../src/image/delta.ts';
import type { Entry } from '../src/inventory/entry.ts';

const file = (path: string, content = 'a', size = 10): Entry => ({
  kind: 'file',
  path,
  size,
  sha256: content.repeat(64).slice(0, 64),
  mode: '0644',
  modified: '2027-01-01T00:00:00Z',
});
const puts = (before: Entry[], after: Entry[]) =>
  planDelta(before, after).puts.map((entry) => `${entry.kind} ${entry.path}`);

describe('a delta', () => {
  it('puts what is new or changed, with the folders that are new, and hides what is gone', () => {
    const before = [file('a/keep'), file('a/change'), file('a/gone', 'a', 7)];
    const after = [file('a/keep'), file('a/change', 'b', 12), file('b/c/new', 'c', 5)];
    const delta = planDelta(before, after);
    expect(delta.puts.map((entry) => `${entry.kind} ${entry.path}`)).toEqual([
      'file a/change',
      'folder b',
      'folder b/c',
      'file b/c/new',
    ]);
    expect(delta).toMatchObject({ whiteouts: ['a/.wh.gone'], putBytes: 17, removedBytes: 7 });
  });

  it('hides a whole folder once, not each thing in it', () => {
    expect(planDelta([file('x/y/1'), file('x/y/2'), file('x/z')], [file('x/z')]).whiteouts).toEqual([
      'x/.wh.y',
    ]);
    expect(planDelta([file('x/y/1')], []).whiteouts).toEqual(['.wh.x']);
  });

  it('a file where a folder was needs no whiteout below it, and the other way round', () => {
    expect(planDelta([file('x/1')], [file('x')])).toMatchObject({
      puts: [{ kind: 'file', path: 'x' }],
      whiteouts: [],
    });
    expect(puts([file('x')], [file('x/1')])).toEqual(['folder x', 'file x/1']);
  });

  it('looks at links by target and at files by digest, size and mode, not by date', () => {
    const link = (target: string): Entry => ({ kind: 'link', path: 'l', target });
    expect(puts([link('a')], [link('b')])).toEqual(['link l']);
    expect(puts([file('f')], [{ ...file('f'), modified: '2030-01-01T00:00:00Z' } as Entry])).toEqual([]);
    expect(puts([file('f')], [{ ...file('f'), mode: '0755' } as Entry])).toEqual(['file f']);
  });

  it('leaves settings to others', () => {
    const service: Entry = { kind: 'service', name: 's', start: 'manual', image: 'i' };
    expect(planDelta([], [service])).toMatchObject({ puts: [], whiteouts: [] });
  });
});
