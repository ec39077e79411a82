import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bomFaults } from './bom-faults.ts';
import { compareBoms, readBom } from '../src/image/compare-boms.ts';
import { findApplications, readQuestion } from '../src/image/find-applications.ts';
import type { Entry } from '../src/inventory/entry.ts';
import { genericPurl, versionBom, type BomSubject } from '../src/image/version-bom.ts';
import { must } from '../src/result.ts';

const file = (path: string, digit = 'a'): Entry => ({
  kind: 'file',
  path,
  size: 1,
  sha256: digit.repeat(64),
  mode: '0644',
  modified: '2027-01-01T00:00:00Z',
});
const application = (name: string, version: string, publisher = 'Pellam'): Entry => ({
  kind: 'application',
  publisher,
  name,
  version,
  size: 0,
});
const entries: Entry[] = [
  application('Pellam Reader', '9.0'),
  application('Bare', '1', ''),
  { kind: 'update', name: '2027-03-quality', title: 'Quality update 2027-03' },
  { kind: 'driver', name: 'Disk', version: '24.1' },
  { kind: 'certificate', store: 'trusted roots', subject: 'CN=County', sha256: 'c'.repeat(64) },
  file('Program files/Pellam Reader/reader.exe'),
  file('Program files/Pellam Reader/help/de.txt', 'b'),
  file('System/lib1.dll'),
];
const subject: BomSubject = {
  line: 'Staff multi-session',
  number: 15,
  cutAt: Date.UTC(2027, 2, 20),
  licenceOf: (_publisher, name) => (name === 'Pellam Reader' ? 'Pellam county licence' : undefined),
};

describe('a bill of materials of a version', () => {
  it('is valid CycloneDX 1.6 by the published schema', async () => {
    expect(await bomFaults(JSON.stringify(versionBom(subject, entries)))).toBeNull();
    expect(await bomFaults(JSON.stringify(versionBom(subject, [])))).toBeNull();
    // The validator does find faults.
    const broken = { ...versionBom(subject, entries), serialNumber: 'urn:uuid:no' };
    expect(await bomFaults(JSON.stringify(broken))).not.toBeNull();
  });

  it('names applications with publisher, purl, licence and the digests of their files', () => {
    const [reader, bare] = versionBom(subject, entries).components;
    expect(reader).toMatchObject({
      type: 'application',
      name: 'Pellam Reader',
      version: '9.0',
      publisher: 'Pellam',
      purl: 'pkg:generic/Pellam/Pellam%20Reader@9.0',
      licenses: [{ license: { name: 'Pellam county licence' } }],
      components: [
        { name: 'Program files/Pellam Reader/reader.exe', hashes: [{ content: 'a'.repeat(64) }] },
        { name: 'Program files/Pellam Reader/help/de.txt' },
      ],
    });
    expect(bare).toMatchObject({ purl: 'pkg:generic/Bare@1', components: [] });
    expect(bare).not.toHaveProperty('licenses');
  });

  it('counts the files that belong to no application', () => {
    expect(versionBom(subject, entries).metadata.properties).toEqual([
      { name: 'vatline:files', value: '3' },
      { name: 'vatline:files-of-no-application', value: '1' },
    ]);
  });

  it('is the same for the same content, and numbered otherwise for another', () => {
    expect(versionBom(subject, entries)).toEqual(versionBom(subject, [...entries]));
    const other = versionBom(subject, [application('Pellam Reader', '9.1')]);
    expect(other.serialNumber).not.toBe(versionBom(subject, entries).serialNumber);
  });

  it('is valid whatever names there are', async () => {
    const text = fc.string({ minLength: 1, unit: 'grapheme' });
    await fc.assert(
      fc.asyncProperty(text, text, text, async (publisher, name, version) => {
        const bom = versionBom(subject, [application(name, version, publisher)]);
        expect(await bomFaults(JSON.stringify(bom))).toBeNull();
      }),
      { numRuns: 60 },
    );
  });
});

describe('two bills of materials', () => {
  const bom = (list: Entry[]) => must(readBom(JSON.stringify(versionBom(subject, list))));

  it('differ by what was added, removed, changed in version or in content', () => {
    const before = [application('A', '1'), application('B', '1'), application('C', '1'), file('C/c.exe')];
    const after = [application('A', '2'), application('C', '1'), application('D', '1'), file('C/c.exe', 'b')];
    const found = compareBoms(bom(before), bom(after));
    expect(found.added.map((c) => c.name)).toEqual(['D']);
    expect(found.removed.map((c) => c.name)).toEqual(['B']);
    expect(found.changed.map((c) => [c.after.name, c.before.version, c.after.version, c.fields])).toEqual([
      ['A', '1', '2', ['version']],
      ['C', '1', '1', ['content']],
    ]);
    expect(found.same).toBe(0);
  });

  it('one of two versions side by side may change alone', () => {
    const two = (versions: string[]) => ({
      subject: '',
      components: versions.map((version) => ({
        type: 'application',
        publisher: '',
        name: 'T',
        version,
        licence: '',
        digest: '',
      })),
    });
    const found = compareBoms(two(['7.2', '7.3']), two(['7.3', '7.4']));
    expect([found.same, found.changed.length, found.changed[0]?.before.version]).toEqual([1, 1, '7.2']);
    expect(compareBoms(two(['1']), two(['1', '2'])).added).toHaveLength(1);
    expect(compareBoms(two(['1', '2']), two(['2'])).removed).toHaveLength(1);
  });

  it("reads anybody's, with licences as ids or expressions", () => {
    const text = JSON.stringify({
      bomFormat: 'CycloneDX',
      specVersion: '1.5',
      components: [
        {
          type: 'library',
          group: 'g',
          name: 'n',
          version: '1',
          licenses: [{ license: { id: 'MIT' } }, { expression: 'A OR B' }],
        },
      ],
    });
    expect(must(readBom(text)).components).toEqual([
      { type: 'library', publisher: 'g', name: 'n', version: '1', licence: 'MIT, A OR B', digest: '' },
    ]);
  });

  it.each([
    ['{', 'is not JSON'],
    ['[]', 'is not a bill of materials: it is not a JSON object'],
    ['{"bomFormat":"Other"}', 'is not "CycloneDX", so this is no bill of materials that can be read here'],
    ['{"bomFormat":"CycloneDX","components":{}}', 'is not a list'],
    ['{"bomFormat":"CycloneDX","components":[{"type":"file"}]}', 'has no name'],
  ])('refuses %s', (text, message) => {
    expect(readBom(text)).toMatchObject({ ok: false, error: [{ message }] });
  });
});

describe('a generic package URL', () => {
  it('encodes each part', () => {
    expect(genericPurl('A/B', 'c d@e', '1+2')).toBe('pkg:generic/A%2FB/c%20d%40e@1%2B2');
  });
});

describe('the question where an application is', () => {
  it.each([
    ['zinnet below 141', { name: 'zinnet', below: '141' }],
    ['Zinnet Browser < 141.0', { name: 'Zinnet Browser', below: '141.0' }],
    ['zinnet', { name: 'zinnet', below: '' }],
    ['  ', { name: '', below: '' }],
    ['belowdecks', { name: 'belowdecks', below: '' }],
  ])('"%s" is read', (text, question) => {
    expect(readQuestion(text)).toEqual(question);
  });

  it('compares versions by their numbers, oldest first', () => {
    const all = ['7.10', '7.9', '8'].map((version) => ({
      publisher: 'Tomewick',
      name: 'Catalogue',
      version,
    }));
    const ask = (text: string) => findApplications(all, readQuestion(text)).map((a) => a.version);
    expect(ask('catalogue tome')).toEqual(['7.9', '7.10', '8']);
    expect(ask('catalogue below 7.10')).toEqual(['7.9']);
    expect(ask('catalogue below 8.0')).toEqual(['7.9', '7.10', '8']);
    expect(ask('other')).toEqual([]);
  });
});
