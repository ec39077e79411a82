import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { needOf } from '../src/rollout/blends/need.ts';
import { driftKinds, driftOf, mendingOf, type HostSeen, type HostWanted } from '../src/rollout/drift.ts';

const wanted: HostWanted = {
  imageId: 'image-15',
  disk: 'fresh-15',
  containers: new Map([
    ['aa', 'Pellam Reader 9.0'],
    ['bb', 'Zinnet Browser 141.0'],
  ]),
};
const well: HostSeen = {
  machine: 'there',
  isOn: true,
  imageId: 'image-15',
  disk: 'fresh-15',
  containers: new Set(['aa', 'bb']),
  isSilent: false,
  isKnown: true,
};
const names = new Map([['cc', 'Hesperling Labels 6.2']]);
const found = (change: Partial<HostSeen>, should = wanted) =>
  driftOf({ ...well, ...change }, should, (digest) => names.get(digest) ?? digest).map(({ kind, what }) =>
    what === '' ? kind : `${kind}: ${what}`,
  );

describe('drift', () => {
  it('is none of a host that is what its blend says', () => {
    expect(found({})).toEqual([]);
  });

  it('names the containers that are missing, and those that nobody asked for', () => {
    expect(found({ containers: new Set(['bb', 'cc']) })).toEqual([
      'container missing: Pellam Reader 9.0',
      'container too many: Hesperling Labels 6.2',
    ]);
  });

  it('of another image is only that: it is made anew as a whole', () => {
    expect(found({ imageId: 'image-14', disk: 'other', containers: new Set() })).toEqual(['another image']);
  });

  it('of a machine that is gone is nothing else, and of one with unknown contents neither', () => {
    expect(found({ machine: 'gone', isSilent: true })).toEqual(['machine gone']);
    expect(found({ isKnown: false, containers: new Set() })).toEqual(['unknown contents']);
  });

  it('is told of a disk that was changed, where somebody tells what is on it', () => {
    expect(found({ disk: 'changed' })).toEqual(['changed disk']);
    expect(found({ disk: null })).toEqual([]);
    expect(found({ disk: 'changed' }, { ...wanted, disk: null })).toEqual([]);
  });

  it('of a host that is no machine is what its agent tells', () => {
    expect(found({ machine: 'none', imageId: null, disk: null, containers: new Set(['aa']) })).toEqual([
      'container missing: Zinnet Browser 141.0',
    ]);
  });

  it('counts silence only of what is on', () => {
    expect(found({ isSilent: true })).toEqual(['silent agent']);
    expect(found({ isSilent: true, isOn: false })).toEqual([]);
  });

  it('has the worst first, whatever is found', () => {
    const seen = fc.record({
      machine: fc.constantFrom('there' as const, 'gone' as const, 'none' as const),
      isOn: fc.boolean(),
      imageId: fc.constantFrom(null, 'image-14', 'image-15'),
      disk: fc.constantFrom(null, 'fresh-15', 'other'),
      containers: fc.subarray(['aa', 'bb', 'cc', 'dd']).map((all) => new Set(all)),
      isSilent: fc.boolean(),
      isKnown: fc.boolean(),
    });
    fc.assert(
      fc.property(seen, (host) => {
        const ranks = driftOf(host, wanted, (digest) => digest).map(({ kind }) => driftKinds.indexOf(kind));
        expect(ranks).toEqual([...ranks].sort((a, b) => a - b));
      }),
    );
  });
});

describe('what mends it', () => {
  const one = (kind: (typeof driftKinds)[number]) => ({ kind, what: '' });

  it('is the most that any of it asks for', () => {
    expect(mendingOf([one('container missing'), one('container too many')])).toBe('attach only');
    expect(mendingOf([one('container missing'), one('changed disk')])).toBe('rebuild');
    expect(mendingOf([one('another image'), one('silent agent')])).toBe('by hand');
    expect(mendingOf([one('machine gone')])).toBe('by hand');
  });

  const blend = { imageVersionId: '15', packageVersionIds: ['a'], baselineRevisionId: null };
  const need = (mending: 'attach only' | 'rebuild' | 'by hand' | undefined, to = blend) =>
    needOf({ blend, isKnown: true, hasFailed: false, ...(mending && { mending }) }, to);

  it('is what a rollout to its own blend finds to do, and never less than another blend asks for', () => {
    expect(need(undefined)).toBe('nothing');
    expect(need('attach only')).toBe('attach only');
    expect(need('rebuild')).toBe('rebuild');
    expect(need('by hand')).toBe('nothing');
    expect(need('attach only', { ...blend, imageVersionId: '16' })).toBe('rebuild');
    expect(need('by hand', { ...blend, packageVersionIds: [] })).toBe('attach only');
  });
});
