/** Rings as the forecast takes them: the whole chain before it begins, and what is left of it on the way. */
import { HOUR, type Instant } from '../../time/instant.ts';
import { openGate, restOfRing, type RingPlan } from '../forecast/plan.ts';
import { usualApprovalHours } from './approval.ts';
import { hostsNeeded, soakedAt, type GateRules, type RingStanding } from './gate.ts';

/** A ring with the gate behind it; one without hosts to change has nothing to forecast. */
export interface ChainRing {
  readonly plan: RingPlan;
  readonly rules: GateRules;
}

/**
 * The rings that change hosts, in their order. What somebody has to approve behind one that changes
 * none is waited for before the next.
 */
export function chainOf(rings: readonly ChainRing[], notBefore: Instant): RingPlan[] {
  const chain: RingPlan[] = [];
  let begins = notBefore;
  for (const { plan, rules } of rings) {
    const approvalHours = rules.needsApproval ? usualApprovalHours : 0;
    if (plan.hosts.length > 0) {
      const { finishedShare, soakHours } = rules;
      const gate = { ...plan.gate, finishedShare, soakHours, approvalHours };
      chain.push({ ...plan, gate, ...(chain.length === 0 && { notBefore: begins }) });
      continue;
    }
    const before = chain.pop();
    if (!before) begins += approvalHours * HOUR;
    else chain.push({ ...before, gate: moreApproval(before, approvalHours) });
  }
  return chain;
}

function moreApproval({ gate }: RingPlan, hours: number) {
  const known = gate ?? openGate;
  return { ...known, approvalHours: known.approvalHours + hours };
}

export interface RingUnderWay {
  /** Undefined for one that is over. */
  readonly plan: RingPlan | undefined;
  readonly rules: GateRules;
  readonly standing: RingStanding;
  /** Hosts that are waiting or at work. */
  readonly left: number;
}

/** What is left of each ring; undefined for one that is over. Ask only while no gate holds. */
export function restOfChain(
  rings: readonly RingUnderWay[],
  now: Instant,
  notBefore: Instant,
): (RingPlan | undefined)[] {
  return rings.map((ring, i) => {
    const { plan, standing, left } = ring;
    if (!plan || left === 0 || standing.hasEnded || standing.state === 'done' || standing.state === 'dropped')
      return undefined;
    const rest: RingPlan = {
      ...restOfRing(plan, left),
      gate: { ...plan.gate, ...restOfGate(ring, now) },
    };
    if (standing.state === 'started') return { ...rest, opens: 'at once' };
    const before = rings[i - 1];
    const opening = before ? openingBehind(before, now) : Math.max(now, notBefore);
    return opening === undefined ? rest : { ...rest, opens: 'at once', notBefore: opening };
  });
}

/** When the gate behind a ring opens, as far as no host has to be waited for. */
function openingBehind(ring: RingUnderWay, now: Instant): Instant | undefined {
  const { standing, left } = ring;
  const isBusy = standing.nextIsSamePool && standing.state === 'started' && left > 0;
  return standing.reachedAt === null || isBusy ? undefined : afterSoak(ring, standing.reachedAt, now);
}

function afterSoak({ standing, rules }: RingUnderWay, reachedAt: Instant, now: Instant): Instant {
  const soaked = Math.max(now, soakedAt(reachedAt, standing.state, rules));
  const { decision } = standing;
  if (decision?.what === 'open anyway') return now;
  const isApproved = !rules.needsApproval || decision?.what === 'approve';
  return isApproved ? soaked : soaked + usualApprovalHours * HOUR;
}

/** The gate as it counts for the hosts that are left. */
function restOfGate(ring: RingUnderWay, now: Instant) {
  const { standing, rules, left } = ring;
  if (standing.reachedAt !== null) {
    const hours = (afterSoak(ring, standing.reachedAt, now) - now) / HOUR;
    return { finishedShare: Number.EPSILON, soakHours: hours, approvalHours: 0 };
  }
  const hosts = standing.state === 'started' ? standing.hosts : left;
  const needed = hostsNeeded(hosts, rules.finishedShare) - standing.done;
  const approvalHours = rules.needsApproval && standing.decision?.what !== 'approve' ? usualApprovalHours : 0;
  const finishedShare = Math.min(1, Math.max(Number.EPSILON, needed / left));
  return { finishedShare, soakHours: rules.soakHours, approvalHours };
}
