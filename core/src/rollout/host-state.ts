/**
 * The life of a host under a rollout. Every change of state goes through `transition`, so that a
 * host is never in two states or skips one.
 */
import type { HostState } from '../pool/service-state.ts';
import { ok, refuse, type Result } from '../result.ts';

/** Where a host stands in a rollout: before its work, in it, or after it. */
export const hostStages = [
  'waiting',
  'in service',
  'draining',
  'rebuilding',
  'attaching',
  'joining',
  'verifying',
  'failed',
  'done',
  'set aside',
] as const;
export type HostStage = (typeof hostStages)[number];

const next: Record<HostState, readonly HostState[]> = {
  'in service': ['draining', 'failed'],
  // Nobody has to leave it, but whoever came before it was held may still be there.
  held: ['draining', 'failed'],
  // Work switches it on.
  off: ['draining', 'failed'],
  suspended: ['draining', 'failed'],
  draining: ['rebuilding', 'attaching', 'in service', 'held', 'failed'],
  rebuilding: ['joining', 'failed'],
  attaching: ['verifying', 'failed'],
  joining: ['attaching', 'verifying', 'failed'],
  verifying: ['in service', 'held', 'failed'],
  failed: ['draining', 'rebuilding', 'attaching', 'in service', 'held'],
};

/** The state a host goes to, or why it may not. */
export function transition(from: HostState, to: HostState): Result<HostState> {
  return next[from].includes(to) ? ok(to) : refuse('state', `a host cannot go from ${from} to ${to}`);
}

/** Those in which a rollout has a host in hand. */
export const atWorkStages: readonly HostStage[] = [
  'draining',
  'rebuilding',
  'attaching',
  'joining',
  'verifying',
];

/** Whether a rollout has this host in hand; one that is attached in service goes on taking people. */
export function atWork(stage: HostStage): boolean {
  return atWorkStages.includes(stage);
}
