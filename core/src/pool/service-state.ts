/**
 * How a host stands, by two questions of their own: whether people get sessions on it, and what is
 * being done to it. `rollout/host-state.ts` says in which order a rollout takes a host through them.
 */
/** `draining`: those who are on it may stay, nobody else comes. */
export const services = ['in service', 'draining', 'out of service'] as const;
export type Service = (typeof services)[number];

/** `failed`: the work ended in the middle, and somebody has to look. */
export const hostWorks = ['none', 'rebuilding', 'joining', 'attaching', 'verifying', 'failed'] as const;
export type HostWork = (typeof hostWorks)[number];

/** The one word that people have for both. `held`: nobody new comes until somebody lets people in. */
export const hostStates = [
  'in service',
  'held',
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
}

/** Whether people can be given sessions on a host. */
export function takesSessions({ service }: Pick<HostStanding, 'service'>): boolean {
  return service === 'in service';
}

/** Whether it is out of service for good until somebody acts. */
export function isBroken({ work }: Pick<HostStanding, 'work'>): boolean {
  return work === 'failed';
}

/** What a state means: a host is worked on out of service, and only there. */
export function standingIn(state: HostState): HostStanding {
  if (state === 'in service' || state === 'draining') return { service: state, work: 'none' };
  if (state === 'held') return { service: 'out of service', work: 'none' };
  return { service: 'out of service', work: state };
}

/** The one word for how a host stands: the work on it, or else its service. */
export function stateOf({ service, work }: HostStanding): HostState {
  if (work !== 'none') return work;
  return service === 'out of service' ? 'held' : service;
}

/** A host with what a person wants of it, which stays over work that is done to it. */
export interface HoldableHost extends HostStanding {
  readonly isHeld: boolean;
}

/** Held back: one in service takes nobody new from now on; one at work is held when the work is done. */
export function holdBack(host: HostStanding): HoldableHost {
  const standing = stateOf(host) === 'in service' ? standingIn('held') : host;
  return { service: standing.service, work: standing.work, isHeld: true };
}

/** Let in: a held one takes people again; one at work, or broken, does so when that is over. */
export function letIn(host: HostStanding): HoldableHost {
  const standing = stateOf(host) === 'held' ? standingIn('in service') : host;
  return { service: standing.service, work: standing.work, isHeld: false };
}

/** Where a host goes when work on it is done. */
export function stateAfterWork({ isHeld }: Pick<HoldableHost, 'isHeld'>): 'in service' | 'held' {
  return isHeld ? 'held' : 'in service';
}
