/** What a person may decide about one host of a rollout, by where it stands in it. */
import type { HostStage } from './host-state.ts';

export const hostDecisions = ['retry', 'set aside', 'first', 'last'] as const;
export type HostDecision = (typeof hostDecisions)[number];

/** Why that cannot be decided about a host; undefined where it can. The screen and the engine ask here. */
export function decisionRefusal(
  decision: HostDecision,
  host: { readonly stage: HostStage; readonly hasEnded: boolean; readonly isStopped: boolean },
): string | undefined {
  // A failed host may be given up for good also afterwards; nothing starts any more.
  if (host.hasEnded && !(decision === 'set aside' && host.stage === 'failed'))
    return 'This rollout has ended already';
  switch (decision) {
    case 'retry':
      return host.stage === 'failed' ? undefined : 'This host has not failed';
    case 'set aside':
      return host.stage === 'failed' || host.stage === 'waiting'
        ? undefined
        : 'Only a host that waits or has failed can be set aside';
    case 'first':
    case 'last':
      if (host.isStopped) return 'This rollout was stopped; no host has a turn any more';
      return host.stage === 'waiting' ? undefined : 'Only a host that waits has a turn to change';
  }
}

/** The number that puts a host before, or behind, all others that wait; they go by it. */
export function turnNumber(decision: 'first' | 'last', waiting: readonly number[]): number {
  if (waiting.length === 0) return 0;
  return decision === 'first' ? Math.min(...waiting) - 1 : Math.max(...waiting) + 1;
}
