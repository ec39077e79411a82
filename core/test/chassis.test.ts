import { describe, expect, it } from 'vitest';
import { isFree, slotFaults, type SlotStanding } from '../src/pool/chassis.ts';

const known: SlotStanding[] = [
  { slot: 1, state: 'answers', host: null },
  { slot: 2, state: 'answers', host: 'WCL-DG-02' },
  { slot: 3, state: 'silent', host: null },
  { slot: 4, state: 'not asked', host: null },
  { slot: 5, state: 'answers', host: null },
];

describe('machines of a chassis', () => {
  it('are free where they answer and are no host', () =>
    expect(known.filter(isFree).map((slot) => slot.slot)).toEqual([1, 5]));

  it.each<[number[], number | undefined, unknown[]]>([
    [[1, 5], 2, []],
    [[5], undefined, []],
    [[], 2, [['slots', 'choose the machines of rack-7 that hosts are made of']]],
    [[2], 1, [['slots.0', 'slot 2 of rack-7 is WCL-DG-02 already']]],
    [[1, 3], 2, [['slots.1', 'slot 3 of rack-7 does not answer; look through it again']]],
    [[4], 1, [['slots.0', 'slot 4 of rack-7 was not asked yet; look through it first']]],
    [[19], 1, [['slots.0', 'rack-7 has no slot 19']]],
    [[1, 5, 1], 3, [['slots.2', 'slot 1 is there twice']]],
    [[1, 5], 3, [['count', 'must be 2, since so many machines of rack-7 are chosen']]],
  ])('%j for %s hosts', (wanted, count, faults) =>
    expect(slotFaults('rack-7', wanted, count, known).map(({ path, message }) => [path, message])).toEqual(
      faults,
    ),
  );
});
