/** What a draft of a pool has chosen, as far as it exists; and a fault for all that does not. */
import type { PoolDraft, PoolPlace } from '@vatline/contract/pool/kinds';
import {
  readDistinguishedName,
  nameKey,
  writeDistinguishedName,
} from '@vatline/core/directory/distinguished-name';
import { rightsIn, missingRights } from '@vatline/core/directory/rights';
import type { JoinAccountFacts } from '@vatline/core/pool/fit-conditions';
import { storeRefusal, type StoreRoom } from '@vatline/core/pool/streaming';
import type { Fault } from '@vatline/core/result';
import type { MultiUseKey } from '../estate/driver/licences.ts';
import type { PricedSize, SiteReport } from '../estate/driver/sites.ts';
import type { StreamingStoreReport } from '../estate/driver/streaming.ts';
import type { Db } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import type { JoinAccounts } from '../directory/join-accounts.ts';

export interface ChosenPlace {
  readonly site: SiteReport;
  readonly size: PricedSize;
  readonly place: PoolPlace;
}

/** The places of a draft that are whole: each with its site, and the size there. */
export function placesChosen(draft: PoolDraft, sites: readonly SiteReport[], faults: Fault[]): ChosenPlace[] {
  return (draft.places ?? []).flatMap((place, i) => {
    const path = (field: string) => `places.${i}.${field}`;
    const site = sites.find((row) => row.name === place.site);
    if (!place.site || !site) {
      if (place.site) faults.push({ path: path('site'), message: `there is no site ${place.site}` });
      return [];
    }
    const before = faults.length;
    for (const [field, name] of placeNames(place)) {
      const rows = field === 'network' ? site.networks : site.datastores;
      if (!name || rows.some((row) => row.name === name)) continue;
      const what = field === 'network' ? 'network' : 'datastore';
      faults.push({ path: path(field), message: `${site.name} has no ${what} ${name}` });
    }
    const size = site.sizes.find((row) => row.name === draft.size);
    if (draft.size && !size)
      faults.push({
        path: i === 0 ? 'size' : path('site'),
        message: `${site.name} has no machine size ${draft.size}`,
      });
    const { network, datastore } = place;
    if (!size || !network || !datastore || faults.length > before) return [];
    const { parentDatastore = null, dataDatastore = null, atMost = null } = place;
    return [
      { site, size, place: { site: site.name, network, datastore, parentDatastore, dataDatastore, atMost } },
    ];
  });
}

function placeNames(place: NonNullable<PoolDraft['places']>[number]) {
  const { network, datastore, parentDatastore, dataDatastore } = place;
  return Object.entries({ network, datastore, parentDatastore, dataDatastore });
}

/** The unit in the notation that is kept, found in the directory in whatever notation it was given. */
export interface UnitChosen {
  readonly dn: string;
  readonly exists: boolean;
}

export function unitChosen(
  draft: PoolDraft,
  units: readonly { readonly dn: string }[],
  root: string,
  faults: Fault[],
): UnitChosen | undefined {
  if (!draft.ou) return undefined;
  const read = readDistinguishedName(draft.ou);
  if (!read.ok) {
    faults.push({ path: 'ou', message: read.error[0]?.message ?? 'is no distinguished name' });
    return undefined;
  }
  const key = nameKey(read.value);
  const found = units.find((unit) => keyOf(unit.dn) === key);
  if (found) return { dn: found.dn, exists: true };
  const dn = writeDistinguishedName(read.value);
  const isInside = key.endsWith(`,${keyOf(root)}`);
  faults.push({
    path: 'ou',
    message: isInside
      ? `the directory has no unit ${dn}`
      : `lies outside of the directory, whose root is ${root}`,
  });
  return { dn, exists: false };
}

function keyOf(dn: string): string {
  const read = readDistinguishedName(dn);
  return read.ok ? nameKey(read.value) : dn;
}

/** What is known of the account that is to join hosts in a unit. */
export async function accountFacts(
  { estate }: Pick<Parts, 'estate'>,
  known: JoinAccounts,
  name: string,
  unit: string,
): Promise<JoinAccountFacts> {
  const account = (await estate.directory.accounts()).find((row) => row.name === name);
  return {
    name,
    exists: account !== undefined,
    isKnown: (await known.known()).has(name),
    isLocked: account?.isLocked ?? false,
    missing: missingRights(rightsIn(unit, name, await estate.directory.rights())),
  };
}

/** The key that is to be used; nothing for the key service. */
export function keyChosen(
  draft: PoolDraft,
  keys: readonly MultiUseKey[],
  faults: Fault[],
): MultiUseKey | undefined {
  const found = keys.find((key) => key.name === draft.licence);
  if (draft.licence && !found) faults.push({ path: 'licence', message: `there is no key ${draft.licence}` });
  return found;
}

/** An image version with what hosts made from it need to know. */
export async function versionChosen(db: Db, id: string | undefined) {
  if (!id) return undefined;
  return db.selectFrom('image_version').selectAll().where('id', '=', id).executeTakeFirst();
}

/** The store that hosts are to stream from, where they have no system disk: one that is there, on their site, with room for the image. */
export function storeChosen(
  draft: PoolDraft,
  stores: readonly StreamingStoreReport[],
  version: { readonly image_id: string; readonly size_bytes: number } | undefined,
  faults: Fault[],
): StreamingStoreReport | undefined {
  if (draft.clone !== 'network') return undefined;
  const at = (message: string): undefined => void faults.push({ path: 'store', message });
  if (!draft.store) return at('choose the streaming store that they stream from');
  const store = stores.find((one) => one.name === draft.store);
  if (!store) return at(`there is no streaming store ${draft.store}`);
  const refusal = version && storeRefusal(roomFor(version, store));
  if (refusal) at(refusal);
  return store;
}

/** What a store has for an image, and what the image would take of it. */
export function roomFor(
  { image_id, size_bytes }: { readonly image_id: string; readonly size_bytes: number },
  { name, capacityBytes, usedBytes, images }: StreamingStoreReport,
): StoreRoom {
  const isThere = images.some((one) => one.image === image_id);
  return { name, freeBytes: capacityBytes - usedBytes, neededBytes: isThere ? 0 : size_bytes };
}
