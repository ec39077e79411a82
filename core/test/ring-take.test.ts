/** Which hosts the rings of a pool take, by hand and for any order of rings. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hostsOfRings, takeInWords, type PlacedHost, type Take } from '../src/rollout/rings/take.ts';

/** `h01` to `h12`: eight at yard-a on fast, four at yard-b on standard. */
const twelve: PlacedHost[] = Array.from({ length: 12 }, (_, i) => ({
  name: `h${String(i + 1).padStart(2, '0')}`,
  site: i < 8 ? 'yard-a' : 'yard-b',
  datastore: i < 8 ? 'fast' : 'standard',
}));
const rest: Take = { by: 'rest' };
const share = (percent: number, order: 'name' | 'sites' = 'name'): Take => ({ by: 'share', percent, order });
const named = (like: string): Take => ({ by: 'name', like });
const taken = (takes: readonly Take[], hosts = twelve) =>
  hostsOfRings(
    takes.map((take, i) => ({ name: `ring ${i + 1}`, poolId: 'p', take })),
    () => hosts,
  );
const names = (takes: readonly Take[]) => {
  const result = taken(takes);
  return result.ok
    ? result.value.map((list) => list.map((host) => host.name.slice(1)).join(' '))
    : result.error.map(({ path, message }) => `${path}: ${message}`);
};

describe('the hosts of a ring', () => {
  it('are a share by name, and what is left', () => {
    // A tenth of twelve is two whole hosts.
    expect(names([share(10), rest])).toEqual(['01 02', '03 04 05 06 07 08 09 10 11 12']);
  });

  it('are a share of all, not of what is left', () => {
    expect(names([share(50), share(25), rest])).toEqual(['01 02 03 04 05 06', '07 08 09', '10 11 12']);
  });

  it('are an equal part of each site', () => {
    expect(names([share(50, 'sites'), rest])).toEqual(['01 09 02 10 03 11', '04 05 06 07 08 12']);
    // The smaller site has four only.
    expect(names([share(75, 'sites')])).toEqual(['01 09 02 10 03 11 04 12 05']);
  });

  it('are those of a name, whatever its case, or of a datastore', () => {
    expect(names([named('H0?'), rest])).toEqual(['01 02 03 04 05 06 07 08 09', '10 11 12']);
    expect(names([{ by: 'datastore', datastore: 'standard' }])).toEqual(['09 10 11 12']);
  });

  it('are refused where there are none, or where another ring has them', () => {
    expect(names([named('x*')])).toEqual(['rings.0.take: no host of the pool is called x*']);
    expect(names([{ by: 'datastore', datastore: 'archive' }])).toEqual([
      'rings.0.take: no host of the pool lies on archive',
    ]);
    expect(names([rest, share(10)])).toEqual([
      'rings.1.take: the rings before it take all hosts of the pool',
    ]);
    expect(names([share(10), named('h0*'), rest])).toEqual([
      'rings.1.take: h01 and 1 more are in ring 1 already',
    ]);
    expect(names([named('h01'), named('h01')])).toEqual(['rings.1.take: h01 is in ring 1 already']);
    expect(names([named('h[0')])).toEqual(['rings.0.take.like: has a bracket that is not closed']);
    const none = taken([rest], []);
    expect(!none.ok && none.error[0]?.message).toBe('the pool has no hosts');
  });

  it('of two pools are no concern of each other', () => {
    const rings = ['a', 'b'].map((poolId) => ({ name: poolId, poolId, take: rest }));
    const result = hostsOfRings(rings, (poolId) =>
      twelve.map((host) => ({ ...host, name: poolId + host.name })),
    );
    expect(result.ok && result.value.map((list) => list.length)).toEqual([12, 12]);
  });

  it('are said in words', () => {
    expect(
      [rest, share(10), share(5, 'sites'), named('h*'), { by: 'datastore', datastore: 'fast' } as const].map(
        takeInWords,
      ),
    ).toEqual([
      'all that no ring before it takes',
      '10 %, the first by name',
      '5 %, an equal part of each site',
      'those called h*',
      'those on fast',
    ]);
  });

  it('are each in one ring at the most, and with the rest at the end in one each', () => {
    const shares = fc.array(fc.tuple(fc.integer({ min: 1, max: 60 }), fc.constantFrom('name', 'sites')), {
      maxLength: 5,
    });
    const property = fc.property(shares, fc.integer({ min: 1, max: 200 }), (list, count) => {
      const hosts = Array.from({ length: count }, (_, i) => ({
        name: `h${i}`,
        site: `s${(i * 7) % 3}`,
        datastore: '',
      }));
      const result = taken([...list.map(([percent, order]) => share(percent, order as 'name')), rest], hosts);
      if (!result.ok) return;
      const all = result.value.flat().map((host) => host.name);
      expect(new Set(all).size).toBe(all.length);
      expect(all.length).toBe(count);
    });
    fc.assert(property);
  });
});
