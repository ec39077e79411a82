/** What is made of facts about shares and pools before the models of the core are asked, by hand. */
import { describe, expect, it } from 'vitest';
import type { ShareDemandFacts } from '@vatline/contract/share';
import { hostsByPool } from '../src/images/hosts-by-pool.ts';
import { adviceOn, shareInputDefaults, signInRows } from '../src/packages/shares/share-model.ts';

const office = Array.from({ length: 24 }, (_, hour) => (hour < 8 ? 0 : hour < 17 ? 360 : 0));
const attached = (change: Partial<ShareDemandFacts['pools'][number]['packages'][number]> = {}) => ({
  versionId: 'v',
  name: 'Reader',
  version: '9.0',
  containerBytes: 40e6,
  entryPoints: 2,
  attachedAhead: false,
  operations: 100,
  mountMs: 400,
  registerMs: 70,
  measuredOn: null,
  ...change,
});
const share = (name: string, price: number, operationsLimit: number) => ({
  name,
  price,
  operationsLimit,
  capacityBytes: 1e12,
  usedBytes: 0,
  scale: 1,
  rights: { hosts: 'read', packagers: 'write', users: 'nothing' } as const,
  faults: [],
  containers: 1,
});
const facts = (change: Partial<ShareDemandFacts> = {}): ShareDemandFacts => ({
  shares: [share('plain', 0.05, 100), share('fast', 0.16, 1_000)],
  versionBytes: [40e9, 60e9],
  pools: [{ name: 'desks', hosts: 36, expected: office, packages: [attached()] }],
  ...change,
});
const inputs = { ...shareInputDefaults, turnover: 0, peak: 3, steadyOperations: 10, startHour: 5 };

describe('the advice on shares', () => {
  it('reckons with the growth, and with the rush in which 360 people come in an hour', () => {
    const advice = adviceOn(facts(), inputs);
    // 100 GB and 30 % more.
    expect(advice.capacityBytes).toBe(130e9);
    // 360 an hour are 0.1 a second, three times that in the busiest minute, 100 reads each; and 10 all day.
    expect(advice.peakHour).toBe(7);
    expect(advice.operations[7]).toBeCloseTo(0.3 * 100 + 10);
    expect(advice.operations[12]).toBeCloseTo(10);
    expect(advice.tier?.name).toBe('plain');
    expect(advice.fits.map((fit) => fit.monthly)).toEqual([6.5, 20.8]);
  });

  it('takes the dearer one where the rush is more than the cheaper serves with 30 % to spare', () => {
    const heavy = facts({
      pools: [{ name: 'desks', hosts: 36, expected: office, packages: [attached({ operations: 300 })] }],
    });
    const advice = adviceOn(heavy, inputs);
    expect(advice.operations[7]).toBeCloseTo(100);
    expect(advice.tier?.name).toBe('fast');
    expect(advice.fits[0]?.lacks).toContain('70 operations a second');
    expect(advice.cheaper).toBe('plain would do if all packages were attached ahead');
  });

  it('counts what is attached ahead when hosts start, and not when people come', () => {
    const ahead = facts({
      pools: [{ name: 'desks', hosts: 36, expected: office, packages: [attached({ attachedAhead: true })] }],
    });
    const { operations } = adviceOn(ahead, inputs);
    // 36 hosts in an hour, 100 reads each: one a second.
    expect(operations[5]).toBeCloseTo(11);
    expect(operations[7]).toBeCloseTo(10);
  });
});

describe('sign-in time of a pool', () => {
  const rows = (all: ShareDemandFacts) => signInRows(all, inputs, adviceOn(all, inputs));

  it('is the base, the profile, the mount on a share with that load, and two entry points', () => {
    const [row] = rows(facts());
    // 6 s + 3 s + 70 ms; 400 ms at a load of 10 of 100 reads takes 444 ms, at 40 of 100 it takes 667 ms.
    expect(row?.usual.ms).toBeCloseTo(9_070 + 400 / 0.9, 0);
    expect(row?.busiest.ms).toBeCloseTo(9_070 + 400 / 0.6, 0);
    expect(row?.busiest.load).toBeCloseTo(0.4);
  });

  it('is less by all of that where the package is attached ahead', () => {
    const [row] = rows(facts());
    expect(row?.busiest.savings).toEqual([
      { name: 'Reader 9.0', ms: expect.closeTo(400 / 0.6 + 70, 0) as number },
    ]);
  });

  it('is told for pools that attach something', () => {
    const two = facts({
      pools: [...facts().pools, { name: 'bare', hosts: 4, expected: office, packages: [] }],
    });
    expect(rows(two).map((row) => [row.pool, row.packages])).toEqual([['desks', 1]]);
  });

  it('is told by the last share where none carries it', () => {
    const none = facts({ shares: [share('tiny', 0.05, 12)] });
    expect(adviceOn(none, inputs).tier).toBeUndefined();
    expect(rows(none)[0]?.busiest.isSaturated).toBe(true);
    expect(rows({ ...none, shares: [] })).toEqual([]);
  });
});

describe('where a line runs', () => {
  const version = (number: number, ...usedBy: [string, number][]) =>
    ({ id: `v${number}`, number, usedBy: usedBy.map(([pool, hosts]) => ({ pool, hosts })) }) as never;

  it('is told by pool, the newest version first, with how many hosts each has', () => {
    const versions = [
      version(13, ['desks', 22]),
      version(15, ['pilot', 6]),
      version(14, ['desks', 18], ['pilot', 0]),
    ];
    expect(
      hostsByPool({ versions }).map(({ pool, hosts, runs }) => [
        pool,
        hosts,
        runs.map((run) => [run.version.number, run.hosts]),
      ]),
    ).toEqual([
      [
        'desks',
        40,
        [
          [14, 18],
          [13, 22],
        ],
      ],
      ['pilot', 6, [[15, 6]]],
    ]);
  });

  it('is nowhere while nothing runs it', () => expect(hostsByPool({ versions: [version(1)] })).toEqual([]));
});
