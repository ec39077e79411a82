/** Rules, clean machines, owners, contents and guesses of a capture: cases worked out by hand. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareInventories } from '../src/inventory/compare.ts';
import { compareEntries, entryName, type Entry } from '../src/inventory/entry.ts';
import { noFacts, type CaptureFacts } from '../src/package/capture-facts.ts';
import { classify } from '../src/package/classify.ts';
import { cleanChecks } from '../src/package/clean-machine.ts';
import { differenceLeaves, differenceTree } from '../src/package/difference-tree.ts';
import { differenceFacets, filterDifference } from '../src/package/filter-difference.ts';
import { findingsOf } from '../src/package/findings.ts';
import { guessManifest } from '../src/package/guess-manifest.ts';
import { differenceOf, dropNoise, noiseMatcher, type NoiseRule } from '../src/package/noise.ts';
import { ownerKey, ownersOfChanges } from '../src/package/owners.ts';
import { packageContents } from '../src/package/package-contents.ts';
import type { ProgramFacts } from '../src/package/program/program-file.ts';
import { proposedGlobs, rowsTaken, ruleEffect } from '../src/package/rule-effect.ts';
import { must } from '../src/result.ts';

const file = (path: string, size = 100, sha256 = path): Entry => ({
  kind: 'file',
  path,
  size,
  sha256,
  mode: '0644',
  modified: '',
});
const value = (key: string, name: string, text: string): Entry => ({
  kind: 'registry',
  key,
  name,
  type: 'REG_SZ',
  value: text,
});
const rule = (id: string, change: Partial<NoiseRule>): NoiseRule => ({
  id,
  action: 'drop',
  reason: 'r',
  ...change,
});

const before = [file('System/a.log', 1, 'old'), file('System/lib.dll'), file('Temp/moved', 9, 'm')];
const program = 'Program files/Zinnet Browser/zinnet.exe';
const after: Entry[] = [
  file('System/a.log', 2, 'new'),
  file('System/lib.dll'),
  file('Temp/elsewhere', 9, 'm'),
  file(program, 2_000_000),
  file('Program files/Zinnet Browser/Zinnet.ico', 900),
  file('Program files/Zinnet Browser/updater/zinnet-update.exe', 50),
  file('Program files/Zinnet Browser/help/a.txt'),
  { kind: 'application', publisher: 'Zinnet', name: 'Zinnet Browser', version: '141.0', size: 5 },
  { kind: 'shortcut', path: 'Users/All/Desktop/Zinnet.lnk', target: program },
  { kind: 'service', name: 'ZinnetUpdate', start: 'automatic', image: 'zinnet-update.exe' },
  { kind: 'service', name: 'ZinnetPort', start: 'boot', image: 'System/Drivers/port.sys' },
  { kind: 'service', name: 'ZinnetHelp', start: 'manual', image: program },
  { kind: 'task', name: 'Zinnet update', run: 'zinnet-update.exe', schedule: 'daily' },
  value('Machine\\Software\\Classes\\.zin', '', 'Zinnet.Page'),
  value('Machine\\Software\\Classes\\Zinnet.Page\\shell\\open\\command', '', `"${program}" "%1"`),
  value('Machine\\Software\\Classes\\zinnet', 'URL Protocol', ''),
  value('Machine\\System\\Environment', 'ZINNET_HOME', 'Program files/Zinnet Browser'),
  value('Machine\\Software\\Zinnet', 'Runtime', 'Program files/Quaybolt Runtime/runtime.dll'),
];
const difference = compareInventories(before, after, false);
const captured = must(dropNoise(difference));

describe('rules', () => {
  it('an expression does what a glob cannot', () => {
    const own = rule('numbers', { expression: '/part-\\d+\\.dll$' });
    const matcher = must(noiseMatcher([own]));
    expect(matcher(file('A/part-12.DLL'))?.id).toBe('numbers');
    expect(matcher(file('A/part-x.dll'))).toBeUndefined();
  });
  it.each([
    [rule('a', {}), '0.glob', 'is missing, and so is expression'],
    [rule('a', { glob: '*', expression: 'x' }), '0.expression', 'stands beside a glob; give one'],
    [rule('a', { glob: ' ' }), '0.glob', 'is empty'],
    [rule('a', { expression: '(' }), '0.expression', 'is no regular expression: missing closing ): `(`'],
    [rule('a', { expression: 'x'.repeat(301) }), '0.expression', 'is longer than 300 letters'],
  ])('%o is refused', (own, path, message) => {
    const answer = noiseMatcher([own]);
    expect(answer.ok ? [] : answer.error).toEqual([{ path, message }]);
  });
  it('two of one id are refused', () => {
    const answer = noiseMatcher([rule('a', { glob: 'x' }), rule('a', { glob: 'y' })]);
    expect(answer.ok ? [] : answer.error.map((fault) => fault.path)).toEqual(['1.id']);
  });
  it('what was dropped can be judged anew, and is then what it would have been', () => {
    const everything = must(dropNoise(difference, [rule('all', { glob: '**' })]));
    expect(everything.dropped).toHaveLength(17);
    const back = must(dropNoise(differenceOf(everything)));
    const sorted = (entries: readonly Entry[]) => [...entries].sort(compareEntries);
    expect(sorted(back.added)).toEqual(sorted(captured.added));
    expect([back.changed, back.moved, back.removed]).toEqual([
      captured.changed,
      captured.moved,
      captured.removed,
    ]);
    expect(back.dropped.map((row) => [row.change, row.rule, row.before ?? row.from])).toEqual(
      captured.dropped.map((row) => [row.change, row.rule, row.before ?? row.from]),
    );
  });
  it('tells what other rules would drop and keep', () => {
    const effect = must(
      ruleEffect(captured, [
        rule('logs matter', { action: 'keep', glob: '**/*.log' }),
        rule('no help', { glob: '**/help/**' }),
      ]),
    );
    expect(effect.kept.map(entryName)).toEqual(['System/a.log']);
    expect(effect.dropped.map(entryName)).toEqual(['Program files/Zinnet Browser/help/a.txt']);
  });
  it('a row suggests rules, from itself outwards, with what each takes', () => {
    const row = file('Program files/Zinnet Browser/help/a.txt');
    const taken = proposedGlobs(row).map(({ label, glob }) => [
      label,
      must(rowsTaken(captured, rule('x', { glob }))).length,
    ]);
    expect(taken).toEqual([
      ['this alone', 1],
      ['every .txt in help', 1],
      ['all in Program files/Zinnet Browser/help', 1],
      ['all in Program files/Zinnet Browser', 4],
      ['all in Program files', 4],
      ['every .txt', 1],
    ]);
  });
  it('every suggestion takes the row it comes from, whatever its name', () => {
    const part = fc.string({ unit: fc.constantFrom(...'aB1 .-()[]{}!*?+@$~é'), minLength: 1, maxLength: 8 });
    const path = fc
      .array(part, { minLength: 1, maxLength: 4 })
      .map((parts) => parts.join('/'))
      .filter((text) => !text.split('/').some((own) => own.trim() === '' || /^\.+$/.test(own)));
    fc.assert(
      fc.property(path, (name) => {
        for (const { glob } of proposedGlobs(file(name)))
          expect([glob, must(noiseMatcher([rule('x', { glob })]))(file(name))?.id]).toEqual([glob, 'x']);
      }),
    );
  });
});

describe('a machine to capture on', () => {
  it('is clean, or says why not, worst first', () => {
    expect(cleanChecks([file('System/a.dll')]).every((check) => check.holds)).toBe(true);
    const checks = cleanChecks([
      file('Program files/Left over/x.exe'),
      { kind: 'application', publisher: 'Old', name: 'Thing', version: '2', size: 1 },
      { kind: 'service', name: 'System search index', start: 'automatic', image: 'x' },
      { kind: 'service', name: 'System update', start: 'disabled', image: 'x' },
      value('Machine\\System\\Restart required', 'By', 'x'),
    ]);
    expect(checks.map(({ holds, what, evidence }) => [holds, what, evidence])).toEqual([
      [false, 'something is installed already', ['Old Thing 2', 'Left over']],
      [false, 'a restart is pending', ['Machine\\System\\Restart required\\By']],
      [false, 'the machine writes by itself', ['System search index']],
    ]);
  });
});

describe('several installers', () => {
  it('each has what it put or changed last', () => {
    const [a, b, shared] = [file('A/a'), file('B/b'), file('S/s', 1, 'second')];
    const owners = ownersOfChanges([
      { name: 'A', difference: { added: [a, file('S/s', 1, 'first')], changed: [], removed: [], moved: [] } },
      {
        name: 'B',
        difference: {
          added: [b],
          changed: [{ before: file('S/s'), after: shared, fields: [] }],
          removed: [],
          moved: [],
        },
      },
    ]);
    expect(owners).toEqual([
      { name: 'A', entries: ['file A/a'] },
      { name: 'B', entries: ['file S/s', 'file B/b'] },
    ]);
  });
});

describe('what the package holds', () => {
  it('updaters off: programs and tasks stay away, their service is there but disabled; a boot service cannot come', () => {
    const { paths, settings, switchedOff, leftOut } = packageContents(captured, { updatersOff: true });
    expect(paths).not.toContain('Program files/Zinnet Browser/updater/zinnet-update.exe');
    const services = settings.flatMap((entry) =>
      entry.kind === 'service' ? [[entry.name, entry.start]] : [],
    );
    expect(services).toEqual([
      ['ZinnetHelp', 'manual'],
      ['ZinnetUpdate', 'disabled'],
    ]);
    expect(settings.some((entry) => entry.kind === 'task')).toBe(false);
    expect(switchedOff).toHaveLength(3);
    expect(leftOut.map(entryName)).toEqual(['ZinnetPort']);
  });
  it('left as they are, everything travels', () => {
    const { paths, settings, switchedOff } = packageContents(captured, { updatersOff: false });
    expect(paths).toContain('Program files/Zinnet Browser/updater/zinnet-update.exe');
    expect(settings.filter((entry) => entry.kind === 'task')).toHaveLength(1);
    expect(switchedOff).toEqual([]);
  });
});

const facts: CaptureFacts = {
  ...noFacts,
  programs: {
    [program]: {
      processor: 'x64',
      isLibrary: false,
      carriesSignature: false,
      hasIcon: false,
      version: {
        product: 'Zinnet Browser',
        company: 'Zinnet Ltd',
        description: 'Looks at pages',
        productVersion: '141.0.2',
        fileVersion: '141.0.2',
      },
    } satisfies ProgramFacts,
    'System/lib.dll': 'is cut short',
  },
  pictures: {
    'Program files/Zinnet Browser/Zinnet.ico': {
      format: 'ico',
      sizes: [{ width: 48, height: 48 }],
      fault: '',
    },
  },
};

describe('a guessed manifest', () => {
  const said = { name: 'zinnet', publisher: '', version: '?' };
  const guess = (comparison = captured, read = facts) =>
    guessManifest(comparison, read, findingsOf(comparison, read), said, [
      { name: 'Quaybolt Runtime', version: '5.2' },
    ]);

  it('takes each part from where it is said best, and names the place', () => {
    const { manifest, sources } = guess();
    expect(manifest).toEqual({
      name: 'Zinnet Browser',
      publisher: 'Zinnet',
      version: '141.0',
      description: 'Looks at pages',
      entryPoints: [
        {
          name: 'Zinnet',
          path: program,
          icon: 'Program files/Zinnet Browser/Zinnet.ico',
          associations: ['.zin'],
          protocols: ['zinnet'],
        },
      ],
      dependencies: [{ name: 'Quaybolt Runtime', range: '>=5.2' }],
      environment: [{ name: 'ZINNET_HOME', value: 'Program files/Zinnet Browser' }],
      attach: { timing: 'at sign-in', onFailure: 'go on without' },
    });
    expect(sources['version']).toBe('the uninstall entry');
    expect(sources['entryPoints.0.associations']).toBe('registered classes');
    expect(sources['dependencies.Quaybolt Runtime']).toBe('Machine\\Software\\Zinnet\\Runtime');
  });
  it('without an uninstall entry it reads the version resource, and without both what was said', () => {
    const bare = { ...captured, added: captured.added.filter((entry) => entry.kind !== 'application') };
    expect(guess(bare).manifest).toMatchObject({ publisher: 'Zinnet Ltd', version: '141.0.2' });
    expect(guess(bare, noFacts).manifest).toMatchObject({ name: 'zinnet', version: '?' });
    expect(guess(bare, noFacts).sources['name']).toBeUndefined();
  });
});

describe('findings from the files themselves', () => {
  it('unsigned programs, and pictures that are broken', () => {
    const broken = {
      ...facts,
      pictures: {
        'Program files/Zinnet Browser/Zinnet.ico': { format: 'ico', sizes: [], fault: 'is cut short' },
      },
    } as const;
    const of = (kind: string) =>
      findingsOf(captured, broken).find((finding) => finding.kind === kind)?.evidence ?? [];
    expect(of('unsigned').map((row) => row.note)).toEqual(['says that it is by Zinnet Ltd']);
    expect(of('picture').map((row) => [entryName(row.entry), row.note])).toEqual([
      ['Program files/Zinnet Browser/Zinnet.ico', 'is cut short'],
      ['Users/All/Desktop/Zinnet.lnk', 'neither its program nor its files bring a picture'],
    ]);
    expect(findingsOf(captured, facts).some((finding) => finding.kind === 'picture')).toBe(false);
  });
});

describe('rows that are asked for', () => {
  const leaves = differenceLeaves(captured, 'kept');
  const lookup = {
    classes: classify(leaves.map((leaf) => leaf.entry)),
    owners: new Map([[ownerKey(file(program)), 'Zinnet 141']]),
  };
  const names = (filter: Parameters<typeof filterDifference>[1], of = leaves) =>
    filterDifference(of, filter, lookup).map((leaf) => entryName(leaf.entry));

  it('by kind, class, size, owner, text of a value, rule', () => {
    expect(names({ kind: 'task' })).toEqual(['Zinnet update']);
    expect(names({ class: 'updater' })).toHaveLength(3);
    expect(names({ bytes: 1_000_000 })).toEqual([program]);
    expect(names({ owner: 'Zinnet 141' })).toEqual([program]);
    expect(names({ text: 'zinnet.page' })).toHaveLength(2);
    expect(names({ rule: 'log' }, differenceLeaves(captured, 'dropped'))).toEqual(['System/a.log']);
  });
  it('facets count what there is, the most first', () => {
    const { kinds, rules } = differenceFacets(leaves, lookup);
    expect(kinds.slice(0, 2)).toEqual([
      { value: 'registry', count: 5 },
      { value: 'file', count: 4 },
    ]);
    expect(rules).toEqual([]);
    expect(differenceTree(leaves).entries).toBe(15);
  });
});
