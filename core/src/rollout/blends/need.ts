/**
 * What a host needs to hold another blend. Forecast, engine and pages all ask here, so that what is
 * said of a host is what is done to it.
 */

/** What a rollout does to mend a host that drifted; `by hand` where none can. */
export type Mending = 'attach only' | 'rebuild' | 'by hand';

/** A blend as far as hosts are concerned. */
export interface BlendContents {
  readonly imageVersionId: string;
  /** In any order: which came first on a form changes nothing on a host. */
  readonly packageVersionIds: readonly string[];
  /** Null where it has no settings of its own. */
  readonly baselineRevisionId: string | null;
}

/** What a host holds, as far as that is known. */
export interface HostContents {
  readonly blend: BlendContents;
  /** False from a failure in the middle of its work until it is done: it may hold anything then. */
  readonly isKnown: boolean;
  /** Whether work on it failed, so that it is out of service until something is done to it. */
  readonly hasFailed: boolean;
  /** What mends it, where it was found not to hold what its blend says. */
  readonly mending?: Mending;
}

/** From the least to the most that is done to a host. */
export const hostNeeds = ['nothing', 'settings only', 'attach only', 'rebuild'] as const;
export type HostNeed = (typeof hostNeeds)[number];

/**
 * A host is made anew from its image where the image is another one, or where nobody knows what is on
 * it. Otherwise containers are attached and taken away by its agent, and settings are applied. A
 * failed one is attached anew at least, which looks whether it is well; one that drifted gets what
 * mends it at least.
 */
export function needOf({ blend, isKnown, hasFailed, mending }: HostContents, to: BlendContents): HostNeed {
  if (!isKnown || mending === 'rebuild') return 'rebuild';
  const need = needBetween(blend, to);
  return (hasFailed || mending === 'attach only') && need !== 'rebuild' ? 'attach only' : need;
}

/** What any host needs that holds one blend and is to hold the other. */
export function needBetween(from: BlendContents, to: BlendContents): HostNeed {
  if (from.imageVersionId !== to.imageVersionId) return 'rebuild';
  if (packagesKey(from.packageVersionIds) !== packagesKey(to.packageVersionIds)) return 'attach only';
  return from.baselineRevisionId === to.baselineRevisionId ? 'nothing' : 'settings only';
}

/** One text for the same package versions, whatever their order. */
export function packagesKey(packageVersionIds: readonly string[]): string {
  return [...new Set(packageVersionIds)].sort().join();
}
