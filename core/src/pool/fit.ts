/** Whether a batch of hosts fits where it is to stand, the largest that does, and what gives out first. */
import { hostsThatFit, type DatastoreSpace, type StorageShape } from './clone-storage.ts';

export interface Amount {
  readonly total: number;
  readonly used: number;
}

export interface NetworkRoom {
  readonly name: string;
  readonly addresses: Amount;
}

export interface DatastoreRoom extends DatastoreSpace {
  /** Operations a second. */
  readonly operations: Amount;
}

/** What a site has. */
export interface SiteRoom {
  readonly name: string;
  readonly cores: Amount;
  readonly memoryBytes: Amount;
  /** Graphics processors. */
  readonly graphics: Amount;
  readonly networks: readonly NetworkRoom[];
  readonly datastores: readonly DatastoreRoom[];
}

/** Disks of a pool on one datastore. */
export interface DiskDemand extends StorageShape {
  readonly datastore: string;
  /** Operations a second of one host at work. */
  readonly operationsPerHost: number;
}

export interface HostSize {
  readonly processors: number;
  readonly memoryBytes: number;
  readonly graphics: number;
}

/** Hosts of one place: where they stand and what each takes. */
export interface PlaceRequest {
  readonly count: number;
  readonly size: HostSize;
  readonly network: string;
  readonly disks: readonly DiskDemand[];
}

/** What hosts take wherever they stand. */
export interface SharedRequest {
  readonly count: number;
  /** Activations left of the keys they are to use; null where there is no bound. */
  readonly licencesLeft: number | null;
  /** Hosts that a streaming store can still take; null or left out where hosts stream nothing. */
  readonly streamsLeft?: number | null;
  /** Names that are free from the first one on; null where no pattern can be read yet. */
  readonly namesFree: number | null;
}

export type FitRequest = PlaceRequest & SharedRequest;

/** In the order in which the first is named where several give out at the same count. */
export const fitWhats = [
  'cores',
  'memory',
  'addresses',
  'datastore',
  'streams',
  'licences',
  'names',
  'graphics',
  'operations',
] as const;
export type FitWhat = (typeof fitWhats)[number];

export interface FitRow {
  readonly what: FitWhat;
  /** Which network or datastore; empty where there is only one. */
  readonly of: string;
  readonly needed: number;
  /** What is free. */
  readonly there: number;
  readonly after: number;
  /** Hosts for which it is enough. */
  readonly largest: number;
}

export interface Fit {
  readonly fits: boolean;
  /** Hosts that fit; may be more than asked for. */
  readonly largest: number;
  /** What gives out first. */
  readonly binding: FitWhat | null;
  readonly rows: readonly FitRow[];
}

/** Everything that hosts take, with what is there for it. Network and datastores must be the site's; others count as having nothing. */
export function fitHosts(request: FitRequest, site: SiteRoom): Fit {
  return fitOf(request.count, [...placeRows(request, site), ...sharedRows(request)]);
}

/** What hosts take of the site that they stand on. */
export function fitPlace(request: PlaceRequest, site: SiteRoom): Fit {
  return fitOf(request.count, placeRows(request, site));
}

/** What hosts take of what all sites share. */
export function fitShared(request: SharedRequest): Fit {
  return fitOf(request.count, sharedRows(request));
}

function fitOf(count: number, unsorted: readonly FitRow[]): Fit {
  const rows = [...unsorted].sort((a, b) => fitWhats.indexOf(a.what) - fitWhats.indexOf(b.what));
  const largest = rows.reduce((least, row) => Math.min(least, row.largest), Infinity);
  return {
    fits: count <= largest,
    largest,
    binding: rows.find((row) => row.largest === largest && largest < Infinity)?.what ?? null,
    rows,
  };
}

function placeRows(request: PlaceRequest, site: SiteRoom): FitRow[] {
  const { count, size, network } = request;
  const addresses = site.networks.find((row) => row.name === network)?.addresses;
  return [
    ...(size.processors === 0 ? [] : [countable('cores', count, size.processors, freeOf(site.cores))]),
    ...(size.memoryBytes === 0
      ? []
      : [countable('memory', count, size.memoryBytes, freeOf(site.memoryBytes))]),
    countable('addresses', count, 1, freeOf(addresses), network),
    ...(size.graphics === 0 ? [] : [countable('graphics', count, size.graphics, freeOf(site.graphics))]),
    ...diskRows(request, site),
  ];
}

function sharedRows({ count, licencesLeft, namesFree, streamsLeft = null }: SharedRequest): FitRow[] {
  return [
    ...(streamsLeft === null ? [] : [countable('streams', count, 1, streamsLeft)]),
    ...(licencesLeft === null ? [] : [countable('licences', count, 1, licencesLeft)]),
    ...(namesFree === null ? [] : [countable('names', count, 1, namesFree)]),
  ];
}

function countable(what: FitWhat, count: number, perHost: number, there: number, of = ''): FitRow {
  const needed = count * perHost;
  const largest = perHost === 0 ? Infinity : Math.max(0, Math.floor(there / perHost));
  return { what, of, needed, there, after: there - needed, largest };
}

/** What a pool puts on a datastore counts together, whatever disks they are. */
function diskRows({ count, disks }: PlaceRequest, site: SiteRoom): FitRow[] {
  const names = [...new Set(disks.map((disk) => disk.datastore))];
  return names.flatMap((name): FitRow[] => {
    const store = site.datastores.find((row) => row.name === name) ?? noDatastore;
    const here = disks.filter((disk) => disk.datastore === name);
    const shape: StorageShape = {
      fixedBytes: sum(here, (disk) => disk.fixedBytes),
      perHostBytes: sum(here, (disk) => disk.perHostBytes),
    };
    // Of what is promised so much is expected to come.
    const needed = shape.fixedBytes + (count * shape.perHostBytes) / store.overcommit;
    const there = store.capacityBytes - store.usedBytes;
    const operations = sum(here, (disk) => disk.operationsPerHost);
    return [
      {
        what: 'datastore',
        of: name,
        needed,
        there,
        after: there - needed,
        largest: hostsThatFit(shape, store),
      },
      ...(operations === 0
        ? []
        : [countable('operations', count, operations, freeOf(store.operations), name)]),
    ];
  });
}

const noDatastore: DatastoreRoom = {
  name: '',
  capacityBytes: 0,
  usedBytes: 0,
  overcommit: 1,
  operations: { total: 0, used: 0 },
};

function freeOf(amount: Amount | undefined): number {
  return amount ? amount.total - amount.used : 0;
}

function sum<T>(rows: readonly T[], of: (row: T) => number): number {
  return rows.reduce((total, row) => total + of(row), 0);
}
