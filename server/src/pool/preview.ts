/** What a new pool would be, and everything that stands in its way, before anything is made. */
import { newPoolSchema, type PoolDraft } from '@vatline/contract/pool/kinds';
import type { ChassisSlot } from '@vatline/contract/chassis';
import type { PoolPreview } from '@vatline/contract/pool/preview';
import { usualOperations, usualStorage } from '@vatline/core/pool/assumptions';
import { makingTime } from '@vatline/core/pool/making-time';
import { fitConditions, type Condition } from '@vatline/core/pool/fit-conditions';
import { freeNames, planNames } from '@vatline/core/pool/names';
import type { VersionState } from '@vatline/core/image/version-state';
import { zoneFault } from '@vatline/core/time/zone';
import type { Fault } from '@vatline/core/result';
import type { Parts } from '../platform/parts.ts';
import { faultsOf } from '../platform/problem.ts';
import { hasAgent } from './agent-in-image.ts';
import {
  accountFacts,
  keyChosen,
  placesChosen,
  storeChosen,
  unitChosen,
  versionChosen,
  type ChosenPlace,
  type UnitChosen,
} from './choices.ts';
import { machinesChosen } from './chassis-choice.ts';
import type { JoinAccounts } from '../directory/join-accounts.ts';
import { fitOver } from './preview-fit.ts';
import { storageOf } from './preview-storage.ts';
import { allReserved, withReserved } from './reservations.ts';

/** What a preview has found out that making the pool needs as well. */
export interface Previewed {
  readonly preview: PoolPreview;
  readonly places: readonly ChosenPlace[];
  /** Machines of a chassis that hosts are to be made of; none where they are virtual. */
  readonly machines: readonly ChassisSlot[];
  readonly unit: UnitChosen | undefined;
}

/** An image that is not there yet, as it is taken to become. */
export interface ImageToBe {
  readonly image_id: string;
  readonly size_bytes: number;
  readonly number: number;
  readonly state: VersionState;
  readonly gone_ms: null;
  readonly hasAgent: boolean;
}

/** Works with whatever fields are there; each missing or wrong one is a fault. */
export async function previewPool(
  parts: Parts,
  joiners: JoinAccounts,
  draft: PoolDraft,
  toBe?: ImageToBe,
): Promise<Previewed> {
  const faults = faultsOfDraft(draft);
  const { hypervisor, directory, licences } = parts.estate;
  const reserved = await allReserved(parts.db);
  const there = await hypervisor.machineNames();
  const unit = unitChosen(draft, await directory.units(), directory.root, faults);
  const adopted =
    draft.isAdopting && unit?.exists ? new Set(await directory.computersIn(unit.dn)) : new Set<string>();
  const accounts = (await directory.computerNames()).filter((name) => !adopted.has(name));
  const names = namesOf(draft, [...there, ...accounts, ...reserved.map((one) => one.name)], faults);
  const sites = withReserved(await hypervisor.sites(), reserved, new Set(there));
  const { places, machines } = draft.chassis
    ? await machinesChosen(parts, draft, sites, faults)
    : { places: placesChosen(draft, sites, faults), machines: [] };
  const key = keyChosen(draft, await licences.keys(), faults);
  const version = toBe ?? (await versionWithAgent(parts, draft.imageVersionId));
  if (draft.imageVersionId && !version)
    faults.push({ path: 'imageVersionId', message: 'there is no such image version' });
  await nameFault(parts, draft, faults);
  const conditions = fitConditions({
    unit: unit && { name: unit.dn, exists: unit.exists },
    account:
      draft.joinAccount && unit ? await accountFacts(parts, joiners, draft.joinAccount, unit.dn) : null,
    image: version && {
      number: version.number,
      state: version.state,
      isGone: version.gone_ms !== null,
      hasAgent: version.hasAgent,
    },
  });
  faults.push(...faultsOfConditions(conditions));
  const isWhole = places.length > 0 && places.length === draft.places?.length;
  const store = storeChosen(draft, await parts.estate.streaming.stores(), version, faults);
  const ahead = reserved.filter((one) => !there.includes(one.name));
  const using = reserved.filter((one) => one.licence !== null && one.licence === draft.licence).length;
  const licencesLeft = key ? key.activations - key.used - using : null;
  const streaming = ahead.filter((one) => one.store !== null && one.store === store?.name).length;
  const request = {
    draft,
    places,
    sites,
    licencesLeft,
    streamsLeft: store ? store.streams.total - store.hosts - streaming : null,
    namesFree: names.free,
    imageBytes: version?.size_bytes ?? 0,
  };
  const fit = isWhole && version && draft.count && draft.clone ? fitOver(request) : null;
  if (fit && !fit.fits && draft.isAnyway !== true)
    faults.push({ path: 'count', message: lacking(fit, draft.count ?? 0) });
  const making = makingTime(draft.clone ?? 'linked', sane(draft.count, 10_000), sane(draft.atOnce ?? 8, 50));
  const preview: PoolPreview = {
    names: names.names.slice(0, 10_000),
    clashes: names.clashes,
    fit,
    conditions,
    storage: isWhole && version && draft.count && !draft.chassis ? storageOf(request) : null,
    minutes: making.p50Minutes,
    minutesAtMost: making.p90Minutes,
    ou: unit?.dn ?? '',
    assumed: { ...usualStorage, ...usualOperations },
    faults: onePerField(faults).map((fault) => presented(draft, fault)),
  };
  return { preview, places, machines, unit };
}

async function versionWithAgent({ db }: Parts, id: string | undefined) {
  const version = await versionChosen(db, id);
  return version && { ...version, hasAgent: await hasAgent(db, version) };
}

/** Half typed, a number may be anything; what it should be is a fault at it. */
function sane(n: number | undefined, most: number): number {
  return n === undefined || !(n > 0) ? 0 : Math.min(Math.floor(n), most);
}

function faultsOfDraft(draft: PoolDraft): Fault[] {
  // Without a kind the others are judged all the same.
  const parsed = newPoolSchema.safeParse({ ...draft, kind: draft.kind ?? 'pooled' });
  const faults = parsed.success ? [] : faultsOf(parsed.error);
  if (draft.kind === undefined) faults.push({ path: 'kind', message: '' });
  const zone = draft.zone ? zoneFault(draft.zone) : undefined;
  if (zone) faults.push({ path: 'zone', message: zone.message });
  return faults;
}

async function nameFault({ db }: Parts, { name }: PoolDraft, faults: Fault[]): Promise<void> {
  if (!name) return;
  const there = await db.selectFrom('pool').select('id').where('name', '=', name).executeTakeFirst();
  if (there) faults.push({ path: 'name', message: `there is a pool named ${name} already` });
}

const fieldOf = {
  unit: 'ou',
  account: 'joinAccount',
  rights: 'joinAccount',
  image: 'imageVersionId',
  agent: 'imageVersionId',
} as const;

function faultsOfConditions(conditions: readonly Condition[]): Fault[] {
  return conditions
    .filter((condition) => condition.verdict === 'fails')
    .map(({ what, says }) => ({ path: fieldOf[what], message: says }));
}

/** Where nothing was given, what the schema says of it helps nobody. */
function presented(draft: PoolDraft, fault: Fault): PoolPreview['faults'][number] {
  const given = fault.path
    .split('.')
    .reduce<unknown>((value, key) => (value as Record<string, unknown> | undefined)?.[key], draft);
  const isMissing = given === undefined || given === '';
  return {
    path: fault.path,
    message: given === undefined ? 'is not chosen yet' : fault.message,
    isMissing,
  };
}

function onePerField(faults: readonly Fault[]): Fault[] {
  const seen = new Set<string>();
  return faults.filter((fault) => !seen.has(fault.path) && seen.add(fault.path));
}

interface Names {
  names: string[];
  clashes: string[];
  /** Free ones from the first number on; null where no pattern can be read. */
  free: number | null;
}

function namesOf(
  { pattern, start, count, fillGaps = false }: PoolDraft,
  taken: readonly string[],
  faults: Fault[],
): Names {
  const none = { names: [], clashes: [], free: null };
  if (!pattern || start === undefined) return none;
  const free = freeNames({ pattern, start, taken });
  if (!free.ok) {
    faults.push(...free.error);
    return none;
  }
  if (!count || count > 10_000) return { ...none, free: free.value };
  const plan = planNames({ pattern, start, count, taken, skipTaken: fillGaps });
  if (!plan.ok) {
    faults.push(...plan.error);
    return none;
  }
  const { clash, clashes, overflow } = plan.value;
  if (clash !== undefined && !fillGaps) {
    const others = clashes.length - 1;
    faults.push({
      path: 'pattern',
      message: `${clash}${others > 0 ? ` and ${others} more are` : ' is'} taken; fill the gaps, begin after the last one or change the pattern`,
    });
  }
  if (overflow) faults.push({ path: 'pattern', message: 'has too few # for the last number' });
  return { names: [...plan.value.names], clashes: [...clashes], free: free.value };
}

const said = {
  cores: 'cores',
  memory: 'memory',
  addresses: 'addresses',
  datastore: 'room on a datastore',
  streams: 'streams',
  licences: 'activations',
  names: 'free names',
  graphics: 'graphics processors',
  operations: 'operations a second',
} as const;

/** Which place and what of it is too little, and how many would fit. */
function lacking(fit: NonNullable<PoolPreview['fit']>, count: number): string {
  const tight = fit.places.find((place) => !place.fits);
  const what = fit.binding ? said[fit.binding] : 'room';
  const where = tight ? ` on ${tight.site}` : '';
  return `${count} do not fit: not enough ${what}${where}; the largest batch that fits is ${fit.largest}`;
}
