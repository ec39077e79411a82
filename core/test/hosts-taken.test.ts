import { describe, expect, it } from 'vitest';
import { sourceRefusal } from '../src/pool/source-hold.ts';
import { allThatDiffer, hostsTaken } from '../src/rollout/hosts-taken.ts';

const hosts = ['a', 'b', 'c', 'd'].map((name, i) => ({ name, isAsWanted: i < 2 }));
const taken = (choice: Partial<Parameters<typeof hostsTaken>[1]>) =>
  hostsTaken(hosts, { ...allThatDiffer, ...choice }).map((host) => host.name);

describe('the hosts that a rollout takes', () => {
  it.each([
    [{}, ['c', 'd']],
    [{ isRemake: true }, ['a', 'b', 'c', 'd']],
    [{ onlyHosts: ['d', 'a'] }, ['d']],
    [{ isRemake: true, onlyHosts: ['d', 'a'] }, ['a', 'd']],
    [{ onlyHosts: ['a'] }, []],
    [{ onlyHosts: ['not-there'], isRemake: true }, []],
  ])('%j: %j', (choice, names) => expect(taken(choice)).toEqual(names));
});

describe('a source that is held', () => {
  const held = { pool: 'desk-staff', hold: 'audit until Friday', versionId: 'v14' };
  it('lets no other version come, and says why', () =>
    expect(sourceRefusal(held, 'v15')).toBe('what desk-staff is made from is held: audit until Friday'));
  it.each([
    [{ ...held, hold: '' }, 'v15'],
    [held, 'v14'],
  ])('%# stands in nobody’s way otherwise', (source, wanted) =>
    expect(sourceRefusal(source, wanted)).toBeUndefined(),
  );
});
