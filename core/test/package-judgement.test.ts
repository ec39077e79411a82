/** Classes, findings, verdicts, placement, conflicts, shares and sign-in: cases worked out by hand. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { signInTime, type SignInModel } from '../src/access/sign-in-time.ts';
import { entryName, type Entry } from '../src/inventory/entry.ts';
import { classify } from '../src/package/classify.ts';
import { findConflicts, type ComparedPackage } from '../src/package/conflicts.ts';
import { findingsOf } from '../src/package/findings.ts';
import { manifestText, readManifest } from '../src/container/manifest.ts';
import type { CaptureComparison } from '../src/package/noise.ts';
import { adviseOnPlacement, placementCosts, placementDefaults } from '../src/package/placement.ts';
import { signInsBySecond, sizeShare, type ShareDemand } from '../src/package/share-sizing.ts';
import { containerSentence, verdictsOn } from '../src/package/verdict.ts';
import { versionRange } from '../src/version/range.ts';

const file = (path: string, size = 10, sha256 = 'a'): Entry => ({
  kind: 'file',
  path,
  size,
  sha256,
  mode: '0644',
  modified: '2027-03-22T08:00:00Z',
});
const setting = (key: string, value = '1', name = 'v'): Entry => ({
  kind: 'registry',
  key,
  name,
  type: 'REG_SZ',
  value,
});
const service = (name: string, image: string, start = 'automatic'): Entry => ({
  kind: 'service',
  name,
  start,
  image,
});
const capture = (added: Entry[], more: Partial<CaptureComparison> = {}): CaptureComparison => ({
  added,
  removed: [],
  changed: [],
  moved: [],
  dropped: [],
  same: 0,
  ...more,
});

describe('classes', () => {
  it.each([
    [file('Program files/Zinnet/zinnet.exe'), 'program file'],
    [file('System/Library/own.dll'), 'shared library'],
    [file('Program files/Zinnet/own.dll'), 'program file'],
    [file('Users/packager/Local/forms.exe'), 'per-user file'],
    [file('Users/All/Desktop/x.txt'), 'program file'],
    [file('System/Fonts/hand.ttf'), 'font'],
    [file('System/Drivers/scan.sys'), 'driver'],
    [service('Scan', 'x.exe', 'boot'), 'driver'],
    [service('Till', 'till.exe'), 'service'],
    [service('ZinnetUpdate', 'zinnet-update.exe'), 'updater'],
    [setting('Machine\\Software\\Zinnet'), 'machine setting'],
    [setting('HKEY_CURRENT_USER\\Software\\Zinnet'), 'user setting'],
    [setting('Machine\\Software\\Classes\\.pel'), 'file association'],
    [setting('Machine\\Software\\Classes\\*\\shellex\\Handler'), 'shell extension'],
    [{ kind: 'certificate', store: 'root', subject: 'CN=x', sha256: 'a' } as Entry, 'certificate'],
  ])('%o', (entry, wanted) => expect(classify([entry]).get(entry)).toBe(wanted));
});

describe('findings and verdicts', () => {
  const judged = (comparison: CaptureComparison) => {
    const findings = findingsOf(comparison);
    const verdicts = verdictsOn(findings);
    const of = Object.fromEntries(verdicts.map((row) => [row.delivery, row.suitability]));
    return { findings, of, kinds: findings.map((f) => f.kind), sentence: containerSentence(verdicts) };
  };
  it('a driver does not suit a container, and suits the image', () => {
    const { findings, of, sentence } = judged(
      capture([
        file('Program files/Dockray Scan/dockray.exe'),
        file('System/Drivers/dockray.sys'),
        { kind: 'driver', name: 'DockrayScan', version: '3.4' },
      ]),
    );
    expect(of).toEqual({
      container: 'does not suit',
      'in the image': 'suits',
      installed: 'suits with care',
      published: 'suits',
    });
    expect(findings[0]?.title).toBe('It brings a kernel driver');
    const names = findings[0]?.evidence.map((row) => entryName(row.entry));
    expect(names?.join(', ')).toBe('System/Drivers/dockray.sys, DockrayScan');
    expect(sentence).toBe('does not suit a container: a driver cannot be attached');
  });
  it('an updater: care, with what to switch off', () => {
    const { findings, of } = judged(
      capture([
        file('Program files/Zinnet Browser/updater/zinnet-update.exe'),
        service('ZinnetUpdate', 'Program files/Zinnet Browser/updater/zinnet-update.exe'),
        file('Program files/Zinnet Browser/zinnet.exe'),
      ]),
    );
    expect(of['container']).toBe('suits with care');
    expect(findings.map((f) => f.kind)).toEqual(['updater']);
    expect(findings[0]?.evidence.map((row) => row.note)).toEqual([
      'leave Program files/Zinnet Browser/updater/zinnet-update.exe out of the container',
      'set service ZinnetUpdate to disabled',
    ]);
  });
  it('for one user only: not in the image, not published', () => {
    const { kinds, of } = judged(
      capture([
        file('Users/packager/Local/Ostrand/ostrand.exe'),
        setting('User\\Software\\Ostrand', 'Users/packager/Local/Ostrand'),
      ]),
    );
    expect(kinds).toEqual(['one user only', 'hard-coded path']);
    expect([of['in the image'], of['published'], of['container']]).toEqual([
      'does not suit',
      'does not suit',
      'suits with care',
    ]);
  });
  it('a dependency is a folder that it points into and does not bring', () => {
    const { findings } = judged(
      capture([
        file('Program files/Corvane Stats/corvane.exe'),
        setting('Machine\\Software\\Corvane', 'Program files/Quaybolt Runtime/runtime.dll', 'Runtime'),
        setting('Machine\\Software\\Corvane', 'Program files/Corvane Stats', 'Folder'),
      ]),
    );
    expect(findings.map((f) => [f.kind, f.evidence[0]?.note])).toEqual([
      ['dependency', 'points into Program files/Quaybolt Runtime'],
    ]);
  });
  it('what it wrote into its own folder and was dropped as noise', () => {
    const log = file('Program files/Till/till.log');
    const dropped = [{ entry: log, change: 'added' as const, rule: 'log', reason: 'log file' }];
    expect(judged(capture([file('Program files/Till/till.exe')], { dropped })).kinds).toEqual([
      'run-time writes',
    ]);
  });
  it('more than 2 GB, and not less', () => {
    expect(judged(capture([file('Program files/C/a.pak', 2e9)])).kinds).toEqual(['large file']);
    expect(judged(capture([file('Program files/C/a.pak', 2e9 + 1)])).kinds).toEqual(['large']);
  });
  it('nothing found: everything suits', () => {
    const { of, sentence } = judged(capture([file('Program files/Knapsel/knapsel.exe')]));
    expect(new Set(Object.values(of))).toEqual(new Set(['suits']));
    expect(sentence).toBe('suits a container');
  });
});

describe('placement', () => {
  const inputs = {
    ...placementDefaults,
    people: 1000,
    share: 0.5,
    hosts: 100,
    releasesPerYear: 10,
    attachSeconds: 2,
    signInsPerPersonYear: 200,
    attachedAhead: 0,
    gigabytes: 1,
    minutesPerPackaging: 60,
    minutesPerImage: 30,
    rebuildHoursPerHost: 0.5,
    failureRate: 0.1,
    minutesPerFailure: 30,
    engineerHour: 60,
    userHour: 36,
    hostHour: 1,
    gigabyteYear: 1,
  };
  it('costs as by hand', () =>
    // image 10 × (30 + 0.5 × 100); container 10 × 60 + 1000 × ½ × 200 × 2 s × 0.01 + 1; installed 600 + 100 × 10 × 0.1 × 30
    expect(placementCosts(inputs)).toEqual({ 'in the image': 800, container: 2601, installed: 3600 }));
  it('attached ahead, nobody waits', () =>
    expect(placementCosts({ ...inputs, attachedAhead: 1 }).container).toBe(601));
  it('names the value at which another is least', () => {
    const { best, flips } = adviseOnPlacement(inputs);
    expect(best).toBe('in the image');
    // 601 + 2000 (1 − x) = 800 where x = 0.9005
    expect(flips.find((flip) => flip.input === 'attachedAhead')).toEqual({
      input: 'attachedAhead',
      at: expect.closeTo(0.9005, 6) as number,
      to: 'container',
    });
    // 600 + 3000·(people/1000) does not change with people for installed; 601 + 2x = 800 where x = 99.5
    expect(flips.find((flip) => flip.input === 'people')).toMatchObject({
      at: expect.closeTo(99.5, 6) as number,
    });
  });
  it('keeps to what is allowed', () =>
    expect(adviseOnPlacement(inputs, ['container', 'installed']).best).toBe('container'));
  it('at a flip the two cost the same', () =>
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 20, noNaN: true }),
        fc.double({ min: 0.01, max: 1, noNaN: true }),
        (seconds, share) => {
          const some = { ...inputs, attachSeconds: seconds, share };
          const { best, flips } = adviseOnPlacement(some);
          for (const flip of flips) {
            const costs = placementCosts({ ...some, [flip.input]: flip.at });
            expect(costs[flip.to]).toBeCloseTo(costs[best], 3);
          }
        },
      ),
    ));
});

it.each([
  ['*', '1', true],
  ['>=5.0 <6', '5.2', true],
  ['>=5.0 <6', '6', false],
  ['>=5.0 <6', '4.9', false],
  ['5.2', '5.2', true],
  ['<=24.10', '24.9', true],
])('range %s and version %s: %s', (text, version, wanted) => {
  const range = versionRange(text);
  expect(range.ok && range.value(version)).toBe(wanted);
});
it('a range that is none', () =>
  expect(versionRange('about 5')).toEqual({
    ok: false,
    error: [{ path: 'range', message: '“about” is no bound; write bounds such as >=5.0 <6' }],
  }));

describe('conflicts', () => {
  const one = (name: string, entries: Entry[], more: Partial<ComparedPackage> = {}): ComparedPackage => ({
    id: `${name}-${more.version ?? '1'}`,
    name,
    version: '1',
    sideBySide: false,
    entryPoints: [],
    dependencies: [],
    entries: () => entries,
    ...more,
  });
  it('the same file with other content, whatever the case of its name', () => {
    const clashes = findConflicts([
      one('Pellam Reader', [file('Common files/page.dll', 1, 'a'), file('Common files/same.dll', 1, 'c')]),
      one('Hesperling Labels', [
        file('common files/PAGE.dll', 1, 'b'),
        file('Common files/same.dll', 1, 'c'),
      ]),
    ]);
    expect(clashes.map(({ kind, what, packages }) => ({ kind, what, packages }))).toEqual([
      { kind: 'file', what: 'Common files/page.dll', packages: ['Pellam Reader-1', 'Hesperling Labels-1'] },
    ]);
  });
  it('finds what a plain search finds, of any names in any case', () => {
    const name = fc.string({ unit: fc.constantFrom(...'aAbB1/éÉяЯ@`'), minLength: 1, maxLength: 4 });
    const content = fc.constantFrom('x', 'y');
    const brought = fc.uniqueArray(fc.tuple(name, content), {
      maxLength: 12,
      selector: ([path]) => path.toLowerCase(),
    });
    fc.assert(
      fc.property(fc.array(brought, { minLength: 2, maxLength: 4 }), (packages) => {
        const byName = new Map<string, Set<string>>();
        for (const [path, sha256] of packages.flat()) {
          const key = path.toLowerCase();
          byName.set(key, (byName.get(key) ?? new Set()).add(sha256));
        }
        const plain = [...byName].filter(([, contents]) => contents.size > 1).map(([key]) => key);
        const found = findConflicts(
          packages.map((entries, i) =>
            one(
              `P${i}`,
              entries.map(([path, sha256]) => file(path, 1, sha256)),
            ),
          ),
        );
        expect(found.map((clash) => clash.what.toLowerCase()).sort()).toEqual(plain.sort());
      }),
    );
  });
  it('settings, services, entry points, associations', () => {
    const opens = (name: string, ...associations: string[]) => [{ name, path: 'x', associations }];
    const clashes = findConflicts([
      one('A', [setting('Machine\\S', '1'), service('S', 'a.exe')], { entryPoints: opens('Draw', '.pic') }),
      one('B', [setting('Machine\\S', '2'), service('S', 'b.exe')], {
        entryPoints: opens('Draw', '.pic', '.b'),
      }),
    ]);
    expect(clashes.map((clash) => `${clash.kind} ${clash.what}`)).toEqual([
      'setting Machine\\S\\v',
      'service S',
      'entry point Draw',
      'file association .pic',
    ]);
  });
  it('dependencies missing or of the wrong version, and two versions', () => {
    const needs = { dependencies: [{ name: 'Quaybolt Runtime', range: '>=5 <6' }] };
    expect(findConflicts([one('Corvane', [], needs)])[0]?.advice).toBe(
      'Corvane needs Quaybolt Runtime >=5 <6, which is not there. Attach it too.',
    );
    expect(
      findConflicts([one('Corvane', [], needs), one('Quaybolt Runtime', [], { version: '4.9' })])[0]?.advice,
    ).toBe('Corvane needs Quaybolt Runtime >=5 <6; 4.9 is there. Attach a version that will do.');
    expect(
      findConflicts([one('Corvane', [], needs), one('Quaybolt Runtime', [], { version: '5.2' })]),
    ).toEqual([]);
    const two = (sideBySide: boolean) =>
      ['7.2', '7.3'].map((version) => one('Tomewick', [file('t.exe', 1, version)], { version, sideBySide }));
    expect(findConflicts(two(false)).map((clash) => clash.kind)).toEqual(['two versions']);
    expect(findConflicts(two(true))).toEqual([]);
  });
});

describe('sign-in and share', () => {
  const packages = [
    {
      name: 'A',
      mountMs: 400,
      registerMs: 10,
      entryPoints: 2,
      operationsPerAttach: 100,
      attachedAhead: false,
    },
    {
      name: 'B',
      mountMs: 300,
      registerMs: 10,
      entryPoints: 1,
      operationsPerAttach: 50,
      attachedAhead: false,
    },
    {
      name: 'C',
      mountMs: 900,
      registerMs: 10,
      entryPoints: 9,
      operationsPerAttach: 500,
      attachedAhead: true,
    },
  ];
  const model: SignInModel = {
    baseMs: 5000,
    profileMs: 1000,
    parallelMounts: 1,
    packages,
    shareLimit: 1000,
    steadyOperations: 0,
  };
  it('idle: base, profile, mounts one after the other, entry points', () =>
    expect(signInTime(model, 0)).toMatchObject({ ms: 6730, load: 0, isSaturated: false }));
  it('mounts two at a time, on a share that is half busy twice as long', () => {
    expect(signInTime({ ...model, parallelMounts: 2 }, 0).ms).toBe(6430);
    const busy = signInTime({ ...model, parallelMounts: 2, steadyOperations: 350 }, 1);
    expect([busy.load, busy.ms]).toEqual([0.5, 6830]);
  });
  it('saturated from 95 % on, and what attaching ahead saves', () => {
    expect(signInTime(model, 7).isSaturated).toBe(true);
    expect(signInTime(model, 0).savings).toEqual([
      { name: 'A', ms: 420 },
      { name: 'B', ms: 310 },
    ]);
  });
  it('the cheapest tier that carries it, and what would let a cheaper one do', () => {
    const tiers = [
      { name: 'standard', capacityBytes: 100e9, operationsLimit: 1000, price: 0.06 },
      { name: 'fast', capacityBytes: 100e9, operationsLimit: 10_000, price: 0.16 },
    ];
    const hours = (at: number, value: number) =>
      Array.from({ length: 24 }, (_none, hour) => (hour === at ? value : 0));
    const demand: ShareDemand = {
      versionBytes: [10e9, 20e9, 5e9],
      growth: 0.2,
      pools: [
        {
          name: 'desks',
          packages: [
            { operationsPerAttach: 400, attachedAhead: false },
            { operationsPerAttach: 100, attachedAhead: true },
          ],
          signInsPerSecond: hours(8, 2),
          hostsStarting: hours(6, 36),
        },
      ],
      steadyOperations: 10,
    };
    const busy = (signIns: number, more: Partial<ShareDemand> = {}) => ({
      ...demand,
      ...more,
      pools: demand.pools.map((pool) => ({ ...pool, signInsPerSecond: hours(8, signIns) })),
    });
    const advice = sizeShare(demand, tiers);
    expect(advice.capacityBytes).toBeCloseTo(42e9);
    expect([advice.operations[8], advice.operations[6], advice.operations[0]]).toEqual([810, 11, 10]);
    expect([advice.peakHour, advice.tier?.name]).toEqual([8, 'fast']);
    expect(advice.fits.map((fit) => [fit.lacks, Math.round(fit.monthly * 100)])).toEqual([
      ['serves 700 operations a second with 30 % to spare', 252],
      ['', 672],
    ]);
    expect(advice.cheaper).toBe('standard would do if all packages were attached ahead');
    expect(sizeShare(busy(1), tiers).tier?.name).toBe('standard');
    const full = sizeShare(busy(2, { versionBytes: [59e9] }), tiers);
    expect([full.tier, full.fits[0]?.lacks]).toEqual([undefined, 'holds 70 GB with 30 % to spare']);
  });
  it('sign-ins: what rises and what turns over, in the busiest minute', () => {
    // 100 people come between 8 and 9, then a tenth of 100 changes each hour.
    const curve = Array.from({ length: 24 }, (_none, hour) => (hour >= 9 ? 100 : 0));
    const perHour = signInsBySecond(curve, 0.1, 1).map((each) => Math.round(each * 3600));
    expect([perHour[7], perHour[8], perHour[9], perHour[23]]).toEqual([0, 100, 10, 10]);
    expect(signInsBySecond(curve, 0.1, 3)[8]).toBeCloseTo(300 / 3600);
  });
});

it('a manifest is read as it was written; of another shape, nothing', () => {
  const manifest = {
    name: 'Zinnet',
    version: '141',
    publisher: 'Zinnet',
    entryPoints: [{ name: 'Zinnet', path: 'z.exe', associations: ['.zin'] }],
    licence: 'free',
    dependencies: [{ name: 'Runtime', range: '>=5' }],
  };
  expect(readManifest(manifestText(manifest))).toEqual(manifest);
  const nothing = { name: '', version: '', publisher: '', entryPoints: [] };
  for (const text of ['', '[]', '7', '{"entryPoints":[{"name":1}],"name":5}'])
    expect(readManifest(text)).toEqual(nothing);
});
