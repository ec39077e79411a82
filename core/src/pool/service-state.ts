/**
 * How a host stands, by two questions of their own: whether people get sessions on it, and what is
 * being done to it. `rollout/host-state.ts` says in which order a rollout takes a host through them.
 */
import type { Power } from '../power.ts';

/** `draining`: those who are on it may stay, nobody else comes. */
export const services = ['in service', 'draining', 'out of service'] as const;
export type Service = (typeof services)[number];

/** `failed`: the work ended in the middle, and somebody has to look. */
export const hostWorks = ['none', 'rebuilding', 'joining', 'attaching', 'verifying', 'failed'] as const;
export type HostWork = (typeof hostWorks)[number];

/** The one word that people have for all of it. `held`: nobody new comes until somebody lets people in. */
export const hostStates = [
  'in service',
  'held',
  'off',
  'suspended',
  'draining',
  'rebuilding',
  'attaching',
  'joining',
  'verifying',
  'failed',
] as const;
export type HostState = (typeof hostStates)[number];

export interface HostStanding {
  readonly service: Service;
  readonly work: HostWork;
  readonly power: Power;
}

/** What a person wants of a host stays over work that is done to it. */
export interface HoldableHost extends HostStanding {
  readonly isHeld: boolean;
}

/** Whether people can be given sessions on a host. */
export function takesSessions({ service }: Pick<HostStanding, 'service'>): boolean {
  return service === 'in service';
}

/** Whether it is out of service for good until somebody acts. */
export function isBroken({ work }: Pick<HostStanding, 'work'>): boolean {
  return work === 'failed';
}

/** Whether it rests: it can be got ready, and nobody can be sent to it until then. */
export function rests({ work, power }: Pick<HostStanding, 'work' | 'power'>): boolean {
  return work === 'none' && power !== 'on';
}

/** What a state means: a host is worked on out of service, and only there; what is worked on is on. */
export function standingIn(state: HostState): HostStanding {
  if (state === 'in service' || state === 'draining') return { service: state, work: 'none', power: 'on' };
  if (state === 'held') return { service: 'out of service', work: 'none', power: 'on' };
  if (state === 'off' || state === 'suspended')
    return { service: 'out of service', work: 'none', power: state };
  return { service: 'out of service', work: state, power: 'on' };
}

/** The one word for how a host stands: the work on it, or else that it is not on, or else its service. */
export function stateOf({ service, work, power }: HostStanding): HostState {
  if (work !== 'none') return work;
  if (power !== 'on') return power;
  return service === 'out of service' ? 'held' : service;
}

/** Held back: one in service takes nobody new from now on; one at work or off is held when that is over. */
export function holdBack(host: HostStanding): HoldableHost {
  const standing = stateOf(host) === 'in service' ? standingIn('held') : host;
  return { ...standingOf(standing), isHeld: true };
}

/** Let in: a held one takes people again; one at work, broken or off does so when that is over. */
export function letIn(host: HostStanding): HoldableHost {
  const standing = stateOf(host) === 'held' ? standingIn('in service') : host;
  return { ...standingOf(standing), isHeld: false };
}

function standingOf({ service, work, power }: HostStanding): HostStanding {
  return { service, work, power };
}

/** Where a host goes when work on it is done, or when it was switched on. */
export function stateAfterWork({ isHeld }: Pick<HoldableHost, 'isHeld'>): 'in service' | 'held' {
  return isHeld ? 'held' : 'in service';
}
