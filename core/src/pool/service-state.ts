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

/** The one word that people have for both. */
export const hostStates = [
  'in service',
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
  return { service: 'out of service', work: state };
}

/** The one word for how a host stands: the work on it, or else its service. */
export function stateOf({ service, work }: HostStanding): HostState {
  if (work !== 'none') return work;
  // Out of service with nothing done to it happens to no host yet; people are told what matters to them.
  return service === 'out of service' ? 'failed' : service;
}
