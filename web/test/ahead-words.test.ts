/** What changes for whom, as people read it. */
import { describe, expect, it } from 'vitest';
import type { Ahead, ChangeAhead, PoolAhead } from '@vatline/contract/ahead';
import { aheadInWords, packageInWords, poolThen, whenInWords } from '../src/rollouts/ahead/ahead-in-words.ts';
import { atOf, nextMonday, wallOf } from '../src/rollouts/ahead/asked-moment.ts';
import { ribbonParts } from '../src/rollouts/ahead/ribbon-parts.ts';

const zone = 'Europe/Dublin';
const at = Date.UTC(2027, 2, 29, 7);
const HOUR = 3_600_000;
const walnut = { line: 'Staff', number: 14, dye: 'walnut' } as const;
const indigo = { line: 'Staff', number: 15, dye: 'indigo' } as const;
const newImage = { headline: 'Staff 14 to 15', image: { from: walnut, to: indigo }, packages: [] };
const nothing = { headline: 'exactly the same', image: null, packages: [] };

const change = (more: Partial<ChangeAhead> = {}): ChangeAhead => ({
  kind: 'rollout',
  title: 'rollout of desks',
  to: '/rollouts/r1',
  hosts: 24,
  isWhole: true,
  begins: at - 30 * HOUR,
  done: at - 28 * HOUR,
  waitsFor: '',
  standing: 'done',
  difference: newImage,
  ...more,
});
const pool = (changes: ChangeAhead[], more: Partial<PoolAhead> = {}): PoolAhead => ({
  poolId: 'p1',
  pool: 'desks',
  hosts: 24,
  hasDesktop: true,
  through: [],
  now: walnut,
  then: changes.some(({ standing }) => standing === 'done') ? indigo : walnut,
  difference: changes.some(({ standing }) => standing === 'done') ? newImage : nothing,
  changes,
  ...more,
});
const ahead = (of: Ahead['of'], ...pools: PoolAhead[]): Ahead => ({
  of,
  name: of === 'pool' ? 'desks' : 'Ada',
  at,
  pools,
});
const later = change({ standing: 'later' });
const underWay = change({ standing: 'under way' });

describe('what changes', () => {
  it.each<[Ahead, string]>([
    [ahead('pool', pool([])), 'Nothing is planned that changes desks.'],
    [ahead('pool', pool([later])), 'On Mon 29 Mar 08:00 desks is as it is now; what is planned comes later.'],
    [ahead('pool', pool([change()])), 'On Mon 29 Mar 08:00 desks has changed: Staff 14 to 15.'],
    [
      ahead('pool', pool([underWay])),
      'On Mon 29 Mar 08:00 desks is being changed; not all of its hosts are the same.',
    ],
    [
      ahead('pool', pool([change({ difference: null })], { difference: null, then: null })),
      'On Mon 29 Mar 08:00 desks runs a version that is yet to be cut.',
    ],
    [ahead('person'), 'No pool is Ada’s to use, so nothing changes for them.'],
    [ahead('group', pool([later])), 'On Mon 29 Mar 08:00 nothing has changed on the one pool of Ada.'],
    [
      ahead('person', pool([change()]), pool([underWay], { pool: 'tills' }), pool([], { pool: 'maps' })),
      'On Mon 29 Mar 08:00, of the 3 pools of Ada, desks has changed and tills is being changed.',
    ],
  ])('%#', (asked, says) => expect(aheadInWords(asked, zone)).toBe(says));

  it('for somebody is nothing where they may open nothing of it', () => {
    const aside = change({ difference: nothing });
    expect(poolThen(pool([aside], { difference: nothing }))).toBe('the same');
  });

  it('on a share of the hosts is under way until the rest is there', () => {
    const share = change({ isWhole: false, hosts: 3 });
    expect(poolThen(pool([share], { difference: nothing }))).toBe('under way');
  });

  it('says when, or why nobody knows', () => {
    expect(whenInWords(change(), zone)).toBe('from Sun 28 Mar 02:00, done by Sun 28 Mar 04:00 (9 in 10)');
    expect(whenInWords(change({ begins: null, done: null, waitsFor: 'it is paused' }), zone)).toBe(
      'it is paused',
    );
    const endless = change({ done: null, waitsFor: 'the cut after it comes before it is done' });
    expect(whenInWords(endless, zone)).toBe(
      'from Sun 28 Mar 02:00; the cut after it comes before it is done',
    );
  });

  it.each([
    [{ change: 'added', name: 'Cash', from: null, to: '5.1' }, 'Cash 5.1 comes'],
    [{ change: 'removed', name: 'Cash', from: '5.1', to: null }, 'Cash 5.1 goes'],
    [{ change: 'older', name: 'Cash', from: '5.1', to: '5.0' }, 'Cash 5.1 to 5.0'],
  ] as const)('%#', (one, says) => expect(packageInWords(one)).toBe(says));
});

describe('the moment that is asked for', () => {
  it('is wall time of the estate, over the change of the clocks', () => {
    expect(wallOf(at, zone)).toBe('2027-03-29T08:00');
    expect(atOf('2027-03-29T08:00', zone)).toBe(at);
    // 02:30 on the last Sunday of October is there twice.
    expect(atOf('2027-10-31T01:30', zone)).toBe(Date.UTC(2027, 9, 31, 0, 30));
  });

  it.each(['', '2027-02-30T08:00', '2027-03-29', '2027-03-29T25:00', 'soon'])('%o is none', (text) =>
    expect(atOf(text, zone)).toBeUndefined(),
  );

  it('is first the Monday that comes, never today', () => {
    const monday = Date.UTC(2027, 2, 22, 6);
    expect(nextMonday(monday, zone)).toBe(at);
    expect(nextMonday(at - 6 * HOUR, zone)).toBe(at + 168 * HOUR);
    expect(nextMonday(at - 12 * HOUR, zone)).toBe(at);
  });
});

describe('a ribbon', () => {
  const parts = (...changes: ChangeAhead[]) =>
    ribbonParts(pool(changes), 0, 100).map(({ from, to, before, after }) => [from, to, before, after]);

  it('slants from one dye to the next while hosts change', () =>
    expect(parts(change({ begins: 40, done: 60 }))).toEqual([
      [0, 0.4, 'walnut', 'walnut'],
      [0.4, 0.6, 'walnut', 'indigo'],
      [0.6, 1, 'indigo', 'indigo'],
    ]));

  it('has nothing of what waits, nor of what begins after its end', () =>
    expect(parts(change({ begins: null, done: null }), change({ begins: 100, done: 120 }))).toEqual([
      [0, 1, 'walnut', 'walnut'],
    ]));

  it('keeps its dye over a share of the hosts, and over other packages', () => {
    const packages = {
      ...nothing,
      packages: [{ change: 'added', name: 'Cash', from: null, to: '5' } as const],
    };
    expect(
      parts(
        change({ begins: -10, done: 20, isWhole: false }),
        change({ begins: 30, done: 50, difference: packages }),
      ),
    ).toEqual([
      [0, 0.2, 'walnut', 'indigo'],
      [0.2, 0.3, 'walnut', 'walnut'],
      [0.3, 0.5, 'walnut', 'walnut'],
      [0.5, 1, 'walnut', 'walnut'],
    ]);
  });

  it('is empty from where a version is yet to be cut, and goes on where no end is in sight', () =>
    expect(parts(change({ begins: 50, done: null, difference: null }))).toEqual([
      [0, 0.5, 'walnut', 'walnut'],
      [0.5, 1, 'walnut', null],
    ]));
});
