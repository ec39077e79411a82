/** Who decides at a gate: somebody else than the one who made the rollout. */
import { refuse, ok, type Result } from '../../result.ts';
import type { Role } from '../../roles.ts';
import type { Decision, GateRules, Verdict } from './gate.ts';

/** Hours that a forecast takes an approval to last: asked for in the morning, given by noon. */
export const usualApprovalHours = 4;

/** Whether somebody may decide so now. `maker` is null for what a schedule made. Errors: at `what`. */
export function mayDecide(
  what: Decision,
  { role, maker, verdict }: { readonly role: Role; readonly maker: Role | null; readonly verdict: Verdict },
): Result<void> {
  if (role !== 'approver') return refuse('what', `an approver decides; you act as ${role}`);
  if (maker === role)
    return refuse('what', `this rollout was begun as ${role}; somebody else than its maker decides`);
  if (verdict.do === 'open') return refuse('what', 'the gate is open already');
  if (what === 'approve' && verdict.do === 'hold')
    return refuse('what', `the gate is held: ${verdict.why}; open it anyway, or stop the rollout`);
  return ok(undefined);
}

/** An approver who begins a rollout could not approve it. Errors: at `rings.<n>.gate.needsApproval`. */
export function mayBegin(role: Role | undefined, gates: readonly GateRules[]): Result<void> {
  const asks = gates.findIndex((gate, i) => gate.needsApproval && i < gates.length - 1);
  return role === 'approver' && asks >= 0
    ? refuse(
        `rings.${asks}.gate.needsApproval`,
        'asks for an approval, which the one who begins it does not give; begin it as engineer or operator',
      )
    : ok(undefined);
}
