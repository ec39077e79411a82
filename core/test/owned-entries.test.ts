import { describe, expect, it } from 'vitest';
import type { ApplicationEntry, Entry } from '../src/inventory/entry.ts';
import { ownersOf } from '../src/image/owned-entries.ts';

const application = (name: string): ApplicationEntry => ({
  kind: 'application',
  publisher: 'P',
  name,
  version: '1',
  size: 0,
});
const file = (path: string): Entry => ({
  kind: 'file',
  path,
  size: 1,
  sha256: 'a'.repeat(64),
  mode: '0644',
  modified: '2027-01-01T00:00:00Z',
});
const [reader, tools] = [application('Pellam Reader'), application('Tools')];
const ownerOf = (entry: Entry) => ownersOf([entry], [reader, tools]).get(entry)?.name;

describe('what belongs to an application', () => {
  it.each<[Entry, string | undefined]>([
    [reader, 'Pellam Reader'],
    [file('Program files/Pellam Reader/help/de.txt'), 'Pellam Reader'],
    [file('program FILES/pellam reader/x'), 'Pellam Reader'],
    [file('Program files/Pellam Reader/Tools/x'), 'Pellam Reader'],
    [file('Pellam Reader'), undefined],
    [file('System/Pellam Reader.dll'), undefined],
    [{ kind: 'service', name: 's', start: 'manual', image: 'Program files\\Tools\\t.exe' }, 'Tools'],
    [{ kind: 'task', name: 't', run: 'Program files/Tools/t.exe', schedule: 'daily' }, 'Tools'],
    [{ kind: 'shortcut', path: 'Users/All/Desktop/T', target: 'Program files/Tools/t.exe' }, 'Tools'],
    [{ kind: 'folder', path: 'Program files/Tools' }, 'Tools'],
    [{ kind: 'registry', key: 'Machine\\Tools', name: 'x', type: 'REG_SZ', value: '' }, undefined],
  ])('%o', (entry, owner) => {
    expect(ownerOf(entry)).toBe(owner);
  });
});
