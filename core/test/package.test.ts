import { describe, expect, it } from 'vitest';
import { compareInventories } from '../src/inventory/compare.ts';
import type { Entry } from '../src/inventory/entry.ts';
import { safePath } from '../src/container/safe-path.ts';
import {
  configDocument,
  digestHex,
  manifestDocument,
  packageManifestOf,
  parseDocument,
  tagOf,
  type Manifest,
} from '../src/container/oci/layout.ts';
import { differenceLeaves, differenceTree, visibleRows } from '../src/package/difference-tree.ts';
import { dropNoise } from '../src/package/noise.ts';
import { parseRegistryExport } from '../src/package/registry-export.ts';
import { findUpdaters } from '../src/package/updaters.ts';
import { must } from '../src/result.ts';

const file = (path: string, size = 100): Entry => ({
  kind: 'file',
  path,
  size,
  sha256: path,
  mode: '0644',
  modified: '',
});
const captured: Entry[] = [
  file('Program files/Zinnet/zinnet.exe', 2_400),
  file('Program files/Zinnet/locales/ga.pak', 50),
  file('Program files/Zinnet/updater/zinnet-update.exe', 10),
  file('System/Temp/setup-1.cab'),
  file('System/Prefetch/ZINNET.pf'),
  file('Users/packager/install.LOG'),
  { kind: 'service', name: 'ZinnetUpdate', start: 'automatic', image: 'zinnet-update.exe' },
  { kind: 'task', name: 'Zinnet nightly check', run: 'zinnet-update.exe', schedule: 'daily 03:10' },
  { kind: 'registry', key: 'Machine\\Software\\Zinnet', name: 'Channel', type: 'REG_SZ', value: 'steady' },
];

describe('noise', () => {
  it('drops what the machine writes by itself, with rule and reason', () => {
    const answer = must(dropNoise(compareInventories([], captured, false)));
    expect(answer.dropped.map((d) => d.rule).sort()).toEqual(['log', 'prefetch', 'temporary']);
    expect(answer.added).toHaveLength(6);
    expect(answer.dropped.every((d) => d.reason.length > 5)).toBe(true);
  });

  it('a rule of one’s own comes first and can keep', () => {
    const keep = { id: 'mine', action: 'keep', glob: 'System/Temp/**', reason: 'needed' } as const;
    const drop = {
      id: 'pak',
      action: 'drop',
      glob: '**/*.pak',
      kinds: ['file'],
      reason: 'languages',
    } as const;
    const answer = must(dropNoise(compareInventories([], captured, false), [keep, drop]));
    expect(answer.added.some((e) => 'path' in e && e.path.startsWith('System/Temp'))).toBe(true);
    expect(answer.dropped.find((d) => d.rule === 'pak')?.reason).toBe('languages');
  });
});

describe('updaters', () => {
  it('finds the service, the task and the program, and says how to switch each off', () => {
    expect(findUpdaters(captured).map((f) => f.remedy)).toEqual([
      'leave Program files/Zinnet/updater/zinnet-update.exe out of the container',
      'set service ZinnetUpdate to disabled',
      'disable task Zinnet nightly check',
    ]);
  });
});

describe('difference tree', () => {
  const answer = must(dropNoise(compareInventories([], captured, false)));
  it('sums entries and bytes upwards and opens branch by branch', () => {
    const tree = differenceTree(differenceLeaves(answer, 'kept'));
    const closed = visibleRows(tree, () => false).map((n) => [n.label, n.entries, n.bytes]);
    expect(closed).toEqual([
      ['Program files', 3, 2_460],
      ['Registry', 1, 0],
      ['Scheduled tasks', 1, 0],
      ['Services', 1, 0],
    ]);
    expect(visibleRows(tree, () => true)).toHaveLength(16);
  });
});

describe('registry export', () => {
  it('reads strings, numbers, several strings and continued bytes', () => {
    const text = [
      'Windows Registry Editor Version 5.00',
      '',
      '[Machine\\Software\\Quaybolt]',
      '@="main"',
      '"Path"="C:\\\\Quaybolt \\"5\\""',
      '"Count"=dword:0000001f',
      '"List"=hex(7):61,00,00,00,62,00,00,00,00,00',
      '"Raw"=hex:01,02,\\',
      '  03,ff',
      '[-Machine\\Software\\Gone]',
      '"Left"="over"',
    ].join('\r\n');
    expect(must(parseRegistryExport(text.split('\n'))).map((e) => [e.name, e.type, e.value])).toEqual([
      ['', 'REG_SZ', 'main'],
      ['Path', 'REG_SZ', 'C:\\Quaybolt "5"'],
      ['Count', 'REG_DWORD', '31'],
      ['List', 'REG_MULTI_SZ', 'a\nb'],
      ['Raw', 'REG_BINARY', '0102 03ff'.replace(' ', '')],
    ]);
  });
  it('names the bad line', () => {
    const bad = parseRegistryExport(['REGEDIT4', '', '[A]', '"x"=what']);
    expect(bad.ok ? '' : bad.error[0]?.path).toBe('line 4');
    expect(parseRegistryExport(['hello']).ok).toBe(false);
    expect(parseRegistryExport([]).ok).toBe(false);
  });
  it('reads the older form by the code page, strings over several lines, and names whatever their case', () => {
    const lines = [
      'REGEDIT4',
      '[Machine\\Software\\Quaybolt]',
      '"Path"=hex(2):25,54,45,4d,50,25,5c,e9,00',
      '"List"=hex(7):61,00,62,00,00',
      '"Note"="first line',
      'second "line\\" of it',
      'third"',
      '"NOTE"="said later"',
      '[MACHINE\\software\\quaybolt]',
      '"path"="last"',
    ];
    const lower = lines.slice(0, 7).map((line, i) => (i === 5 ? 'second \\"line of it' : line));
    expect(must(parseRegistryExport(lower)).map((e) => [e.name, e.value])).toEqual([
      ['Path', '%TEMP%\\é'],
      ['List', 'a\nb'],
      ['Note', 'first line\nsecond "line of it\nthird'],
    ]);
    const names = must(parseRegistryExport([...lower, ...lines.slice(7)])).map((e) => [e.name, e.value]);
    expect(names).toEqual([
      ['path', 'last'],
      ['List', 'a\nb'],
      ['NOTE', 'said later'],
    ]);
  });
});

describe('paths from archives', () => {
  it.each(['../a', 'a/../../b', '/etc/x', '', '.', 'a\0b', 'a/'.repeat(2_100) + 'b', 'é'.repeat(2_100)])(
    'refuses %j',
    (path) => {
      expect(safePath(path).ok).toBe(false);
    },
  );
  it('tidies the rest and keeps names as they are', () => {
    expect(must(safePath('./a//b/'))).toBe('a/b');
    expect(must(safePath('a/b\\c'))).toBe('a/b\\c');
    expect(must(safePath('C:foo'))).toBe('C:foo');
  });
});

describe('OCI documents', () => {
  const manifest = {
    name: 'Zinnet Browser',
    version: '141.0',
    publisher: 'Zinnet',
    entryPoints: [{ name: 'Zinnet', path: 'zinnet.exe' }],
  };
  it('carries the package in annotations and reads it back', () => {
    const blob = { digest: `sha256:${'a'.repeat(64)}`, size: 3 };
    const text = manifestDocument(blob, blob, 0, manifest);
    expect(packageManifestOf(must(parseDocument<Manifest>('manifest', text)))).toEqual(manifest);
    expect(JSON.parse(configDocument('sha256:x', 0, manifest))).toMatchObject({
      created: '1970-01-01T00:00:00Z',
      rootfs: { diff_ids: ['sha256:x'] },
    });
  });
  it('refuses other shapes and digests that could name a path', () => {
    expect(parseDocument('index', '{"manifests":[]}').ok).toBe(false);
    expect(parseDocument('manifest', 'x').ok).toBe(false);
    expect(digestHex('sha256:../../etc/passwd').ok).toBe(false);
  });
  it('makes a tag of any version', () => {
    expect([tagOf('141.0 beta'), tagOf('-1'), tagOf('§')]).toEqual(['141.0-beta', '1', 'latest']);
  });
});
