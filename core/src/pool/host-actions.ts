/**
 * What can be done to hosts of a pool, and what will happen, before it does: which hosts it concerns,
 * which it passes over and why, who loses a session, what is lost for good.
 */
import { rests, stateOf, type HoldableHost } from './service-state.ts';

export const hostActions = [
  'hold',
  'let in',
  'drain',
  'restart',
  'power off',
  'power on',
  'message',
  'keep a copy',
  'remove',
] as const;
export type HostAction = (typeof hostActions)[number];

export interface ActedHost extends HoldableHost {
  readonly name: string;
  readonly sessions: number;
  /** Whose it is; null for a host that is nobody's own. */
  readonly owner: string | null;
  /** Personal data disk; 0 is none. */
  readonly dataBytes: number;
  /** Whether it has a disk of its own that could be copied. */
  readonly hasDisk: boolean;
  /** Whether a rollout has it in its list and is not over. */
  readonly isInRollout: boolean;
}

export interface PassedOver {
  readonly name: string;
  /** Without a full stop. */
  readonly why: string;
}

export interface ActionEffect {
  /** Hosts that it is done to. */
  readonly hosts: readonly string[];
  readonly passedOver: readonly PassedOver[];
  /** Sessions that end by it. */
  readonly sessionsEnded: number;
  /** Bytes of personal data that are gone for good. */
  readonly dataLostBytes: number;
  /** Seats that the pool has fewer afterwards; below 0 it has more. */
  readonly seatsLost: number;
}

/** What an action does to hosts of a pool with so many sessions a host. */
export function effectOf(
  action: HostAction,
  hosts: readonly ActedHost[],
  sessionLimit: number,
): ActionEffect {
  const judged = hosts.map((host) => ({ host, why: whyNot(action, host) }));
  const done = judged.filter((one) => one.why === undefined).map((one) => one.host);
  const endsSessions = action === 'restart' || action === 'power off' || action === 'remove';
  const serving = done.filter((host) => stateOf(host) === 'in service');
  return {
    hosts: done.map((host) => host.name),
    passedOver: judged.flatMap(({ host, why }) => (why === undefined ? [] : [{ name: host.name, why }])),
    sessionsEnded: endsSessions ? sum(done, (host) => host.sessions) : 0,
    dataLostBytes: action === 'remove' ? sum(done, (host) => host.dataBytes) : 0,
    seatsLost: seatsLost(action, done, serving) * sessionLimit,
  };
}

function seatsLost(action: HostAction, done: readonly ActedHost[], serving: readonly ActedHost[]): number {
  if (action === 'hold' || action === 'drain' || action === 'power off' || action === 'remove')
    return serving.length;
  if (action === 'let in') return -done.filter((host) => stateOf(host) === 'held').length;
  if (action === 'power on') return -done.filter((host) => !host.isHeld).length;
  return 0;
}

const atWork = ['draining', 'rebuilding', 'attaching', 'joining', 'verifying'];

/** Why an action passes a host over; nothing where it does not. */
function whyNot(action: HostAction, host: ActedHost): string | undefined {
  const state = stateOf(host);
  if (action === 'hold') return host.isHeld ? 'is held already' : undefined;
  if (action === 'let in') return host.isHeld ? undefined : 'is not held';
  if (atWork.includes(state)) return `is ${state}`;
  switch (action) {
    case 'power on':
      return rests(host) ? undefined : 'is on';
    case 'keep a copy':
      return host.hasDisk ? undefined : 'has no disk of its own';
    case 'message':
      return host.sessions > 0 ? undefined : 'has nobody on it';
    case 'remove':
      return host.isInRollout ? 'is in the list of a rollout that is not over' : undefined;
    case 'power off':
      return state === 'off' ? 'is off' : undefined;
    default:
      return rests(host) ? `is ${state}` : undefined;
  }
}

function sum<T>(rows: readonly T[], of: (row: T) => number): number {
  return rows.reduce((total, row) => total + of(row), 0);
}
