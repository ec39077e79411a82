import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { changesThatFit, type ChangesRequest, type MachineSize } from '../src/pool/fit-changes.ts';
import { fitHosts, fitPlace, type FitRequest, type SiteRoom } from '../src/pool/fit.ts';

const GB = 1e9;
const amount = (total: number, used = 0) => ({ total, used });
const yard = (
  name: string,
  cores: number,
  stores: Record<string, number> = { standard: 10_000 },
): SiteRoom => ({
  name,
  cores: amount(cores),
  memoryBytes: amount(cores * 8 * GB),
  graphics: amount(2),
  networks: [{ name: 'desk-1', addresses: amount(254, 4) }],
  datastores: Object.entries(stores).map(([store, gigabytes]) => ({
    name: store,
    capacityBytes: gigabytes * GB,
    usedBytes: 0,
    overcommit: 1,
    operations: amount(18_000, 3_000),
  })),
});
const disk = { datastore: 'standard', fixedBytes: 18 * GB, perHostBytes: 8 * GB, operationsPerHost: 0 };
const request: FitRequest = {
  count: 60,
  size: { processors: 4, memoryBytes: 16 * GB, graphics: 0 },
  network: 'desk-1',
  disks: [disk],
  licencesLeft: null,
  namesFree: 99,
};
const rowOf = (what: string, fit = fitHosts(request, yard('b', 240))) =>
  fit.rows.find((row) => row.what === what);

describe('fit', () => {
  it('says of everything what is needed, there and after', () => {
    expect(fitHosts(request, yard('b', 240))).toMatchObject({ fits: true, largest: 60, binding: 'cores' });
    expect(rowOf('cores')).toMatchObject({ needed: 240, there: 240, after: 0, largest: 60 });
    expect(rowOf('memory')).toMatchObject({
      needed: 960 * GB,
      there: 1_920 * GB,
      after: 960 * GB,
      largest: 120,
    });
    expect(rowOf('addresses')).toMatchObject({ of: 'desk-1', needed: 60, there: 250, after: 190 });
    // 18 + 60 × 8 = 498; (10,000 − 18) ÷ 8 = 1,247.7.
    expect(rowOf('datastore')).toMatchObject({ needed: 498 * GB, after: 9_502 * GB, largest: 1_247 });
    expect(rowOf('names')).toMatchObject({ needed: 60, there: 99, largest: 99 });
  });

  it.each([
    ['cores', { ...request, size: { ...request.size, processors: 5 } }, 48],
    ['memory', { ...request, size: { ...request.size, memoryBytes: 64 * GB } }, 30],
    ['licences', { ...request, licencesLeft: 7 }, 7],
    ['names', { ...request, namesFree: 9 }, 9],
    ['addresses', { ...request, network: 'none of these' }, 0],
    ['datastore', { ...request, disks: [{ ...disk, perHostBytes: 499 * GB }] }, 20],
    ['graphics', { ...request, size: { ...request.size, graphics: 1 } }, 2],
    ['operations', { ...request, disks: [{ ...disk, operationsPerHost: 500 }] }, 30],
  ] as const)('%s give out first', (what, asked, largest) =>
    expect(fitHosts(asked, yard('b', 240))).toMatchObject({ fits: false, largest, binding: what }),
  );

  it('names the first in the order of the list where two give out together', () =>
    expect(fitHosts({ ...request, namesFree: 60, licencesLeft: 60 }, yard('b', 240)).binding).toBe('cores'));

  it('counts disks of one datastore together, and others apart', () => {
    const site = yard('b', 240, { standard: 10_000, fast: 100 });
    const data = { datastore: 'fast', fixedBytes: 0, perHostBytes: 10 * GB, operationsPerHost: 0 };
    expect(fitPlace({ ...request, disks: [disk, data] }, site)).toMatchObject({
      largest: 10,
      binding: 'datastore',
    });
    const both = fitPlace({ ...request, disks: [disk, { ...data, datastore: 'standard' }] }, site);
    // (10,000 − 18) ÷ 18 = 554.6.
    expect(both.rows.find((row) => row.what === 'datastore')).toMatchObject({
      needed: 1_098 * GB,
      largest: 554,
    });
  });

  it('never says that a count fits which it would refuse, nor refuses one below the largest', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 400 }), fc.integer({ min: 1, max: 16 }), (count, processors) => {
        const asked = { ...request, count, size: { ...request.size, processors } };
        const { largest, fits } = fitHosts(asked, yard('b', 240));
        expect(fits).toBe(count <= largest);
        expect(fitHosts({ ...asked, count: largest }, yard('b', 240)).fits).toBe(true);
        expect(fitHosts({ ...asked, count: largest + 1 }, yard('b', 240)).fits).toBe(false);
      }),
    ));
});

describe('what would make it fit', () => {
  const sizes: MachineSize[] = [
    { name: 'desk-2', processors: 2, memoryBytes: 8 * GB, graphics: 0 },
    { name: 'desk-4', processors: 4, memoryBytes: 16 * GB, graphics: 0 },
    { name: 'shared-8', processors: 8, memoryBytes: 64 * GB, graphics: 0 },
  ];
  const asked = (sites: SiteRoom[], count = 60): ChangesRequest => ({
    count,
    placing: { site: 'b', size: 'desk-4', network: 'desk-1', datastore: 'standard' },
    sites,
    sizes: new Map(sites.map((site) => [site.name, sizes])),
    disksOn: (datastore) => [{ ...disk, datastore }],
  });
  const kinds = (sites: SiteRoom[]) => changesThatFit(asked(sites)).map((change) => change.kind);

  it('is a smaller size, the other site, both sites, or more cores', () => {
    const changes = changesThatFit(asked([yard('a', 300), yard('b', 130)]));
    expect(changes).toMatchObject([
      { kind: 'size', placing: { site: 'b', size: 'desk-2' }, largest: 65 },
      { kind: 'site', placing: { site: 'a', size: 'desk-4' }, largest: 75 },
      { kind: 'two sites', here: { site: 'b', size: 'desk-4' }, hosts: 32, there: { site: 'a' }, rest: 28 },
      { kind: 'quota', site: 'b', asks: [{ what: 'cores', more: 110 }] },
    ]);
  });

  it('is never a larger size, and never one that does not do', () => {
    expect(kinds([yard('b', 40)])).toEqual(['quota']);
    expect(kinds([yard('a', 210), yard('b', 40)])).toEqual(['site', 'two sites', 'quota']);
    // 10 here at desk-4 and 50 there, which has 52.
    expect(changesThatFit(asked([yard('a', 210), yard('b', 40)]))[0]).toMatchObject({
      placing: { site: 'a', size: 'desk-2' },
    });
  });

  it('is another datastore where that is too small, and a quota of cores would be no help', () => {
    const sites = [yard('b', 400, { standard: 100, fast: 600 })];
    expect(changesThatFit(asked(sites))).toMatchObject([
      { kind: 'datastore', placing: { datastore: 'fast' } },
    ]);
  });

  it('is nothing where nothing helps', () => expect(kinds([yard('b', 400, { standard: 100 })])).toEqual([]));

  it('fits, each of them, by the same rule', () =>
    fc.assert(
      fc.property(fc.nat(400), fc.nat(400), fc.integer({ min: 1, max: 200 }), (a, b, count) => {
        const sites = [yard('a', a), yard('b', b)];
        for (const change of changesThatFit(asked(sites, count))) {
          const placings =
            change.kind === 'quota'
              ? []
              : change.kind === 'two sites'
                ? ([
                    [change.here, change.hosts],
                    [change.there, change.rest],
                  ] as const)
                : ([[change.placing, count]] as const);
          for (const [placing, hosts] of placings) {
            const size = sizes.find((one) => one.name === placing.size) ?? sizes[0];
            const site = sites.find((one) => one.name === placing.site) ?? yard('none', 0);
            const { network, datastore } = placing;
            expect(
              fitPlace(
                { count: hosts, size: size as MachineSize, network, disks: [{ ...disk, datastore }] },
                site,
              ).fits,
            ).toBe(true);
          }
        }
      }),
    ));
});
