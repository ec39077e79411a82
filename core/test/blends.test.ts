/** Blends: what a host needs to hold one, what is another between two, and whether one can be used. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ImageFacts } from '../src/pool/fit-conditions.ts';
import { blendChecks, blendFaults, type BlendFacts } from '../src/rollout/blends/checks.ts';
import { compareBlends, type BlendPackage, type ComparedBlend } from '../src/rollout/blends/compare.ts';
import { needOf, packagesKey, type BlendContents } from '../src/rollout/blends/need.ts';
import { wayOf } from '../src/rollout/blends/way.ts';
import { DAY } from '../src/time/instant.ts';

const blend = (change: Partial<BlendContents> = {}): BlendContents => ({
  imageVersionId: 'staff-14',
  packageVersionIds: ['browser-140', 'quarto-4'],
  baselineRevisionId: null,
  ...change,
});
const well = { isKnown: true, hasFailed: false };

describe('what a host needs', () => {
  it.each([
    [
      'nothing for what it holds, whatever the order',
      blend({ packageVersionIds: ['quarto-4', 'browser-140'] }),
      'nothing',
    ],
    ['a rebuild for another image', blend({ imageVersionId: 'staff-15' }), 'rebuild'],
    [
      'a rebuild where both are others',
      blend({ imageVersionId: 'staff-15', packageVersionIds: [] }),
      'rebuild',
    ],
    [
      'to attach for another version',
      blend({ packageVersionIds: ['browser-141', 'quarto-4'] }),
      'attach only',
    ],
    ['to let go of one', blend({ packageVersionIds: ['quarto-4'] }), 'attach only'],
    ['only settings', blend({ baselineRevisionId: 'desk-7' }), 'settings only'],
    [
      'to attach where settings are others too',
      blend({ packageVersionIds: [], baselineRevisionId: 'desk-7' }),
      'attach only',
    ],
  ])('%s', (_what, to, need) => expect(needOf({ blend: blend(), ...well }, to)).toBe(need));

  it('is a rebuild where nobody knows what is on it, and a check by its agent where work on it failed', () => {
    expect(needOf({ blend: blend(), isKnown: false, hasFailed: true }, blend())).toBe('rebuild');
    expect(needOf({ blend: blend(), isKnown: true, hasFailed: true }, blend())).toBe('attach only');
    const other = blend({ imageVersionId: 'staff-15' });
    expect(needOf({ blend: blend(), isKnown: true, hasFailed: true }, other)).toBe('rebuild');
  });

  it('leaves a host in service only where it is on and well, and nothing is made anew', () => {
    const on = { service: 'in service', work: 'none', power: 'on' } as const;
    expect(wayOf('attach only', on, false)).toBe('attach in service');
    expect(wayOf('settings only', { ...on, service: 'out of service' }, false)).toBe('attach in service');
    expect(wayOf('attach only', { ...on, power: 'off' }, false)).toBe('attach');
    expect(wayOf('attach only', { ...on, work: 'failed' }, false)).toBe('attach');
    expect(wayOf('attach only', on, true)).toBe('rebuild');
    expect(wayOf('rebuild', on, false)).toBe('rebuild');
  });

  it('has one key for the same packages', () =>
    fc.assert(
      fc.property(fc.uniqueArray(fc.stringMatching(/^[a-z0-9-]{1,8}$/)), (ids) => {
        const again = [...ids, ...ids.slice(0, 2)].reverse();
        expect(packagesKey(again)).toBe(packagesKey(ids));
      }),
    ));
});

const image = (number: number, line = 'Staff') => ({ id: `${line}-${number}`, line, number });
const pack = (name: string, version: string, timing: BlendPackage['timing'] = 'at sign-in') => ({
  id: `${name}-${version}`,
  packageId: name,
  name,
  version,
  timing,
});
const whole = (number: number, ...packages: BlendPackage[]): ComparedBlend => ({
  image: image(number),
  packages,
  baselineRevisionId: null,
});

describe('two blends beside each other', () => {
  it('by hand: image, one newer, one older, one added, one removed', () => {
    const from = whole(
      14,
      pack('Zinnet Browser', '140.2'),
      pack('Quarto', '4.1'),
      pack('Plat', '2'),
      pack('Mirk', '1'),
    );
    const to = whole(
      15,
      pack('Zinnet Browser', '141.0', 'ahead'),
      pack('Quarto', '4.0.9'),
      pack('Mirk', '1'),
      pack('Ash', '3'),
    );
    const found = compareBlends(from, to);
    expect(found.image).toEqual({ from: image(14), to: image(15) });
    expect(found.packages.map(({ name, change }) => [name, change])).toEqual([
      ['Ash', 'added'],
      ['Plat', 'removed'],
      ['Quarto', 'older'],
      ['Zinnet Browser', 'newer'],
    ]);
    expect(found.packages.at(-1)?.to?.timing).toBe('ahead');
    expect(found.headline).toBe('Staff 14 to 15, 1 package added, 1 removed, 1 newer, 1 older');
    expect(found.need).toBe('rebuild');
  });

  it('pairs versions that run side by side as they are numbered', () => {
    const from = whole(14, pack('Runtime', '9'), pack('Runtime', '5'));
    const to = whole(14, pack('Runtime', '10'), pack('Runtime', '6'), pack('Runtime', '5'));
    expect(compareBlends(from, to).packages.map((row) => [row.from?.version, row.to?.version])).toEqual([
      ['9', '6'],
      [undefined, '10'],
    ]);
  });

  it('says so where nothing is another, and where only settings are', () => {
    expect(compareBlends(whole(14), whole(14)).headline).toBe('exactly the same');
    expect(compareBlends(whole(14), { ...whole(14), baselineRevisionId: 'b2' })).toMatchObject({
      headline: 'other settings',
      need: 'settings only',
    });
    const other = { ...whole(3), image: image(3, 'Kiosk') };
    expect(compareBlends(whole(14), other).headline).toBe('Staff 14 to Kiosk 3');
  });

  it('finds the same the other way round, with the signs turned', () => {
    const some = fc.uniqueArray(
      fc.record({ name: fc.constantFrom('A', 'B', 'C'), version: fc.constantFrom('1', '2', '10') }),
      { selector: ({ name, version }) => `${name} ${version}`, maxLength: 6 },
    );
    const turned = { added: 'removed', removed: 'added', newer: 'older', older: 'newer' } as const;
    fc.assert(
      fc.property(some, some, (a, b) => {
        const [from, to] = [a, b].map((list) => whole(1, ...list.map((one) => pack(one.name, one.version))));
        if (!from || !to) return;
        const there = compareBlends(from, to).packages;
        const back = compareBlends(to, from).packages;
        expect(back.map(({ name, change }) => `${name} ${change}`).sort()).toEqual(
          there.map(({ name, change }) => `${name} ${turned[change]}`).sort(),
        );
        expect(there.length === 0).toBe(compareBlends(from, to).need === 'nothing');
      }),
    );
  });
});

const now = Date.UTC(2027, 2, 22, 8);
const fine: ImageFacts = { number: 15, state: 'approved', isGone: false, hasAgent: true };
const signature = { validFrom: now - 100 * DAY, validTo: now + 300 * DAY, isTrusted: true };
const quarto = { id: 'q', name: 'Quarto 4.1', state: 'live', signature } as const;
const says = (change: Partial<BlendFacts>) =>
  blendChecks({ image: fine, packages: [quarto], clashes: [], at: now, ...change }).map(
    (check) => `${check.verdict}: ${check.says}`,
  );

describe('whether a blend can be used', () => {
  it('holds for what is approved, has its agent and attaches', () =>
    expect(says({})).toEqual([
      'holds: version 15 is approved',
      'holds: the host agent is in the image',
      'holds: 1 of 1 package can be attached',
    ]));

  it('fails for what is retired, deleted, without an agent, refused by hosts', () => {
    expect(says({ image: { ...fine, state: 'retired' } })[0]).toBe('fails: version 15 is retired');
    expect(says({ image: { ...fine, isGone: true } })[0]).toBe('fails: version 15 was deleted');
    expect(says({ image: { ...fine, hasAgent: false } })[0]).toMatch(/^fails: the image has no host agent/);
    const strange = { ...quarto, signature: { ...signature, isTrusted: false } };
    expect(says({ packages: [strange] })[0]).toBe(
      'fails: Quarto 4.1 is signed with a certificate that these hosts do not trust',
    );
  });

  it('asks at the instant: a certificate that holds now and not then', () => {
    const packages = [{ ...quarto, signature: { ...signature, validTo: now + 5 * DAY } }];
    expect(says({ packages })[0]).toBe('warns: Quarto 4.1 has a certificate that runs out on 2027-03-27');
    expect(says({ packages })).toContain('holds: 1 of 1 package can be attached');
    expect(says({ packages, at: now + 6 * DAY })[0]).toMatch(
      /^fails: .* runs out on 2027-03-27; sign it again$/,
    );
    expect(
      says({ packages: [{ ...quarto, signature: { ...signature, validTo: now + 90 * DAY } }] }),
    ).toHaveLength(3);
  });

  it('warns of a version that is held, and of what people keep and would lose', () => {
    expect(says({ packages: [{ ...quarto, state: 'held' }] })[0]).toBe('warns: Quarto 4.1 is held');
    expect(says({ losing: 3 })[0]).toBe('warns: 3 hosts are made anew and somebody’s own');
  });

  it('asks of a way back only whether image and packages can still be had', () => {
    const image = { ...fine, hasAgent: false };
    const clashes = [{ kind: 'dependency', what: 'Runtime', packages: ['q'], advice: '' }] as const;
    const facts: BlendFacts = { image, packages: [quarto], clashes, at: now, isReturn: true };
    expect(blendFaults(facts)).toEqual([]);
    expect(blendFaults({ ...facts, isReturn: false })).toHaveLength(2);
    expect(blendFaults({ ...facts, image: { ...image, isGone: true } })).toHaveLength(1);
  });

  it('is stopped by what a package needs and two versions of one, not by a file that two bring', () => {
    const packages = [quarto, { ...quarto, id: 'b', name: 'Plat 2' }];
    const clash = { packages: ['b', 'q'], advice: 'do this' };
    const facts = (kind: 'dependency' | 'two versions' | 'file'): BlendFacts => ({
      image: fine,
      packages,
      clashes: [{ ...clash, kind, what: 'Runtime >=5' }],
      at: now,
    });
    expect(blendFaults(facts('dependency'))).toEqual([
      { path: 'packageVersionIds.1', message: 'Plat 2 needs Runtime >=5' },
    ]);
    expect(blendFaults(facts('two versions'))[0]?.message).toBe(
      'Plat 2 and Quarto 4.1 clash: two versions Runtime >=5',
    );
    expect(blendFaults(facts('file'))).toEqual([]);
    expect(blendChecks(facts('file'))[0]).toMatchObject({ verdict: 'warns', advice: 'do this' });
  });
});
