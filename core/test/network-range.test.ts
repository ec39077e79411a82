import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { machineAddresses, networkFaults, overlap, readRange, writeRange } from '../src/network-range.ts';

const message = (text: string) => {
  const read = readRange(text);
  return read.ok ? '' : read.error[0]?.message;
};
const range = (text: string) => {
  const read = readRange(text);
  if (!read.ok) throw new Error(text);
  return read.value;
};

describe('a range of addresses', () => {
  it.each([
    ['10.20.4.0/23', 10 * 2 ** 24 + 20 * 2 ** 16 + 4 * 256, 23],
    [' 0.0.0.0/0 ', 0, 0],
    ['255.255.255.255/32', 2 ** 32 - 1, 32],
  ])('%s is read', (text, first, prefix) => expect(range(text)).toEqual({ first, prefix }));
  it.each([
    ['', 'must be an address and a prefix, such as 10.30.4.0/24'],
    ['10.20.4.0', 'must be an address and a prefix, such as 10.30.4.0/24'],
    ['10.20.4/24', 'must be an address and a prefix, such as 10.30.4.0/24'],
    ['10.20.256.0/24', 'has a part over 255'],
    ['10.20.4.0/33', 'has a prefix over 32'],
    ['10.20.5.0/23', 'begins in the middle; the range around it is 10.20.4.0/23'],
    ['10.20.4.77/24', 'begins in the middle; the range around it is 10.20.4.0/24'],
  ])('%s is refused', (text, why) => expect(message(text)).toBe(why));

  const ranges = fc
    .integer({ min: 0, max: 32 })
    .chain((prefix) =>
      fc.integer({ min: 0, max: 2 ** prefix - 1 }).map((n) => ({ first: n * 2 ** (32 - prefix), prefix })),
    );
  it('is the same after it was written and read', () =>
    fc.assert(
      fc.property(ranges, (one) => {
        expect(range(writeRange(one))).toEqual(one);
      }),
    ));
  it('overlaps another one exactly where one holds the first address of the other', () =>
    fc.assert(
      fc.property(ranges, ranges, (a, b) => {
        const holds = (outer: typeof a, address: number) =>
          Math.floor(address / 2 ** (32 - outer.prefix)) ===
          Math.floor(outer.first / 2 ** (32 - outer.prefix));
        expect(overlap(a, b)).toBe(holds(a, b.first) || holds(b, a.first));
        expect(overlap(a, b)).toBe(overlap(b, a));
      }),
    ));
  it('has room for machines in all but three', () =>
    expect([23, 27, 30, 32].map((prefix) => machineAddresses({ prefix }))).toEqual([509, 29, 1, 0]));
});

describe('the networks of a new site', () => {
  const there = [
    { site: 'yard-a', name: 'desks', range: '10.20.4.0/23' },
    { site: 'rack-7', name: 'scanning', range: '10.22.0.0/26' },
  ];
  const faults = (...wanted: { name: string; range: string }[]) =>
    networkFaults(wanted, there).map(({ path, message: why }) => [path, why]);
  it('are fine where nothing else is', () =>
    expect(
      faults({ name: 'desks', range: '10.30.4.0/24' }, { name: 'voice', range: '10.30.5.0/24' }),
    ).toEqual([]));
  it.each([
    [{ name: 'new', range: '10.20.5.0/24' }, 'range', 'overlaps desks of yard-a, 10.20.4.0/23'],
    [{ name: 'new', range: '10.16.0.0/12' }, 'range', 'is larger than anybody fills; take /16 or smaller'],
    [{ name: 'new', range: '10.22.0.0/16' }, 'range', 'overlaps scanning of rack-7, 10.22.0.0/26'],
    [{ name: 'new', range: '10.30.0.0/29' }, 'range', 'has room for 5 machines; take /28 or larger'],
    [
      { name: 'new', range: '224.0.0.0/24' },
      'range',
      'is not for machines: RFC 6890 keeps it for other things',
    ],
    [
      { name: 'new', range: '127.0.0.0/24' },
      'range',
      'is not for machines: RFC 6890 keeps it for other things',
    ],
    [{ name: '', range: '10.30.0.0/24' }, 'name', 'The name is empty'],
    [
      { name: 'Two Words', range: '10.30.0.0/24' },
      'name',
      'must be small letters, digits and single hyphens',
    ],
  ])('%j is refused', (network, field, why) =>
    expect(faults(network)).toEqual([[`networks.0.${field}`, why]]),
  );
  it('are held against one another', () =>
    expect(faults({ name: 'a', range: '10.30.4.0/23' }, { name: 'a', range: '10.30.5.0/24' })).toEqual([
      ['networks.1.name', 'a stands here twice'],
      ['networks.1.range', 'overlaps a of the same site, 10.30.4.0/23'],
    ]));
});
