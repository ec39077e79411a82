/** Whether a draft fits over its places, and what would make it fit. */
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import type { FitRowShown, FitShown, FitChangeShown } from '@vatline/contract/pool/preview';
import { disksOnPlace, type DiskPlan } from '@vatline/core/pool/demand';
import { changesThatFit, type FitChange } from '@vatline/core/pool/fit-changes';
import { fitPlace, fitShared, fitWhats, type Fit, type FitRow } from '@vatline/core/pool/fit';
import { dealOverPlaces } from '@vatline/core/pool/places';
import type { SiteReport } from '../estate/driver/sites.ts';
import type { ChosenPlace } from './choices.ts';

export interface RoomRequest {
  readonly draft: PoolDraft;
  /** All places of the draft; at least one. */
  readonly places: readonly ChosenPlace[];
  readonly sites: readonly SiteReport[];
  readonly licencesLeft: number | null;
  readonly streamsLeft: number | null;
  readonly namesFree: number | null;
  readonly imageBytes: number;
}

/** How the disks of a draft are made. */
export function diskPlanOf({ draft, imageBytes }: Pick<RoomRequest, 'draft' | 'imageBytes'>): DiskPlan {
  return {
    imageBytes,
    dataBytes: (draft.dataGigabytes ?? 0) * 1e9,
    isCleanedAtSignOut: draft.signOut !== undefined && draft.signOut !== 'keep',
    days: draft.days ?? 30,
    scratchBytes: (draft.scratchGigabytes ?? 6) * 1e9,
  };
}

/** Each place with the hosts that it takes, and what all places share. */
export function fitOver(request: RoomRequest): FitShown {
  const { draft, places, licencesLeft, streamsLeft, namesFree } = request;
  const count = draft.count ?? 0;
  const dealt = dealOverPlaces(
    count,
    places.map(({ place }) => place.atMost),
  );
  const fits = places.map((one, i) => fitOn(request, one, dealt[i] ?? 0));
  const shared = fitShared({ count, licencesLeft, streamsLeft, namesFree });
  const all = [...fits, shared];
  const largest = Math.min(shared.largest, mostOver(places, fits));
  const tightest = all.filter((fit) => !fit.fits).length > 0 ? all.filter((fit) => !fit.fits) : all;
  const shown = {
    fits: all.every((fit) => fit.fits) && dealt.reduce((sum, n) => sum + n, 0) === count,
    largest,
    binding: firstBinding(tightest),
    places: fits.map((fit, i) => ({
      site: places[i]?.site.name ?? '',
      hosts: dealt[i] ?? 0,
      fits: fit.fits,
      largest: fit.largest,
      rows: fit.rows.map(shownRow),
    })),
    shared: shared.rows.map(shownRow),
  };
  return { ...shown, changes: shown.fits || !shared.fits || draft.chassis ? [] : changesFor(request) };
}

/** The first place with more hosts than it has room for ends the filling, since hosts do not flow over. */
function mostOver(places: readonly ChosenPlace[], fits: readonly Fit[]): number {
  let most = 0;
  for (const [i, fit] of fits.entries()) {
    const bound = places[i]?.place.atMost ?? Infinity;
    most += Math.min(fit.largest, bound);
    if (fit.largest < bound) break;
  }
  return most;
}

function firstBinding(fits: readonly Fit[]): FitShown['binding'] {
  const bound = fits.filter((fit) => fit.binding !== null);
  const least = Math.min(...bound.map((fit) => fit.largest));
  const binding = bound.filter((fit) => fit.largest === least).map((fit) => fit.binding);
  return fitWhats.find((what) => binding.includes(what)) ?? null;
}

function fitOn(request: RoomRequest, { site, size, place }: ChosenPlace, count: number): Fit {
  const { clone = 'linked', chassis } = request.draft;
  // The disks of a physical machine are in the machine.
  const disks = chassis ? [] : disksOnPlace(clone, diskPlanOf(request), place);
  return fitPlace({ count, size, network: place.network, disks }, site);
}

function shownRow(row: FitRow): FitRowShown {
  return { ...row, largest: row.largest === Infinity ? null : row.largest };
}

/** Changes are worked out from the first place, as if all hosts were to stand there. */
function changesFor(request: RoomRequest): FitChangeShown[] {
  const { draft, places, sites } = request;
  const [first] = places;
  if (!first) return [];
  const plan = diskPlanOf(request);
  const changes = changesThatFit({
    count: draft.count ?? 0,
    placing: {
      site: first.site.name,
      size: first.size.name,
      network: first.place.network,
      datastore: first.place.datastore,
    },
    sites: sites.filter((site) => site.sizes.length > 0),
    sizes: new Map(sites.map((site) => [site.name, site.sizes])),
    disksOn: (datastore) =>
      disksOnPlace(draft.clone ?? 'linked', plan, { datastore, parentDatastore: null, dataDatastore: null }),
  });
  return changes.map((change) => shownChange(change, request));
}

function shownChange(change: FitChange, request: RoomRequest): FitChangeShown {
  if (change.kind !== 'quota') return change;
  return { ...change, asks: [...change.asks], text: quotaText(change, request) };
}

const units = {
  cores: (n: number) => `${n.toLocaleString('en-GB')} cores`,
  memory: (n: number) => `${Math.ceil(n / 1e9).toLocaleString('en-GB')} GB of memory`,
  graphics: (n: number) => `${n.toLocaleString('en-GB')} graphics processors`,
} as const;

/** What to write to those who run a site: how much more, for what, and from what the number comes. */
function quotaText(
  { site, asks }: Extract<FitChange, { kind: 'quota' }>,
  { draft, places }: RoomRequest,
): string {
  const size = places[0]?.size;
  const more = asks.map(({ what, more: amount }) => units[what](amount)).join(' and ');
  const each = size
    ? `${size.processors} cores and ${(size.memoryBytes / 1e9).toLocaleString('en-GB')} GB of memory each`
    : 'of one size';
  return (
    `Please raise the quota of ${site} by ${more}. ` +
    `The pool ${draft.name || 'that is planned'} is to have ${draft.count ?? 0} hosts, ${each}; ` +
    `with what is free now, and with what is being made already, they do not fit.`
  );
}
