/** Sites from providers: asked for once, made by them after some minutes, and told of whatever came. */
import {
  capacityEndpoints,
  type CapacityUse,
  type NewSiteBody,
  type SiteRequest,
} from '@vatline/contract/capacity';
import { networkFaults } from '@vatline/core/network-range';
import type { Fault } from '@vatline/core/result';
import { change } from '../platform/change.ts';
import { fromJson } from '../platform/database.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Note } from '../platform/journal.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { settingsIn, type PoolStore } from '../pool/pools.ts';
import { OutsideRequests } from './outside-requests.ts';
import type {} from './tables.ts';

const SHOWN = 20;

export function siteRoutes(door: Door, parts: Parts, pools: PoolStore): void {
  const { estate } = parts;

  door.serve(capacityEndpoints.get, async () => ({
    providers: (await estate.providers.all()).map(({ name, regions }) => ({
      name,
      regions: regions.map((region) => ({
        ...region,
        quota: { ...region.quota },
        sizes: region.sizes.map((size) => ({ ...size })),
        datastores: region.datastores.map((store) => ({ ...store })),
      })),
    })),
    requests: await requests(parts),
    uses: await usesOf(pools),
  }));

  door.serve(capacityEndpoints.addSite, async ({ body }) => {
    const faults = await siteFaults(parts, body);
    if (faults.length > 0) throw invalid(faults);
    const id = newId('site');
    await change(
      parts,
      () => keep(parts, id, body),
      () => noteOf(`the site ${body.name} was asked for in ${body.region} of ${body.provider}`),
    );
    await siteRequests(parts).ask({ id, ...body });
    return { id };
  });
}

/** Everything that stands in the way of a site, each at its field. */
async function siteFaults(parts: Parts, body: NewSiteBody): Promise<Fault[]> {
  const { hypervisor, providers } = parts.estate;
  const sites = await hypervisor.sites();
  const open = (await requests(parts)).filter((request) => request.state === 'asked');
  const region = (await providers.all())
    .find((provider) => provider.name === body.provider)
    ?.regions.find((one) => one.name === body.region);
  const faults: Fault[] = [];
  const at = (path: string, message: string) => void faults.push({ path, message });
  if (!region) at('region', `${body.provider} has no region ${body.region}`);
  else if (region.site !== null) at('region', `has the site ${region.site} already`);
  else if (open.some((one) => one.provider === body.provider && one.region === body.region))
    at('region', 'a site there is being made already');
  if (sites.some((site) => site.name === body.name) || open.some((one) => one.name === body.name))
    at('name', `there is a site ${body.name} already`);
  const there = [
    ...sites.flatMap((site) => site.networks.map((network) => ({ site: site.name, ...network }))),
    ...open.flatMap((request) => request.networks.map((network) => ({ site: request.name, ...network }))),
  ];
  return [...faults, ...networkFaults(body.networks, there)];
}

/** In a transaction of the caller's: of two at once that want the same region or name the second is told so. */
async function keep({ db, estate }: Parts, id: string, body: NewSiteBody): Promise<void> {
  const other = await db
    .selectFrom('site_request')
    .select('name')
    .where('state', '=', 'asked')
    .where((eb) =>
      eb.or([
        eb('name', '=', body.name),
        eb.and([eb('provider', '=', body.provider), eb('region', '=', body.region)]),
      ]),
    )
    .executeTakeFirst();
  if (other) throw conflict(`the site ${other.name} is being made already`, 'name');
  await db
    .insertInto('site_request')
    .values({
      id,
      name: body.name,
      provider: body.provider,
      region: body.region,
      networks_json: JSON.stringify(body.networks),
      asked_ms: estate.clock.now(),
      state: 'asked',
      answer: '',
      answered_ms: null,
    })
    .execute();
}

/** Sites that providers are to make. */
export function siteRequests(parts: Parts): OutsideRequests<Requested> {
  return new OutsideRequests<Requested>(parts, {
    prefix: 'site/',
    open: async () => (await requests(parts)).filter((request) => request.state === 'asked'),
    begin: (key, { name, provider, region, networks }) =>
      parts.estate.providers.addSite(key, { name, provider, region, networks }),
    answered: (id, refusal) => answered(parts, id, refusal),
  });
}

type Requested = Pick<SiteRequest, 'id' | 'name' | 'provider' | 'region' | 'networks'>;

/** Empty where it was made. Said once, however often it is heard. */
async function answered(parts: Parts, id: string, refusal: string): Promise<void> {
  const { db, estate, journal } = parts;
  await change(
    parts,
    () =>
      db
        .updateTable('site_request')
        .set({
          state: refusal === '' ? 'ready' : 'refused',
          answer: refusal,
          answered_ms: estate.clock.now(),
        })
        .where('id', '=', id)
        .where('state', '=', 'asked')
        .returning('name')
        .executeTakeFirst(),
    (row) =>
      row &&
      noteOf(
        refusal === '' ? `the site ${row.name} is ready` : `the site ${row.name} was not made: ${refusal}`,
      ),
  );
  journal.tell('estate');
}

function noteOf(text: string): Omit<Note, 'at'> {
  return { kind: 'estate', subject: 'estate', text, link: '/estate/capacity' };
}

async function requests({ db }: Parts): Promise<SiteRequest[]> {
  const rows = await db
    .selectFrom('site_request')
    .selectAll()
    .orderBy('asked_ms', 'desc')
    .limit(SHOWN)
    .execute();
  return rows.map(({ networks_json, asked_ms, answered_ms, ...row }) => ({
    ...row,
    networks: fromJson<SiteRequest['networks']>(networks_json),
    askedAt: asked_ms,
    answeredAt: answered_ms,
  }));
}

/** What each pool takes of the estate, by its places and its settings. */
async function usesOf(pools: PoolStore): Promise<CapacityUse[]> {
  const uses: CapacityUse[] = [];
  for (const pool of await pools.all()) {
    const settings = settingsIn(pool);
    const byPlace = await pools.hosts.byPlace(pool.id);
    const places = await pools.placesOf(pool.id);
    const all = [...byPlace.values()].reduce((sum, n) => sum + n, 0);
    const use = (what: CapacityUse['what'], site: string, name: string | null, hosts: number) => {
      if (name) uses.push({ what, site, name, poolId: pool.id, pool: pool.name, hosts });
    };
    for (const [number, { site, network }] of places.entries()) {
      const hosts = byPlace.get(number) ?? 0;
      use('site', site, site, hosts);
      use('network', site, network, hosts);
    }
    if (settings.chassis === null) use('size', '', settings.size, all);
    use('key', '', settings.licence, all);
    use('store', '', settings.store, all);
    use('chassis', '', settings.chassis, all);
  }
  return uses;
}
