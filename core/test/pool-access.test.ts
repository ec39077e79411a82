import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { memberships, seeAs, type PoolAccess } from '../src/access/see-as.ts';
import { dyeNames, dyeOfVersion } from '../src/dye/dyes.ts';
import { freeNames, planNames } from '../src/pool/names.ts';
import { logNormal, seededRandom } from '../src/random.ts';
import { median, quantile } from '../src/quantile.ts';
import { must } from '../src/result.ts';
import { hostStates, isBroken, standingIn, stateOf, takesSessions } from '../src/pool/service-state.ts';
import { atWork, hostStages, transition } from '../src/rollout/host-state.ts';

describe('names', () => {
  const plan = (pattern: string, start = 1, count = 3, taken: string[] = [], skipTaken = false) =>
    planNames({ pattern, start, count, taken, skipTaken });
  it('fills the counter', () =>
    expect(must(plan('wcl-rr-###', 9)).names).toEqual(['WCL-RR-009', 'WCL-RR-010', 'WCL-RR-011']));
  it('finds the first clash, whatever the case', () => {
    const { clash, clashes } = must(plan('WCL-RR-###', 1, 3, ['wcl-rr-002', 'WCL-RR-003']));
    expect([clash, clashes.length]).toEqual(['WCL-RR-002', 2]);
  });
  it('fills gaps when asked', () =>
    expect(must(plan('A-#', 1, 3, ['A-2'], true)).names).toEqual(['A-1', 'A-3', 'A-4']));
  it('tells an overflow of the counter', () => {
    expect(must(plan('A-#', 8, 2)).overflow).toBe(false);
    expect(must(plan('A-#', 8, 3)).overflow).toBe(true);
  });
  it.each(['WCL-RR', 'W#-#', 'WRENFIELD-READ-###', 'WCL_###', '-W##', '###', 'W é#'])(
    'refuses %s',
    (pattern) => {
      const result = plan(pattern);
      expect(result.ok ? '' : result.error[0]?.path).toBe('pattern');
    },
  );
  it('counts those that are free from a number on, within the width', () => {
    const free = (pattern: string, start: number, taken: string[]) =>
      must(freeNames({ pattern, start, taken }));
    expect(free('A-##', 1, [])).toBe(99);
    // Below the start, of another width, without digits, twice: none of them counts.
    expect(free('a-##', 10, ['A-09', 'A-10', 'a-10', 'A-100', 'A-1x', 'B-11'])).toBe(89);
    expect(free('A-#', 10, [])).toBe(0);
    expect(free('A-##-Z', 0, ['A-00-Z', 'A-00-Y'])).toBe(99);
  });
  it('counts as many free ones as it can give', () =>
    fc.assert(
      fc.property(fc.nat(99), fc.uniqueArray(fc.nat(99), { maxLength: 40 }), (start, numbers) => {
        const taken = numbers.map((n) => `X${String(n).padStart(2, '0')}`);
        const free = must(freeNames({ pattern: 'X##', start, taken }));
        fc.pre(free > 0);
        const count = (n: number) => planNames({ pattern: 'X##', start, count: n, taken, skipTaken: true });
        expect(must(count(free)).overflow).toBe(false);
        expect(must(count(free + 1)).overflow).toBe(true);
      }),
    ));
  it('never gives a name twice nor one over 15 characters without saying so', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 4 }),
        fc.nat(50),
        fc.integer({ min: 1, max: 80 }),
        (width, start, count) => {
          const { names, overflow } = must(plan(`W${'#'.repeat(width)}`, start, count));
          expect(new Set(names).size).toBe(count);
          expect(overflow).toBe(names.some((n) => n.length > width + 1));
        },
      ),
    );
  });
});

describe('see as', () => {
  const groups = [
    { name: 'Tarnside branch', users: ['orla.finch'], groups: [] },
    { name: 'Branch staff', users: [], groups: ['Tarnside branch', 'All staff'] },
    { name: 'All staff', users: [], groups: ['Branch staff'] },
  ];
  const zinnet = {
    packageId: 'package-zinnet',
    name: 'Zinnet Browser',
    version: '139',
    live: true,
    sideBySide: false,
    entryPoints: [{ id: 'entry-1', name: 'Zinnet' }],
  };
  const newer = { ...zinnet, version: '141', entryPoints: [{ id: 'entry-2', name: 'Zinnet 141' }] };
  const given = (groups: string[]) => [{ packageId: 'package-zinnet', name: 'Zinnet Browser', groups }];
  const pool: PoolAccess = {
    id: 'pool-desk',
    name: 'desk-staff',
    attached: [zinnet],
    groupsOfDesktop: ['Branch staff'],
    assigned: given(['All staff']),
  };
  const grants = (p: Partial<PoolAccess>) => seeAs('orla.finch', groups, [{ ...pool, ...p }]);
  it('follows nested groups and reports a cycle once', () => {
    const { paths, cycles } = memberships('orla.finch', groups);
    expect([...paths.keys()]).toEqual(['Tarnside branch', 'Branch staff', 'All staff']);
    expect(cycles).toEqual([['Branch staff', 'All staff', 'Branch staff']]);
  });
  it('gives desktop and app with the whole chain', () => {
    const [desktop, app] = grants({});
    expect(desktop?.chain.map((l) => l.text)).toEqual([
      'orla.finch is in Tarnside branch, which is in Branch staff',
      'Branch staff is assigned to the desktop of desk-staff',
    ]);
    expect([app?.given, app?.entryPoints, app?.chain.length]).toEqual([true, zinnet.entryPoints, 4]);
    expect([desktop?.id, app?.poolId, app?.id]).toEqual(['pool-desk', 'pool-desk', 'package-zinnet']);
  });
  it('of two versions the newest is given, and that is reported; side by side both are', () => {
    const app = (versions: (typeof zinnet)[]) =>
      grants({ attached: versions }).find((grant) => grant.kind === 'app');
    const one = app([zinnet, newer]);
    expect(one?.entryPoints).toEqual(newer.entryPoints);
    expect(one?.chain[2]?.text).toBe(
      'Zinnet Browser 141 is live and attached to desk-staff; 139 is attached too but not marked to run side by side, so the newest is given',
    );
    const both = app([zinnet, newer].map((version) => ({ ...version, sideBySide: true })));
    expect(both?.entryPoints.map((entry) => entry.name)).toEqual(['Zinnet 141', 'Zinnet']);
    expect(both?.chain[2]?.text).toBe(
      'Zinnet Browser 141 and 139 are live side by side and attached to desk-staff',
    );
  });
  it.each([
    ['no group is assigned to Zinnet Browser on desk-staff', { assigned: [] }],
    ['the blend of desk-staff does not attach Zinnet Browser', { attached: [] }],
    ['Zinnet Browser 139 is held', { attached: [{ ...zinnet, live: false }] }],
    ['orla.finch has no desktop on desk-staff to open it on', { groupsOfDesktop: [] }],
    [
      'orla.finch is in none of the groups assigned to Zinnet Browser on desk-staff: Others',
      { assigned: given(['Others']) },
    ],
  ])('breaks at: %s', (text, change) => {
    const app = grants(change).find((g) => g.kind === 'app');
    expect(app?.given).toBe(false);
    expect(app?.chain.at(-1)).toEqual({ holds: false, text });
  });
});

describe('host states', () => {
  it('goes round and refuses leaps', () => {
    expect(must(transition('in service', 'draining'))).toBe('draining');
    expect(must(transition('verifying', 'in service'))).toBe('in service');
    expect(transition('in service', 'verifying').ok).toBe(false);
    expect(transition('rebuilding', 'in service').ok).toBe(false);
  });
  it('from every state there is a way back to service', () => {
    const reaches = (from: (typeof hostStates)[number], seen = new Set<string>()): boolean =>
      from === 'in service' ||
      (!seen.has(from) &&
        hostStates.some((to) => transition(from, to).ok && reaches(to, new Set([...seen, from]))));
    for (const state of hostStates) expect(reaches(state)).toBe(true);
    expect(hostStates.filter((state) => takesSessions(standingIn(state)))).toEqual(['in service']);
    expect(hostStates.map((state) => stateOf(standingIn(state)))).toEqual(hostStates);
    expect(hostStages.filter(atWork)).toHaveLength(5);
  });
});

describe('how a host stands', () => {
  it('work is done out of service, and only there', () => {
    for (const state of hostStates) {
      const { service, work } = standingIn(state);
      expect(work === 'none' || service === 'out of service', state).toBe(true);
    }
  });
  it('a failed host is broken, one at work is not', () =>
    expect(hostStates.filter((state) => isBroken(standingIn(state)))).toEqual(['failed']));
});

describe('small things', () => {
  it('dyes go round in order', () => {
    expect(dyeOfVersion(1)).toBe(dyeNames[0]);
    expect(dyeOfVersion(13)).toBe(dyeNames[0]);
    expect(dyeOfVersion(1, -1)).toBe(dyeNames[11]);
  });
  it('log-normal draws have the median and 90th percentile asked for', () => {
    const random = seededRandom('spread');
    const draws = Array.from({ length: 20_000 }, () => logNormal(random, 30, 45)).sort((a, b) => a - b);
    expect(quantile(draws, 0.5)).toBeCloseTo(30, 0);
    expect(Math.abs((quantile(draws, 0.9) ?? 0) - 45)).toBeLessThan(1);
    expect(logNormal(random, 30, 30)).toBe(30);
  });
  it('medians', () =>
    expect([median([3, 1, 2]), median([4, 1, 2, 3]), median([])]).toEqual([2, 2.5, undefined]));
});
