/** What the hosts of a pool ask of the datastores of a place, from how they are made. */
import { usualOperations, usualStorage } from './assumptions.ts';
import {
  perHostBytes,
  type CloneKind,
  type CloneStorageInput,
  type DatastoreSpace,
  type HostDisks,
} from './clone-storage.ts';
import type { DiskDemand } from './fit.ts';
import type { StormInput } from './start-up-storm.ts';

export interface DiskPlan {
  /** Used size of the image, bytes. */
  readonly imageBytes: number;
  /** Personal data disk; 0 is none. */
  readonly dataBytes: number;
  /** Whether what was written is gone at sign-out, so that it never gathers for long. */
  readonly isCleanedAtSignOut: boolean;
  /** Days between rebuilds. */
  readonly days: number;
  /** Scratch disk of a host that streams its image. */
  readonly scratchBytes: number;
}

/** The datastores of one place, by what lies on them. */
export interface DiskPlaces {
  readonly datastore: string;
  readonly parentDatastore: string | null;
  readonly dataDatastore: string | null;
}

/** The disks of one host under the usual assumptions; a personal data disk apart. */
export function hostDisksOf(plan: DiskPlan): HostDisks {
  const { growthBytesPerDay, longestSessionDays, swapBytes } = usualStorage;
  return {
    imageBytes: plan.imageBytes,
    swapBytes,
    scratchBytes: plan.scratchBytes,
    dataBytes: plan.dataBytes,
    throwawayBytes: 0,
    growthBytesPerDay,
    days: plan.isCleanedAtSignOut ? longestSessionDays : plan.days,
  };
}

/** What each datastore of a place is asked for. The parent of linked clones counts once, personal disks where they lie. */
export function disksOnPlace(kind: CloneKind, plan: DiskPlan, places: DiskPlaces): DiskDemand[] {
  const disks = hostDisksOf(plan);
  const quiet = { fixedBytes: 0, perHostBytes: 0, operationsPerHost: 0 };
  const demands: DiskDemand[] = [
    {
      datastore: places.datastore,
      fixedBytes: 0,
      perHostBytes: perHostBytes(kind, { ...disks, dataBytes: 0 }),
      operationsPerHost: usualOperations.atWork,
    },
  ];
  if (kind === 'linked')
    demands.push({
      ...quiet,
      datastore: places.parentDatastore ?? places.datastore,
      fixedBytes: plan.imageBytes,
    });
  if (plan.dataBytes > 0)
    demands.push({
      ...quiet,
      datastore: places.dataDatastore ?? places.datastore,
      perHostBytes: plan.dataBytes,
    });
  return demands;
}

/** The question for `cloneStorage` with all on one datastore: how the three kinds compare. */
export function storageOnOne(hosts: number, plan: DiskPlan, store: DatastoreSpace): CloneStorageInput {
  return { ...hostDisksOf(plan), hosts, streamingStores: 1, datastores: [store] };
}

/** What hosts that start at the same moment ask of the datastores of a place, operations a second. */
export function startLoads(
  kind: CloneKind,
  hosts: number,
  places: DiskPlaces,
): { readonly datastore: string; readonly operations: number }[] {
  const { operationsPerHost, parentShare, parentFree } = stormOf(kind, hosts, places, () => 0);
  const all = Math.round(hosts * operationsPerHost);
  const parent = places.parentDatastore ?? places.datastore;
  if (parentFree === null) return [{ datastore: places.datastore, operations: all }];
  const onParent = Math.round(all * parentShare);
  return [
    { datastore: places.datastore, operations: all - onParent },
    { datastore: parent, operations: onParent },
  ];
}

/** The question for `startUpStorm`; `free` tells what a datastore has left, operations a second. */
export function stormOf(
  kind: CloneKind,
  hosts: number,
  places: DiskPlaces,
  free: (datastore: string) => number,
): StormInput {
  const parent = places.parentDatastore ?? places.datastore;
  const { starting, startSeconds, parentShare } = usualOperations;
  return {
    hosts,
    operationsPerHost: starting,
    startSeconds,
    parentShare: kind === 'linked' ? parentShare : 0,
    childrenFree: free(places.datastore),
    parentFree: kind === 'linked' && parent !== places.datastore ? free(parent) : null,
  };
}
