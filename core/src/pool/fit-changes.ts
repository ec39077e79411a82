/** What would make a count fit that does not: each change worked out by the same rule that refused. */
import { fitPlace, type DiskDemand, type Fit, type FitRow, type HostSize, type SiteRoom } from './fit.ts';

export interface MachineSize extends HostSize {
  readonly name: string;
}

/** A place that hosts can be put: a network of a site, and the datastore each of their disks goes to. */
export interface Placing {
  readonly site: string;
  readonly size: string;
  readonly network: string;
  readonly datastore: string;
}

export interface ChangesRequest {
  readonly count: number;
  readonly placing: Placing;
  readonly sites: readonly SiteRoom[];
  /** Sizes of each site, by its name. */
  readonly sizes: ReadonlyMap<string, readonly MachineSize[]>;
  /** The disks of the pool if they were on one datastore. */
  readonly disksOn: (datastore: string) => readonly DiskDemand[];
}

/** One thing to do, after which the count fits. */
export type FitChange =
  | {
      readonly kind: 'size' | 'datastore' | 'network' | 'site';
      readonly placing: Placing;
      readonly largest: number;
    }
  /** The first so many hosts here, the rest there. */
  | {
      readonly kind: 'two sites';
      readonly here: Placing;
      readonly hosts: number;
      readonly there: Placing;
      readonly rest: number;
    }
  /** What to ask of those who run the site. */
  | { readonly kind: 'quota'; readonly site: string; readonly asks: readonly QuotaAsk[] };

export interface QuotaAsk {
  readonly what: 'cores' | 'memory' | 'graphics';
  /** How much more than there is now. */
  readonly more: number;
}

/** Changes after which the count fits, the smallest first: of each kind the one that leaves the size as near as can be. */
export function changesThatFit(request: ChangesRequest): FitChange[] {
  const { placing, count } = request;
  const here = placingsOn(request, placing.site);
  const fits = (one: Placing) => fitOfPlacing(request, one, count).fits;
  const changed = (kind: 'size' | 'datastore' | 'network', of: (one: Placing) => boolean): FitChange[] => {
    const found = here.filter(of).find(fits);
    return found ? [{ kind, placing: found, largest: fitOfPlacing(request, found, count).largest }] : [];
  };
  return [
    ...changed('datastore', (one) => one.size === placing.size && one.network === placing.network),
    ...changed('network', (one) => one.size === placing.size && one.datastore === placing.datastore),
    ...changed('size', (one) => one.network === placing.network && one.datastore === placing.datastore),
    ...elsewhere(request),
    ...onTwoSites(request),
    ...moreQuota(request),
  ];
}

function elsewhere(request: ChangesRequest): FitChange[] {
  for (const site of request.sites) {
    if (site.name === request.placing.site) continue;
    for (const placing of placingsOn(request, site.name)) {
      const fit = fitOfPlacing(request, placing, request.count);
      if (fit.fits) return [{ kind: 'site', placing, largest: fit.largest }];
    }
  }
  return [];
}

/** As many as fit here, the rest on the site that leaves the size as near as can be; both have the same size. */
function onTwoSites(request: ChangesRequest): FitChange[] {
  const { placing, count, sites } = request;
  for (const size of sizesNear(request, placing.site)) {
    const here = placingsOn(request, placing.site).filter((one) => one.size === size.name);
    const [best] = [...here].sort((a, b) => largestOf(request, b) - largestOf(request, a));
    if (!best) continue;
    const hosts = Math.min(count, largestOf(request, best));
    if (hosts === 0 || hosts === count) continue;
    for (const site of sites) {
      if (site.name === placing.site) continue;
      const there = placingsOn(request, site.name).find(
        (one) => one.size === size.name && fitOfPlacing(request, one, count - hosts).fits,
      );
      if (there) return [{ kind: 'two sites', here: best, hosts, there, rest: count - hosts }];
    }
  }
  return [];
}

const askable = ['cores', 'memory', 'graphics'] as const;

/** More of what sites are given by quota, where nothing else is missing. */
function moreQuota(request: ChangesRequest): FitChange[] {
  const lacking = fitOfPlacing(request, request.placing, request.count).rows.filter((row) => row.after < 0);
  const asks = lacking.filter(isAskable).map(({ what, after }) => ({ what, more: -after }));
  return asks.length > 0 && asks.length === lacking.length
    ? [{ kind: 'quota', site: request.placing.site, asks }]
    : [];
}

function isAskable(row: FitRow): row is FitRow & { what: QuotaAsk['what'] } {
  return askable.some((what) => what === row.what);
}

function fitOfPlacing({ sites, sizes, disksOn }: ChangesRequest, placing: Placing, count: number): Fit {
  const site = sites.find((row) => row.name === placing.site);
  const size = sizes.get(placing.site)?.find((row) => row.name === placing.size);
  if (!site || !size) return { fits: false, largest: 0, binding: null, rows: [] };
  return fitPlace({ count, size, network: placing.network, disks: disksOn(placing.datastore) }, site);
}

function largestOf(request: ChangesRequest, placing: Placing): number {
  return fitOfPlacing(request, placing, request.count).largest;
}

/** Everything that could be chosen on a site, what is nearest to the present choice first. */
function placingsOn(request: ChangesRequest, siteName: string): Placing[] {
  const site = request.sites.find((row) => row.name === siteName);
  if (!site) return [];
  const { network, datastore } = request.placing;
  const first = <T extends { readonly name: string }>(rows: readonly T[], name: string) =>
    [...rows].sort((a, b) => Number(b.name === name) - Number(a.name === name));
  return sizesNear(request, siteName).flatMap((size) =>
    first(site.networks, network).flatMap((net) =>
      first(site.datastores, datastore).map((store) => ({
        site: siteName,
        size: size.name,
        network: net.name,
        datastore: store.name,
      })),
    ),
  );
}

/** The size asked for and those below it, the largest first: nobody is offered more than they asked for. */
function sizesNear({ placing, sizes }: ChangesRequest, site: string): MachineSize[] {
  const asked = sizes.get(placing.site)?.find((row) => row.name === placing.size);
  if (!asked) return [];
  return [...(sizes.get(site) ?? [])]
    .filter(
      (size) =>
        size.processors <= asked.processors &&
        size.memoryBytes <= asked.memoryBytes &&
        size.graphics === asked.graphics,
    )
    .sort((a, b) => b.processors - a.processors || b.memoryBytes - a.memoryBytes);
}
