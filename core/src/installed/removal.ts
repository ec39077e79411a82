/** What the agent of a host makes of taking an application away. */
import { isDetected, type HostFacts } from './evaluate.ts';
import type { Installation } from './installation.ts';

export type RemovalVerdict =
  | { readonly state: 'to remove' }
  | { readonly state: 'not there' }
  /** It stays, for the sake of what is there as well. */
  | { readonly state: 'needed'; readonly by: readonly string[] };

/** `others`: all that hosts can be given; those that need it and are on the host keep it there. */
export function evaluateRemoval(
  own: Installation,
  host: HostFacts,
  others: readonly Installation[],
): RemovalVerdict {
  if (!isDetected(own, host)) return { state: 'not there' };
  const by = dependants(own, others)
    .filter((other) => isDetected(other, host))
    .map((other) => `${other.name} ${other.version}`);
  return by.length > 0 ? { state: 'needed', by } : { state: 'to remove' };
}

/** Installations that name this one among what they need. */
export function dependants(own: Installation, others: readonly Installation[]): Installation[] {
  return others.filter(
    (other) => other.name !== own.name && other.dependencies.some((need) => need.name === own.name),
  );
}
