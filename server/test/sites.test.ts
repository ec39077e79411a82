/** Sites from providers: asked for with networks that are free, ready after some minutes, used by pools. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Capacity, NewSiteBody } from '@vatline/contract/capacity';
import type { Estate } from '@vatline/contract/estate';
import type { PoolPreview } from '@vatline/contract/pool/preview';
import { TestServer } from './harness.ts';

let server: TestServer;
beforeEach(async () => (server = await TestServer.open({ demo: true })), 120_000);
afterEach(() => server.close());

const capacity = () => server.getAnew<Capacity>('/estate/capacity');
const siteNamed = async (name: string) =>
  (await server.getAnew<Estate>('/estate')).sites.find((site) => site.name === name);

const wanted: NewSiteBody = {
  provider: 'Orrinside',
  region: 'north',
  name: 'north-1',
  networks: [{ name: 'desks', range: '10.30.4.0/24' }],
};
const add = (change: Partial<NewSiteBody> = {}) =>
  server.send<{ id: string }>('post', '/estate/sites', { ...wanted, ...change });
const refused = async (change: Partial<NewSiteBody>) =>
  (await server.refused('post', '/estate/sites', { ...wanted, ...change })).faults;

/** Nine of ten are ready after fourteen minutes. */
const LONG = 40;

describe('a site from a provider', () => {
  it('is ready after some minutes, with what its region gives, and pools fit there', async () => {
    await add();
    expect((await capacity()).requests).toMatchObject([
      { name: 'north-1', state: 'asked', answeredAt: null },
    ]);
    expect(await siteNamed('north-1')).toBeUndefined();
    await server.advance(LONG);
    const [request] = (await capacity()).requests;
    expect(request).toMatchObject({ state: 'ready', answer: '' });
    expect(await siteNamed('north-1')).toMatchObject({
      cores: { total: 160, used: 0 },
      memoryBytes: { total: 160 * 8e9, used: 0 },
      networks: [{ name: 'desks', range: '10.30.4.0/24', addresses: { total: 253, used: 0 } }],
    });
    const region = (await capacity()).providers
      .flatMap((provider) => provider.regions)
      .find((one) => one.name === 'north');
    expect(region?.site).toBe('north-1');
    const { fit } = await server.send<PoolPreview>('post', '/pools/preview', {
      ...server.newPool((await versionId()) ?? ''),
      name: 'north',
      pattern: 'WCL-NO-##',
      count: 80,
      places: [{ site: 'north-1', network: 'desks', datastore: 'standard' }],
    });
    // Two cores each of 160.
    expect(fit).toMatchObject({ fits: true, largest: 80, binding: 'cores' });
  });

  async function versionId(): Promise<string | undefined> {
    const lines = await server.getAnew<{ versions: { id: string; state: string }[] }[]>('/lines');
    return lines.flatMap((line) => line.versions).find((version) => version.state === 'approved')?.id;
  }

  it('is made once, whatever stop comes between', async () => {
    await add();
    await server.restart({ demo: true });
    await server.advance(3);
    await server.restart({ demo: true });
    await server.advance(LONG);
    await server.restart({ demo: true });
    const { sites } = await server.getAnew<Estate>('/estate');
    expect(sites.filter((site) => site.name === 'north-1')).toHaveLength(1);
    expect((await capacity()).requests.map((request) => request.state)).toEqual(['ready']);
  });

  it.each<[string, Partial<NewSiteBody>, string, RegExp]>([
    ['in no region', { region: 'west' }, 'region', /Orrinside has no region west/],
    ['of no name', { name: 'North One' }, 'name', /must be small letters/],
    ['of a name that is taken', { name: 'yard-a' }, 'name', /there is a site yard-a already/],
    ['without a network', { networks: [] }, 'networks', /a site needs a network/],
    [
      'with a range that overlaps',
      { networks: [{ name: 'desks', range: '10.20.5.0/24' }] },
      'networks.0.range',
      /overlaps desks of yard-a, 10\.20\.4\.0\/23/,
    ],
    [
      'with a range that is none',
      { networks: [{ name: 'desks', range: '10.30.4/24' }] },
      'networks.0.range',
      /must be an address and a prefix/,
    ],
    [
      'with two networks that overlap',
      {
        networks: [
          { name: 'desks', range: '10.30.4.0/23' },
          { name: 'voice', range: '10.30.5.0/24' },
        ],
      },
      'networks.1.range',
      /overlaps desks of the same site/,
    ],
  ])('%s is refused', async (_what, change, path, message) => {
    expect((await refused(change)).find((fault) => fault.path === path)?.message).toMatch(message);
    expect((await capacity()).requests).toEqual([]);
  });

  it('is not asked for twice, nor in a region or range that another one is on the way to', async () => {
    await add();
    expect((await refused({ name: 'north-2' })).map((fault) => fault.path)).toContain('region');
    const south = { region: 'south', name: 'south-1' };
    expect(await refused(south)).toEqual([
      { path: 'networks.0.range', message: 'overlaps desks of north-1, 10.30.4.0/24' },
    ]);
    const both = await Promise.all(
      ['south-1', 'south-2'].map((name) =>
        add({ region: 'south', name, networks: [{ name: 'desks', range: '10.31.4.0/24' }] }).then(
          () => 'asked',
          () => 'refused',
        ),
      ),
    );
    expect([...both].sort()).toEqual(['asked', 'refused']);
  });

  it('that the provider cannot make says so, and the region is free again', async () => {
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'add site' });
    await add();
    await server.advance(LONG);
    const [request] = (await capacity()).requests;
    expect(request).toMatchObject({ state: 'refused' });
    expect(request?.answer).toMatch(/switched on for practice/);
    await add();
    await server.advance(LONG);
    expect(await siteNamed('north-1')).toBeDefined();
  });
});

describe('what uses what', () => {
  it('is told of networks, sizes, keys, stores and chassis, with the hosts of each pool', async () => {
    const { uses } = await capacity();
    const told = (what: string, name: string, site = '') =>
      uses
        .filter((use) => use.what === what && use.name === name && use.site === site)
        .map((use) => [use.pool, use.hosts]);
    expect(told('chassis', 'rack-7')).toEqual([['digitisation', 16]]);
    expect(told('store', 'stream-7')).toEqual([['digitisation', 16]]);
    expect(told('network', 'scanning', 'rack-7')).toEqual([['digitisation', 16]]);
    expect(told('network', 'scanning-2', 'rack-8')).toEqual([]);
    const { sites } = await server.getAnew<Estate>('/estate');
    for (const site of sites) {
      const hosts = uses.filter((use) => use.what === 'site' && use.name === site.name);
      // Machines that are no hosts are build machines.
      expect(hosts.reduce((sum, use) => sum + use.hosts, 0)).toBeLessThanOrEqual(site.machines);
    }
    expect(uses.filter((use) => use.what === 'site').reduce((sum, use) => sum + use.hosts, 0)).toBe(154);
  });
});
