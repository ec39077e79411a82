/** Hosts that stream one image: whether all may be switched to another one, and when their scratch disks are full. */
import { gigabytes } from '../gigabytes.ts';
import type { Fault } from '../result.ts';
import { DAY, type Instant } from '../time/instant.ts';
import { fitConditions, type ImageFacts } from './fit-conditions.ts';

/** A scratch disk that is full within this time is worth knowing of: there is a night to do something about it. */
export const SCRATCH_SOON_DAYS = 1;

/** The disk that takes what a host writes; it is empty again at every start. */
export interface ScratchDisk {
  readonly bytes: number;
  readonly usedBytes: number;
  readonly fillsBytesPerDay: number;
}

/** When it is full, if the host is not started anew before; null where nothing is written to it. */
export function scratchFullAt(
  { bytes, usedBytes, fillsBytesPerDay }: ScratchDisk,
  now: Instant,
): Instant | null {
  if (usedBytes >= bytes) return now;
  if (fillsBytesPerDay <= 0) return null;
  return Math.round(now + ((bytes - usedBytes) / fillsBytesPerDay) * DAY);
}

/** Whether that is soon. */
export function scratchFillsSoon(disk: ScratchDisk): boolean {
  const full = scratchFullAt(disk, 0);
  return full !== null && full <= SCRATCH_SOON_DAYS * DAY;
}

/** What is known of a pool whose hosts are to run another image from their next start on. */
export interface SwitchFacts {
  readonly pool: string;
  readonly isStreamed: boolean;
  readonly hosts: number;
  readonly hasOpenRollout: boolean;
  /** Why what the pool is made from is held against it; nothing where it is not. */
  readonly held: string | undefined;
  /** Whether the version is of the line that the pool's hosts are made from. */
  readonly isOfLine: boolean;
  /** Whether all hosts run it already, or will from their next start on. */
  readonly isAsked: boolean;
  readonly image: ImageFacts;
  /** Null where the hosts stream from none. */
  readonly store: StoreRoom | null;
}

export interface StoreRoom {
  readonly name: string;
  readonly freeBytes: number;
  /** What an image would take more of it; 0 for one that is there. */
  readonly neededBytes: number;
}

/** Why a store cannot take an image; nothing where it can. */
export function storeRefusal({ name, neededBytes, freeBytes }: StoreRoom): string | undefined {
  return neededBytes > freeBytes
    ? `${name} has no room for the image: it takes ${gigabytes(neededBytes)} and ${gigabytes(freeBytes)} are free`
    : undefined;
}

/** Everything that stands in the way of a switch, at `imageVersionId`; the first is the weightiest. */
export function switchFaults(facts: SwitchFacts): Fault[] {
  const { pool, store } = facts;
  const refusal = store ? storeRefusal(store) : undefined;
  const at = (is: boolean, message: string): Fault[] => (is ? [{ path: 'imageVersionId', message }] : []);
  return [
    ...at(
      !facts.isStreamed,
      `the hosts of ${pool} have disks of their own; a rollout takes them to another image`,
    ),
    ...at(facts.hosts === 0, `${pool} has no hosts`),
    ...at(facts.hasOpenRollout, `a rollout of ${pool} is under way; wait for its end or stop it first`),
    ...at(facts.held !== undefined, facts.held ?? ''),
    ...at(!facts.isOfLine, `it is of another line than the hosts of ${pool}`),
    ...fitConditions({ image: facts.image })
      .filter((condition) => condition.verdict === 'fails')
      .map(({ says }): Fault => ({ path: 'imageVersionId', message: says })),
    ...at(
      facts.isAsked,
      `all hosts of ${pool} run version ${facts.image.number} or will from their next start on`,
    ),
    ...(refusal === undefined ? [] : at(true, refusal)),
  ];
}
