/** The life of an image version, from its cut to its retirement; and who may take it which way. */
import { ok, refuse, type Result } from '../result.ts';
import type { Role } from '../roles.ts';

export const versionStates = ['draft', 'in test', 'approved', 'retired'] as const;
export type VersionState = (typeof versionStates)[number];

/**
 * The state that somebody sets, or why they may not. A person may take a version any way, also back
 * from retirement; but to let it into production takes an approver, who is not the one who made it.
 */
export function setBy(role: Role, state: VersionState): Result<VersionState> {
  return state === 'approved' && role !== 'approver'
    ? refuse('state', `an approver approves; you act as ${role}`)
    : ok(state);
}

/** Whether hosts may be taken to a version in this state. */
export function canBeRolledOut(state: VersionState): boolean {
  return state !== 'retired';
}
