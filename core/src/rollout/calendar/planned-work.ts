/** What is planned, as a calendar shows it and as two pieces of it can meet. */
import type { Instant } from '../../time/instant.ts';

export const plannedKinds = ['rollout', 'ring', 'after a cut', 'cut'] as const;
export type PlannedKind = (typeof plannedKinds)[number];

/** What some hosts that begin together ask at most: of a datastore operations a second, of a hypervisor hosts at a time. */
export interface StartLoad {
  /** As `site, datastore`; of a hypervisor its site. */
  readonly store: string;
  readonly operations: number;
}

/** One window of something planned; a cut has no length. */
export interface PlannedWork {
  readonly id: string;
  readonly kind: PlannedKind;
  /** What all windows of one rollout, one ring or one cut have in common. */
  readonly of: string;
  /** The rollout through rings that it is a part of, whose parts wait for one another by themselves. */
  readonly partOf: string | null;
  /** The pool whose hosts it takes; null for a cut. */
  readonly poolId: string | null;
  /** The line whose image they are to run, or that is cut; null where every pool keeps its image. */
  readonly lineId: string | null;
  readonly start: Instant;
  readonly end: Instant;
  /** Until when it is at work in this window, 9 in 10. */
  readonly worksUntil: Instant;
  /** Whether all hosts are done by the end of the last window that is shown; false only where it is known that they are not. */
  readonly isEnough: boolean;
  /** At most, while hosts of one batch start at the same moment. */
  readonly loads: readonly StartLoad[];
}

export const limitKinds = ['datastore', 'hypervisor'] as const;

/** What a datastore has left beside those who work on it, or a hypervisor makes at a time. */
export interface StoreLimit {
  readonly kind: (typeof limitKinds)[number];
  readonly store: string;
  readonly free: number;
}
