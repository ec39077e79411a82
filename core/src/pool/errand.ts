/**
 * What is done to a host so that its pool is as ready as it should be, one thing after the other: a
 * host that is to rest is emptied first. Each ends in a standing, or in the next errand.
 */
import { stateAfterWork, stateOf, type HoldableHost, type HostState } from './service-state.ts';

export const errands = ['starting', 'resuming', 'draining', 'stopping', 'suspending'] as const;
export type Errand = (typeof errands)[number];

export type ErrandEnd =
  | { readonly then: 'stands'; readonly state: HostState }
  | { readonly then: 'goes on'; readonly errand: Errand };

/** What an errand that went well comes to; `restAs` is what its pool's hosts do at this hour. */
export function afterErrand(errand: Errand, host: HoldableHost, restAs: 'off' | 'suspended'): ErrandEnd {
  switch (errand) {
    case 'starting':
    case 'resuming':
      return { then: 'stands', state: stateAfterWork(host) };
    case 'draining':
      return { then: 'goes on', errand: restAs === 'off' ? 'stopping' : 'suspending' };
    case 'stopping':
      return { then: 'stands', state: 'off' };
    case 'suspending':
      return { then: 'stands', state: 'suspended' };
  }
}

/**
 * Whether a host still stands as the errand left it. Somebody may have held it, a rollout may have
 * taken it: then what they want goes before.
 */
export function isStillOn(errand: Errand, host: HoldableHost): boolean {
  const state = stateOf(host);
  switch (errand) {
    case 'starting':
    case 'resuming':
      return state === 'off' || state === 'suspended';
    case 'draining':
      return state === 'draining' && !host.isHeld;
    case 'stopping':
    case 'suspending':
      return state === 'held' || state === 'draining';
  }
}

/** Whether somebody waits for the host to become ready. */
export function isComing(errand: Errand): boolean {
  return errand === 'starting' || errand === 'resuming';
}
