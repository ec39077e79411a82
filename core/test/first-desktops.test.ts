import { describe, expect, it } from 'vitest';
import { proposeFirst, type Surroundings } from '../src/first-desktops/propose.ts';
import { firstDesktopsTime } from '../src/first-desktops/time.ts';
import { makingTime } from '../src/pool/making-time.ts';

const amount = (total: number, used: number) => ({ total, used });
const size = (name: string, pricePerHour: number) => ({
  name,
  processors: 2,
  memoryBytes: 8e9,
  graphics: 0,
  pricePerHour,
});
const store = (name: string, price: number) => ({
  name,
  price,
  capacityBytes: 1e12,
  usedBytes: 0,
  overcommit: 1,
  operations: amount(1_000, 0),
});
const site = (name: string, cores: number, sizes = [size('small', 0.1), size('tiny', 0.05)]) => ({
  name,
  cores: amount(100, 100 - cores),
  memoryBytes: amount(1e12, 0),
  graphics: amount(0, 0),
  networks: [
    { name: 'full', addresses: amount(20, 20) },
    { name: 'wide', addresses: amount(500, 20) },
  ],
  datastores: [store('fast', 0.2), store('archive', 0.01), store('standard', 0.05)],
  sizes,
});
const around: Surroundings = {
  sites: [site('a', 10), site('b', 60), site('racks', 90, [])],
  units: [
    { dn: 'OU=Build,OU=Hosts,DC=x', computers: 9 },
    { dn: 'OU=Branches,DC=x', computers: 0 },
    { dn: 'OU=Hosts,DC=x', computers: 0 },
    { dn: 'OU=Desks,OU=Hosts,DC=x', computers: 0 },
  ],
  buildUnit: 'OU=Build,OU=Hosts,DC=x',
  groups: [
    { name: 'everybody', people: 900 },
    { name: 'nobody', people: 0 },
    { name: 'four', people: 4 },
  ],
};

describe('values for somebody who begins with nothing', () => {
  it('are where most is free, what is cheapest, neither dearest nor slowest, and on few people', () =>
    expect(proposeFirst(around)).toEqual({
      site: 'b',
      network: 'wide',
      datastore: 'standard',
      size: 'tiny',
      unit: 'OU=Hosts,DC=x',
      group: 'four',
    }));
  it('put hosts where most computers are, where there are any', () => {
    const units = around.units.map((unit) =>
      unit.dn.startsWith('OU=Desks') ? { ...unit, computers: 3 } : unit,
    );
    expect(proposeFirst({ ...around, units }).unit).toBe('OU=Desks,OU=Hosts,DC=x');
  });
  it('are empty where nothing is there', () =>
    expect(proposeFirst({ sites: [], units: [], buildUnit: '', groups: [] })).toEqual({
      site: '',
      network: '',
      datastore: '',
      size: '',
      unit: '',
      group: '',
    }));
});

describe('the time until first desktops are there', () => {
  it('is that of its parts, one after the other, and later in one case of ten', () => {
    const time = firstDesktopsTime(47, 2, 8);
    // Shut down 1, copy 6, generalise 4, capture 5.
    expect([time.buildMinutes, time.cutMinutes]).toEqual([47, 16]);
    expect(time.makeMinutes).toBe(makingTime('linked', 2, 8).p50Minutes);
    const sum = time.buildMinutes + time.cutMinutes + time.makeMinutes;
    expect(Math.abs(time.p50Minutes - sum)).toBeLessThan(2);
    // Build 7.05 and making some 3.5 spread independently: about the root of their squares more.
    expect(time.p90Minutes - time.p50Minutes).toBeGreaterThan(6);
    expect(time.p90Minutes - time.p50Minutes).toBeLessThan(11);
  });
  it('is the same each time, and longer for more hosts', () => {
    expect(firstDesktopsTime(47, 2, 8)).toEqual(firstDesktopsTime(47, 2, 8));
    expect(firstDesktopsTime(47, 80, 8).p50Minutes).toBeGreaterThan(
      firstDesktopsTime(47, 8, 8).p50Minutes + 30,
    );
  });
});
