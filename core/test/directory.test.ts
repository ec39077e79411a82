import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  canonicalName,
  isWithin,
  nameKey,
  parentOf,
  readDistinguishedName,
  writeDistinguishedName,
  type DistinguishedName,
} from '../src/directory/distinguished-name.ts';
import { readLdif, writeLdif } from '../src/directory/ldif.ts';
import { missingRights, rightsIn } from '../src/directory/rights.ts';
import { must } from '../src/result.ts';

const name = (text: string) => must(readDistinguishedName(text));
const fault = (text: string) => {
  const read = readDistinguishedName(text);
  return read.ok ? 'read' : read.error[0]?.message;
};

describe('distinguished names', () => {
  it.each([
    ['OU=Desks,OU=Hosts,DC=wrenfield,DC=example', 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example'],
    ['ou = Desks , ou=Hosts; dc=wrenfield,dc=example', 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example'],
    ['2.5.4.11=Desks,0.9.2342.19200300.100.1.25=x', 'OU=Desks,DC=x'],
    ['oid.2.5.4.11=Desks,DC=x', 'OU=Desks,DC=x'],
    ['OU="Desks, north",DC=x', 'OU=Desks\\, north,DC=x'],
    ['OU=Desks\\2C north,DC=x', 'OU=Desks\\, north,DC=x'],
    ['OU=#04054465736b73,DC=x', 'OU=Desks,DC=x'],
    ['OU=a+CN=b,DC=x', 'OU=a+CN=b,DC=x'],
    ['OU=two  words\\ ,DC=x', 'OU=two  words\\ ,DC=x'],
    ['OU=\\ first,DC=x', 'OU=\\ first,DC=x'],
    ['OU=\\#7,DC=x', 'OU=\\#7,DC=x'],
    // The example of RFC 4514, section 4.
    ['SN=Lu\\C4\\8Di\\C4\\87', 'SN=Lučić'],
    ['OU=Mal\\"ta,DC=x', 'OU=Mal\\"ta,DC=x'],
  ])('%s is kept as %s', (text, kept) => expect(must(canonicalName(text))).toBe(kept));

  it.each([
    ['', 'is empty'],
    ['OU', 'has no "=" behind OU'],
    ['OU=,DC=x', 'has nothing behind OU='],
    ['OU=a,,DC=x', 'has ",DC=x" where a part such as OU=Desks should be'],
    ['OU=a,', 'ends where another part should be'],
    ['=a', 'has "=a" where a part such as OU=Desks should be'],
    ['OU=a<b', 'has a < that needs a \\ before it'],
    ['OU="a', 'has a quotation mark that is never closed'],
    ['OU="a"b,DC=x', 'has "b" where a comma should be'],
    ['OU=a\\', 'ends in, or has, a \\ with nothing to escape'],
    ['OU=a\\C4', 'has bytes that are no UTF-8'],
    ['OU=#0402ab', 'has a # value whose length is not that of its bytes'],
  ])('%s is refused: %s', (text, why) => expect(fault(text)).toBe(why));

  it('of over 2,000 characters are refused', () =>
    expect(fault(`OU=${'a'.repeat(2_000)}`)).toBe('has over 2,000 characters'));

  it('are the same in any case and order of joined parts, and know what lies below', () => {
    expect(nameKey(name('OU=Desks,DC=X'))).toBe(nameKey(name('ou=desks, dc=x')));
    expect(nameKey(name('OU=a+CN=b'))).toBe(nameKey(name('cn=B+ou=A')));
    expect(isWithin(name('OU=Desks,OU=Hosts,DC=x'), name('ou=hosts,dc=x'))).toBe(true);
    expect(isWithin(name('OU=Hosts,DC=x'), name('OU=Desks,OU=Hosts,DC=x'))).toBe(false);
    expect(parentOf(name('DC=x'))).toBeUndefined();
  });

  it('come back from what is written of them, whatever their values hold', () => {
    const value = fc
      .string({ unit: 'binary', minLength: 1, maxLength: 30 })
      .filter((text) => text.isWellFormed());
    const part = fc.record({ attribute: fc.constantFrom('OU', 'CN', 'DC', '1.2.840.1'), value });
    const levels = fc.array(fc.array(part, { minLength: 1, maxLength: 2 }), { minLength: 1, maxLength: 5 });
    fc.assert(
      fc.property(levels, (levels: DistinguishedName) => {
        expect(name(writeDistinguishedName(levels))).toEqual(levels);
      }),
    );
  });
});

describe('LDIF', () => {
  it('is read with its version, comments, continuations, base64 and empty values', () => {
    const text = [
      'version: 1',
      '# people',
      '',
      'dn: CN=Una Tarn,DC=x',
      'objectClass: top',
      'objectclass: person',
      'description: a long ',
      ' text that goes on',
      'cn:: VW5hIFRhcm4=',
      'note:',
      '',
      '',
      'dn:: T1U9TMO8LERDPXg=',
      'photo:: /9g=',
      '',
    ].join('\r\n');
    const [person, unit] = records(text);
    expect(person).toEqual({
      dn: 'CN=Una Tarn,DC=x',
      line: 4,
      attributes: [
        ['objectClass', 'top'],
        ['objectclass', 'person'],
        ['description', 'a long text that goes on'],
        ['cn', 'Una Tarn'],
        ['note', ''],
      ],
    });
    expect(unit?.dn).toBe('OU=Lü,DC=x');
    expect(unit?.attributes[0]?.[1]).toEqual(Uint8Array.of(0xff, 0xd8));
  });

  it.each([
    ['dn: DC=x\nchangetype: delete\n', 2, 'is a change record; export the entries themselves'],
    ['dn: DC=x\njpegPhoto:< file:///tmp/a\n', 2, 'points to another file, which is not read'],
    ['dn: DC=x\ncn:: !!!\n', 2, 'is not base64'],
    ['dn: DC=x\n\ncn: a\n', 3, 'begins with cn; a record begins with its dn'],
    ['dn: DC=x\nno colon here\n', 2, 'is not an attribute, a colon and a value'],
    ['version: 2\ndn: DC=x\n', 1, 'is 2; only version 1 is known'],
    [' goes on\n', 1, 'continues a line, but there is none before it'],
  ])('%j is refused at its line', (text, line, message) => {
    const read = readLdif(text);
    expect(read.ok ? [] : read.error[0]).toMatchObject({ line, message });
  });

  it('tells at most fifty faults of a file that is none', () => {
    const read = readLdif('nothing\n\n'.repeat(10_000));
    expect(read.ok ? 0 : read.error.length).toBe(50);
  });

  it('comes back from what is written, in lines of at most 76', () => {
    const value = fc.oneof(
      fc.string({ unit: 'binary', maxLength: 200 }).filter((text) => text.isWellFormed()),
      fc.string({ maxLength: 200 }),
    );
    const pair = fc.tuple(fc.stringMatching(/^[a-z][a-zA-Z0-9-]{0,10}$/).filter(isNoControl), value);
    const record = fc.record({ dn: value, attributes: fc.array(pair, { maxLength: 5 }) });
    fc.assert(
      fc.property(fc.array(record, { maxLength: 4 }), (written) => {
        const text = writeLdif(written);
        expect(Math.max(...text.split('\n').map((line) => line.length))).toBeLessThanOrEqual(76);
        expect(records(text).map(({ dn, attributes }) => ({ dn, attributes }))).toEqual(written);
      }),
    );
  });

  function records(text: string) {
    const read = readLdif(text);
    if (!read.ok) throw new Error(JSON.stringify(read.error));
    return read.value;
  }
  const isNoControl = (name: string) => !['changetype', 'control', 'version'].includes(name.toLowerCase());
});

describe('rights in a unit', () => {
  const hosts = 'OU=Hosts,DC=x';
  const desks = 'OU=Desks,OU=Hosts,DC=x';
  const given = [
    { unit: desks, account: 'join-desks', right: 'create computers' },
    { unit: 'ou=hosts,dc=x', account: 'join-all', right: 'create computers' },
    { unit: hosts, account: 'join-all', right: 'delete computers' },
  ] as const;
  it('hold below where they were given, and nowhere else', () => {
    expect(rightsIn(desks, 'join-all', given)).toHaveLength(2);
    expect(rightsIn(desks, 'join-desks', given)).toEqual([{ right: 'create computers', givenOn: desks }]);
    expect(rightsIn(hosts, 'join-desks', given)).toEqual([]);
  });
  it('are missing until both are there', () => {
    expect(missingRights(rightsIn(desks, 'join-desks', given))).toEqual(['delete computers']);
    expect(missingRights(rightsIn(desks, 'join-all', given))).toEqual([]);
  });
});
