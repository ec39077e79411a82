/** The three kinds of clone side by side for a draft: bytes, money, minutes, and what starting all of them asks. */
import type { StorageShown, StoredShown } from '@vatline/contract/pool/preview';
import { HOURS_A_MONTH, usualStorage } from '@vatline/core/pool/assumptions';
import { cloneKinds, cloneStorage, type CloneKind } from '@vatline/core/pool/clone-storage';
import { storageOnOne, stormOf } from '@vatline/core/pool/demand';
import { makingTime } from '@vatline/core/pool/making-time';
import { dealOverPlaces } from '@vatline/core/pool/places';
import { startUpStorm } from '@vatline/core/pool/start-up-storm';
import type { ChosenPlace } from './choices.ts';
import { freeOperations } from './free-operations.ts';
import { diskPlanOf, type RoomRequest } from './preview-fit.ts';

/** All of it for the hosts of the first place, where most decisions lie. */
export function storageOf(request: RoomRequest): StorageShown | null {
  const { draft, places } = request;
  const [first] = places;
  const store = first?.site.datastores.find((row) => row.name === first.place.datastore);
  if (!first || !store) return null;
  const dealt = dealOverPlaces(
    draft.count ?? 0,
    places.map(({ place }) => place.atMost),
  );
  const { name, capacityBytes, usedBytes, overcommit } = store;
  const plan = diskPlanOf(request);
  const input = storageOnOne(dealt[0] ?? 0, plan, { name, capacityBytes, usedBytes, overcommit });
  return {
    kinds: cloneKinds.map((kind) => ({
      ...storedAs(kind, request, first, input.hosts),
      ...bytesOf(kind, cloneStorage(kind, input), store.price),
    })),
    input: { ...input, datastores: input.datastores.map((row) => ({ ...row })) },
    growth: {
      medianBytesPerDay: usualStorage.growthBytesPerDay,
      p90BytesPerDay: usualStorage.growthP90BytesPerDay,
    },
    machinesPerMonth: places.reduce(
      (sum, { size }, i) => sum + (dealt[i] ?? 0) * size.pricePerHour * HOURS_A_MONTH,
      0,
    ),
  };
}

function bytesOf(
  kind: CloneKind,
  { fixedBytes, perHostBytes, totalBytes }: ReturnType<typeof cloneStorage>,
  price: number,
): Pick<StoredShown, 'kind' | 'fixedBytes' | 'perHostBytes' | 'totalBytes' | 'pricePerMonth'> {
  return { kind, fixedBytes, perHostBytes, totalBytes, pricePerMonth: (totalBytes / 1e9) * price };
}

function storedAs(
  kind: CloneKind,
  { draft }: RoomRequest,
  { site, place }: ChosenPlace,
  hosts: number,
): Pick<StoredShown, 'minutes' | 'storm'> {
  const storm = startUpStorm(stormOf(kind, hosts, place, (name) => freeOperations(site, name)));
  const finite = (n: number) => (Number.isFinite(n) ? n : null);
  return {
    minutes: makingTime(kind, hosts, draft.atOnce ?? 8).p50Minutes,
    storm: {
      ...storm,
      staggerSeconds: finite(storm.staggerSeconds),
      allStartedSeconds: finite(storm.allStartedSeconds),
    },
  };
}
