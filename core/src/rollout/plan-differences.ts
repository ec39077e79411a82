/** What two plans say differently, field by field. */
import type { InServicePlan, RingPlan, RolloutPlan } from './forecast/plan.ts';

export interface PlanDifference {
  /** Such as `pilot: batch`; of the plan itself without a ring. */
  readonly field: string;
  /** Undefined where one of them has no such thing. */
  readonly before: string | undefined;
  readonly after: string | undefined;
}

type Says = ReadonlyMap<string, string>;

/** In the order in which plans say things; rings are matched by their names. */
export function planDifferences(before: RolloutPlan, after: RolloutPlan): PlanDifference[] {
  const [a, b] = [saidBy(before), saidBy(after)];
  const fields = [...new Set([...a.keys(), ...b.keys()])];
  return fields
    .filter((field) => a.get(field) !== b.get(field))
    .map((field) => ({ field, before: a.get(field), after: b.get(field) }));
}

function saidBy({ rings, limits }: RolloutPlan): Says {
  const said = new Map<string, string>();
  const alone = rings.length === 1;
  if (!alone) said.set('rings', rings.map((ring) => ring.name).join(', '));
  for (const ring of rings)
    for (const [field, value] of ringSays(ring)) said.set(alone ? field : `${ring.name}: ${field}`, value);
  for (const limit of limits ?? []) said.set(`limit ${limit.name}`, `${limit.atOnce} at once`);
  return said;
}

function ringSays(ring: RingPlan): [string, string][] {
  const { window, work, drain, failure, seats, gate, opens, inService } = ring;
  const closed = [...(window.closed?.dates ?? [])].sort();
  return [
    ['hosts', String(ring.hosts.length)],
    ['window', `${window.rule}, ${window.start} to ${window.end}, ${window.zone}`],
    ['closed', closed.join(', ')],
    ['batch', String(ring.batch)],
    ['at most out', String(ring.maxUnavailable)],
    ['work', `${work.medianMinutes} minutes, 9 in 10 ${work.p90Minutes}`],
    ['drain', `at most ${drain.limitMinutes} minutes`],
    ['attached in service', inService ? inServiceSays(inService) : 'none'],
    ['failures', `${failure.rate} of attempts, ${failure.retries} more tries`],
    ['seats kept', seats ? `${Math.round(seats.reserve * 100)} % over those expected` : 'none'],
    ['opens', opens ?? 'after the one before'],
    [
      'gate',
      gate
        ? `${Math.round(gate.finishedShare * 100)} % done, ${gate.soakHours} h of soak, ${gate.approvalHours} h of approval`
        : 'all done',
    ],
  ];
}

function inServiceSays({ hosts, checks }: InServicePlan): string {
  const which = hosts ? `${hosts.length} hosts` : 'all hosts';
  return `${which}, checks every ${checks.everyMinutes} minutes, ${checks.attachMinutes} to attach`;
}
