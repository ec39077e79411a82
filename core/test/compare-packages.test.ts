import { describe, expect, it } from 'vitest';
import type { Entry } from '../src/inventory/entry.ts';
import { billOfMaterials, filesOfBom } from '../src/container/bill-of-materials.ts';
import { comparePackages, type PackageContent } from '../src/package/compare-packages.ts';

const file = (path: string, size: number, sha256: string): Entry => ({
  kind: 'file',
  path,
  size,
  sha256,
  mode: '',
  modified: '',
});
const content = (
  version: string,
  entries: Entry[],
  change: Partial<PackageContent> = {},
): PackageContent => ({
  version,
  entries,
  entryPoints: [{ name: 'Open', path: 'a.exe' }],
  contentBytes: 1_000,
  containerBytes: 500,
  ...change,
});

describe('two versions of a package', () => {
  const before = content('1', [file('a.exe', 600, 'a1'), file('b.dll', 200, 'b'), file('old.txt', 50, 'o')]);
  const after = content(
    '2',
    [
      file('a.exe', 640, 'a2'),
      file('lib/b.dll', 200, 'b'),
      file('copy-1', 80, 'c'),
      file('copy-2', 80, 'c'),
      { kind: 'service', name: 'Till', start: 'automatic', image: 'a.exe' },
    ],
    {
      entryPoints: [
        { name: 'Open', path: 'a.exe', arguments: '-n' },
        { name: 'Help', path: 'h.exe' },
      ],
    },
  );
  const comparison = comparePackages(before, after);

  it('names what came, went, changed and moved', () => {
    expect(comparison.added).toHaveLength(3);
    expect(comparison.removed.map((entry) => entry.kind === 'file' && entry.path)).toEqual(['old.txt']);
    expect(comparison.changed.map((row) => row.fields)).toEqual([['sha256', 'size']]);
    expect(comparison.moved.map((row) => row.to.path)).toEqual(['lib/b.dll']);
    expect(comparison.entryPoints).toEqual({ added: ['Help'], removed: [], changed: ['Open'] });
  });
  it('an update fetches new content once: 640 + 80 bytes, half of that compressed', () => {
    expect(comparison.update).toEqual({ wholeBytes: 500, newBytes: 720, deltaBytes: 360 });
  });
  it('from nothing, it is the whole container at most', () => {
    expect(comparePackages(content('0', []), after).update).toMatchObject({ newBytes: 920, deltaBytes: 460 });
    const incompressible = { ...after, containerBytes: 90, contentBytes: 100 };
    expect(comparePackages(content('0', []), incompressible).update.deltaBytes).toBe(90);
  });
});

describe('a bill of materials', () => {
  it('gives its files back, with sizes; of others, without', () => {
    const files = [{ path: 'a', size: 12, sha256: 'x' }];
    expect(filesOfBom(billOfMaterials({ name: 'n', version: '1', publisher: 'p' }, files))).toEqual(files);
    expect(filesOfBom('{"components":[{"type":"file","name":"b"},{"type":"library","name":"c"}]}')).toEqual([
      { path: 'b', size: 0, sha256: '' },
    ]);
    expect(filesOfBom('no')).toEqual([]);
  });
});
