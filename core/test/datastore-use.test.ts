import { describe, expect, it } from 'vitest';
import { commitmentOf, usesOf } from '../src/pool/datastore-use.ts';

describe('what a datastore holds', () => {
  it('is added up by owner, the largest first', () => {
    const pool = { kind: 'pool', name: 'desk-staff' } as const;
    const parent = { kind: 'parent', name: 'Staff 12' } as const;
    expect(
      usesOf([
        { owner: pool, bytes: 10, disks: 2 },
        { owner: parent, bytes: 18, disks: 1 },
        { owner: { kind: 'other', name: '' }, bytes: 3, disks: 1 },
        { owner: pool, bytes: 9, disks: 3 },
        // A pool and an image of one name are two owners.
        { owner: { kind: 'parent', name: 'desk-staff' }, bytes: 1, disks: 1 },
      ]),
    ).toEqual([
      { ...pool, bytes: 19, disks: 5 },
      { ...parent, bytes: 18, disks: 1 },
      { kind: 'other', name: '', bytes: 3, disks: 1 },
      { kind: 'parent', name: 'desk-staff', bytes: 1, disks: 1 },
    ]);
  });

  it('is within, over or beyond its promise, the bounds belonging to the better side', () => {
    const of = (promised: number) => commitmentOf(promised, 100, 1.5);
    expect([of(100), of(101), of(150), of(151)]).toEqual(['within', 'over', 'over', 'beyond']);
  });
});
