/** Access answers against an evaluator that tries everything, over random directories, blends and assignments. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { memberships, seeAs, type Group, type PoolAccess } from '../src/access/see-as.ts';

const names = ['a', 'b', 'c', 'd', 'e'];
const people = ['orla', 'finn', 'nuala'];
const packages = ['zinnet', 'pellam', 'cartolune'];

const directory: fc.Arbitrary<Group[]> = fc
  .array(
    fc.record({
      users: fc.subarray(people),
      groups: fc.subarray(names),
    }),
    { minLength: names.length, maxLength: names.length },
  )
  .map((groups) => groups.map((group, i) => ({ name: names[i] ?? '', ...group })));

const attached = fc.record({
  packageId: fc.constantFrom(...packages),
  version: fc.constantFrom('1', '2', '10'),
  live: fc.boolean(),
  sideBySide: fc.constant(false),
});
const pool = fc
  .record({
    id: fc.constantFrom('p1', 'p2'),
    attached: fc.uniqueArray(attached, {
      maxLength: 4,
      selector: (one) => `${one.packageId} ${one.version}`,
    }),
    groupsOfDesktop: fc.subarray(names),
    assigned: fc.uniqueArray(
      fc.record({ packageId: fc.constantFrom(...packages), groups: fc.subarray(names, { minLength: 1 }) }),
      { maxLength: 3, selector: (one) => one.packageId },
    ),
  })
  .map((one): PoolAccess => ({
    ...one,
    name: `name of ${one.id}`,
    attached: one.attached.map((version) => ({
      ...version,
      name: version.packageId,
      entryPoints: [{ id: `${version.packageId} ${version.version}`, name: version.version }],
    })),
    assigned: one.assigned.map((row) => ({ ...row, name: row.packageId })),
  }));

/** Whether a person is in a group, by following every way as long as it may be. */
function isIn(person: string, name: string, groups: readonly Group[], depth = names.length): boolean {
  const group = groups.find((one) => one.name === name);
  if (!group || depth < 0) return false;
  return group.users.includes(person) || group.groups.some((child) => isIn(person, child, groups, depth - 1));
}

function isGiven(person: string, packageId: string, pool: PoolAccess, groups: readonly Group[]): boolean {
  const isInOne = (assigned: readonly string[]) => assigned.some((name) => isIn(person, name, groups));
  return (
    isInOne(pool.groupsOfDesktop) &&
    pool.assigned.some((row) => row.packageId === packageId && isInOne(row.groups)) &&
    pool.attached.some((version) => version.packageId === packageId && version.live)
  );
}

describe('who sees what', () => {
  it('is what trying everything says, for desktops and for every package', () => {
    const property = fc.property(directory, pool, fc.constantFrom(...people), (groups, one, person) => {
      const grants = seeAs(person, groups, [one]);
      const desktop = grants.find((grant) => grant.kind === 'desktop');
      expect(desktop?.given).toBe(one.groupsOfDesktop.some((name) => isIn(person, name, groups)));
      for (const packageId of packages) {
        const grant = grants.find((row) => row.kind === 'app' && row.id === packageId);
        expect(grant?.given ?? false, packageId).toBe(isGiven(person, packageId, one, groups));
      }
    });
    fc.assert(property, { numRuns: 1_000 });
  });

  it('is explained by links of which only the last may break, and breaks where nothing is given', () => {
    const property = fc.property(directory, pool, fc.constantFrom(...people), (groups, one, person) => {
      for (const { chain, given } of seeAs(person, groups, [one])) {
        expect(chain.slice(0, -1).every((link) => link.holds)).toBe(true);
        expect(chain.at(-1)?.holds).toBe(given);
      }
    });
    fc.assert(property, { numRuns: 500 });
  });

  it('of two live versions only the newest is opened, by number and not by letters', () => {
    const property = fc.property(directory, pool, fc.constantFrom(...people), (groups, one, person) => {
      for (const grant of seeAs(person, groups, [one])) {
        if (grant.kind === 'desktop' || !grant.given) continue;
        const live = one.attached.filter((version) => version.packageId === grant.id && version.live);
        const newest = Math.max(...live.map((version) => Number(version.version)));
        expect(grant.entryPoints.map((entry) => entry.id)).toEqual([`${grant.id} ${newest}`]);
      }
    });
    fc.assert(property, { numRuns: 500 });
  });

  it('knows exactly the groups that a person is in, each by a way that leads there', () => {
    const property = fc.property(directory, fc.constantFrom(...people), (groups, person) => {
      const { paths } = memberships(person, groups);
      expect([...paths.keys()].sort()).toEqual(names.filter((name) => isIn(person, name, groups)));
      for (const [name, path] of paths) {
        expect(path.at(-1)).toBe(name);
        expect(groups.find((group) => group.name === path[0])?.users).toContain(person);
        for (const [i, child] of path.slice(0, -1).entries())
          expect(groups.find((group) => group.name === path[i + 1])?.groups).toContain(child);
      }
    });
    fc.assert(property, { numRuns: 500 });
  });
});
