import { describe, expect, it } from 'vitest';
import { poolAhead, standingAt, type ComingChange } from '../src/rollout/ahead.ts';
import type { ComparedBlend } from '../src/rollout/blends/compare.ts';
import { reachOf } from '../src/access/reach.ts';

const pack = (name: string, version: string) =>
  ({ id: `${name} ${version}`, packageId: name, name, version, timing: 'at sign-in' }) as const;
const blend = (number: number, ...packages: ComparedBlend['packages']): ComparedBlend => ({
  image: { id: `v${number}`, line: 'Staff', number },
  packages,
  baselineRevisionId: null,
});
const change = (
  of: string,
  begins: number | null,
  done: number | null,
  to: ComparedBlend | null,
): ComingChange => ({
  of,
  begins,
  done,
  to,
  isWhole: true,
});

const now = blend(14, pack('Browser', '140'));
const sunday = change('sunday', 100, 140, blend(15, pack('Browser', '140')));
const tuesday = change('tuesday', 200, 220, blend(15, pack('Browser', '141')));

describe('a change at an instant', () => {
  it.each([
    [99, 'later'],
    // At its very beginning no host is another yet.
    [100, 'later'],
    [101, 'under way'],
    [139, 'under way'],
    [140, 'done'],
  ] as const)('at %i is %s', (at, standing) => {
    expect(standingAt(sunday, at)).toBe(standing);
  });

  it('of which nobody knows when it begins, or ends, is never done', () => {
    expect(standingAt(change('paused', null, null, now), 1e15)).toBe('later');
    expect(standingAt(change('stuck', 100, null, now), 1e15)).toBe('under way');
  });
});

describe('a pool ahead', () => {
  const at = (instant: number) => poolAhead(now, [tuesday, sunday], instant);

  it('has its changes in the order in which they come, each against the one before', () => {
    expect(at(0).changes.map(({ change: { of }, comparison }) => [of, comparison?.headline])).toEqual([
      ['sunday', 'Staff 14 to 15'],
      ['tuesday', '1 package newer'],
    ]);
  });

  it.each([
    [0, 14, 'exactly the same'],
    [139, 14, 'exactly the same'],
    [140, 15, 'Staff 14 to 15'],
    [220, 15, 'Staff 14 to 15, 1 package newer'],
  ])('at %i holds version %i: %s', (instant, number, headline) => {
    const { holds, comparison } = at(instant);
    expect([holds?.image.number, comparison?.headline]).toEqual([number, headline]);
  });

  it('does not guess at what is yet to be cut, nor at what comes behind it', () => {
    const cut = change('cut', 150, 160, null);
    const { changes, holds, comparison } = poolAhead(now, [sunday, cut, tuesday], 170);
    expect(changes.map((one) => one.comparison?.headline ?? null)).toEqual(['Staff 14 to 15', null, null]);
    expect([holds, comparison]).toEqual([null, null]);
    // What comes behind it is known again.
    expect(poolAhead(now, [sunday, cut, tuesday], 220).holds?.packages[0]?.version).toBe('141');
  });

  it('holds what a share of its hosts is taken to only when the rest is taken there too', () => {
    const first = { ...sunday, of: 'first tenth', isWhole: false };
    const rest = { ...sunday, of: 'rest', begins: 150, done: 190 };
    const { changes, holds } = poolAhead(now, [first, rest], 160);
    expect(changes.map((one) => [one.standing, one.comparison?.headline])).toEqual([
      ['done', 'Staff 14 to 15'],
      ['under way', 'Staff 14 to 15'],
    ]);
    expect(holds?.image.number).toBe(14);
    expect(poolAhead(now, [first, rest], 190).holds?.image.number).toBe(15);
  });

  it('without hosts has nothing to compare with', () => {
    expect(poolAhead(null, [sunday], 140)).toMatchObject({
      comparison: null,
      holds: { image: { number: 15 } },
    });
  });

  it('that waits for somebody waits behind what has a time', () => {
    const paused = change('paused', null, null, blend(16));
    expect(poolAhead(now, [paused, sunday], 140).changes.map((one) => one.change.of)).toEqual([
      'sunday',
      'paused',
    ]);
  });
});

describe('what reaches somebody', () => {
  const groups = [
    { name: 'clerks', users: ['ada'], groups: [] },
    { name: 'branches', users: ['bea'], groups: ['clerks'] },
    { name: 'agents', users: ['cid'], groups: [] },
  ];
  const pools = [
    {
      id: 'desks',
      groupsOfDesktop: ['branches'],
      assigned: [
        { packageId: 'browser', name: 'Browser', groups: ['clerks'] },
        { packageId: 'cash', name: 'Cash', groups: ['agents'] },
      ],
    },
    { id: 'maps', groupsOfDesktop: ['agents'], assigned: [] },
    {
      id: 'tills',
      groupsOfDesktop: [],
      assigned: [{ packageId: 'cash', name: 'Cash', groups: ['branches'] }],
    },
  ];

  it('is a person’s by nesting', () => {
    expect(reachOf({ kind: 'person', id: 'ada' }, groups, pools)).toEqual([
      { poolId: 'desks', hasDesktop: true, packageIds: ['browser'], through: ['clerks', 'branches'] },
      { poolId: 'tills', hasDesktop: false, packageIds: ['cash'], through: ['clerks', 'branches'] },
    ]);
  });

  it('is a group’s without that of the groups in it', () => {
    expect(reachOf({ kind: 'group', id: 'branches' }, groups, pools)).toEqual([
      { poolId: 'desks', hasDesktop: true, packageIds: [], through: ['branches'] },
      { poolId: 'tills', hasDesktop: false, packageIds: ['cash'], through: ['branches'] },
    ]);
  });

  it('is nothing for somebody in no group, or a group that is not there', () => {
    expect(reachOf({ kind: 'person', id: 'dan' }, groups, pools)).toEqual([]);
    expect(reachOf({ kind: 'group', id: 'nobody' }, groups, pools)).toEqual([]);
  });
});
