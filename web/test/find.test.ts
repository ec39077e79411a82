/** What Ctrl+K finds, and in which order. */
import { describe, expect, it } from 'vitest';
import { matching, places, type Findables } from '../src/app/find.ts';
import { sidings, sidingsAt } from '../src/app/sidings.ts';
import { stations } from '../src/app/stations.ts';

const demo = {
  lines: [{ id: 'l1', name: 'Reader desktop', versions: [{ number: 12 }, { number: 11 }] }],
  pools: [{ id: 'p1', name: 'reading-rooms' }],
  rollouts: [
    { id: 'r1', pool: 'reading-rooms', endedAt: null, to: { imageNumber: 12 } },
    { id: 'r0', pool: 'reading-rooms', endedAt: 5, to: { imageNumber: 11 } },
  ],
  packages: [
    { id: 'k1', name: 'Halvane Print', waiting: null, versions: [] },
    {
      id: 'k2',
      name: 'Zinnet Browser',
      waiting: '141.0',
      versions: [
        { version: '140.0', state: 'verified' },
        { version: '139.0', state: 'live' },
      ],
    },
  ],
} as unknown as Findables;
const found = (text: string, atMost = 12) =>
  matching(places(demo), text, atMost).map(({ label, kind, to }) => `${label} (${kind}) ${to}`);

describe('what is found', () => {
  it('is the object before what is done with it, for a bare name', () =>
    expect(found('zinnet')).toEqual([
      'Zinnet Browser (package) /packages/k2',
      'Capture Zinnet Browser 141.0 (do) /packages/k2',
      'Offer Zinnet Browser 140.0 to hosts (do) /packages/k2',
      'Compare versions of Zinnet Browser (do) /packages/k2/compare',
    ]));

  it('is what begins with the text before what only holds it', () =>
    expect(found('cut')).toEqual([
      'Cut version 13 of Reader desktop (do) /images/l1',
      'Cut Reader desktop by a schedule (do) /images/l1/schedule',
    ]));

  it('is an action by its verb and part of a name, in any order', () =>
    expect(found('rooms assign')).toEqual(['Assign people to reading-rooms (do) /access?pool=p1']));

  it('offers to stop only what is under way', () =>
    expect(found('stop')).toEqual(['Stop the rollout of reading-rooms, or go back (do) /rollouts/r1']));

  it('offers nothing with a package that has neither a version nor one that waits', () =>
    expect(found('halvane')).toEqual(['Halvane Print (package) /packages/k1']));

  it('is every page of every station by its name', () => {
    for (const { path, name } of stations) expect(found(`${name} station`)[0]).toContain(`/${path}`);
    expect(found('noise rules')).toEqual(['Noise rules (page) /packages/rules']);
  });

  it('is nothing where no word fits, and no more than were asked for', () => {
    expect(found('zzz')).toEqual([]);
    expect(found('', 3)).toHaveLength(3);
    expect(found('   ', 100)).toEqual(found('', 100));
  });
});

describe('the pages of a station', () => {
  it('are at most nine, its own first', () => {
    for (const pages of Object.values(sidings)) {
      expect(pages.length).toBeLessThanOrEqual(9);
      expect(pages[0]?.path).toBe('');
    }
  });

  it('show the open one by its address, and the station itself on all others', () => {
    expect(sidingsAt('/packages/shares').open).toBe('shares');
    expect(sidingsAt('/packages/options/s1/basic').open).toBe('options');
    expect(sidingsAt('/packages/k2/compare').open).toBe('');
    expect(sidingsAt('/packages').open).toBe('');
  });

  it('are none where a station has only one, nor at home', () => {
    expect(sidingsAt('/access').pages).toEqual([]);
    expect(sidingsAt('/').pages).toEqual([]);
  });
});
