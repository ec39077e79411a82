import { describe, expect, it } from 'vitest';
import { namedPayload, parseBulkList } from '../src/package/bulk-list.ts';
import { must } from '../src/result.ts';

const columns = ['package', 'group', 'pool'] as const;

describe('a list', () => {
  it('is read by its heading, whatever its order', () => {
    const text =
      '\uFEFFPool;,package,Group,note\ndesk-staff,Pellam Reader,"Office, upstairs",x\n\npilot-bench,Cartolune,Maps\n';
    expect(must(parseBulkList(text.replace('Pool;', 'Pool'), columns))).toEqual([
      { line: 2, values: { package: 'Pellam Reader', group: 'Office, upstairs', pool: 'desk-staff' } },
      { line: 4, values: { package: 'Cartolune', group: 'Maps', pool: 'pilot-bench' } },
    ]);
  });
  it.each([
    ['', 'line 1', /package and group and pool are missing/],
    ['package,group\na,b', 'line 1', /pool is missing/],
    ['package,group,pool', 'line 2', /the list is empty/],
    ['package,group,pool\na,,c', 'line 2', 'has no group'],
    ['package,group,pool\na,"b', 'line 1', /cannot be read/],
  ])('%j is refused', (text, path, message) => {
    const read = parseBulkList(text, columns);
    const [fault] = read.ok ? [] : read.error;
    expect(fault?.path).toBe(path);
    expect(fault?.message).toMatch(message);
  });
});

describe('the name of a payload', () => {
  it.each([
    ['Marlstone Ledger 1.4.zip', 'Marlstone Ledger', '1.4'],
    ['marlstone_ledger-v2.0.1.tar.gz', 'marlstone ledger', '2.0.1'],
    ['setup.tgz', 'setup', '1'],
    ['Oak 24h.zip', 'Oak', '24h'],
  ])('%s', (file, name, version) => expect(namedPayload(file)).toEqual({ name, version }));
});
