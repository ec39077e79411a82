/** A rollout as it is forecast: rings one after the other, each with its hosts, its windows and its limits. */
import type { Fault } from '../../result.ts';
import { MINUTE, type Instant } from '../../time/instant.ts';
import { windowsFrom, type WindowRule } from '../../time/windows.ts';
import type { P90Length } from '../admission.ts';
import { minutesByChecks, type AgentChecks } from '../agent-checks.ts';
import type { FailureRule } from '../failure-rule.ts';
import { MOST_HOSTS } from '../planned-hosts.ts';
import type { SeatPlan } from '../seats.ts';

export interface RolloutPlan {
  /** The instant from which windows count. */
  readonly from: Instant;
  /** For a rollout under way: windows before this instant are over, an open one begins here. */
  readonly resumeAt?: Instant;
  /** In their order; where they compete, an earlier one goes first. */
  readonly rings: readonly RingPlan[];
  /** What all rings share, such as the clones that the hypervisor makes at once. */
  readonly limits?: readonly SharedLimit[];
  readonly runs: number;
  readonly seed: number;
}

export interface RingPlan {
  readonly name: string;
  readonly window: WindowRule;
  /** Names of the hosts to change, in the order in which they begin. */
  readonly hosts: readonly string[];
  readonly batch: number;
  readonly maxUnavailable: number;
  /** Minutes of work on one host after it is drained. */
  readonly work: Spread;
  readonly drain: DrainPlan;
  /** Hosts that are attached in service; all others are drained and worked on. */
  readonly inService?: InServicePlan;
  /** The chance that one attempt fails, 0 to 1, and how often it is tried again. */
  readonly failure: { readonly rate: number; readonly retries: number };
  /** Seats of its pool. */
  readonly seats?: SeatPlan;
  /** Rings of one pool take seats from the same people; a ring by itself where it is not given. */
  readonly pool?: string;
  /** Whether it waits for the gate of the ring before it; otherwise it is another rollout at the same time. */
  readonly opens?: 'after the one before' | 'at once';
  /** It does not open before; of one that opens at once, when it does. */
  readonly notBefore?: Instant;
  /** What has to hold before the next ring opens; without it, that every host is done. */
  readonly gate?: GatePlan;
}

/** Minutes: median and 90th percentile of a log-normal distribution. */
export interface Spread {
  readonly medianMinutes: number;
  readonly p90Minutes: number;
}

/**
 * Minutes a host may wait for its sessions to end. With `session` (what is left of a session) and
 * the ring's `seats`, each host has the sessions expected at that moment and waits for the last of
 * them; without, every host takes the whole limit.
 */
export interface DrainPlan {
  readonly limitMinutes: number;
  readonly session?: Spread;
}

/** Hosts whose agents attach at their checks while people work on: they take no seats and drain nobody. */
export interface InServicePlan {
  /** By name; all of the ring where it is left out. */
  readonly hosts?: readonly string[];
  readonly checks: AgentChecks;
}

/** Whether a host of a ring is attached in service, by its name. */
export function inServiceOf({ inService }: Pick<RingPlan, 'inService'>): (host: string) => boolean {
  if (!inService) return () => false;
  if (!inService.hosts) return () => true;
  const names = new Set(inService.hosts);
  return (host) => names.has(host);
}

/** What is left of a ring: its first hosts, no more at a time than there are. */
export function restOfRing(ring: RingPlan, left: number): RingPlan {
  const hosts = ring.hosts.slice(0, left);
  const rest = { ...ring, hosts, batch: Math.min(ring.batch, left) };
  if (!ring.inService?.hosts) return rest;
  const staysInService = inServiceOf(ring);
  return { ...rest, inService: { ...ring.inService, hosts: hosts.filter(staysInService) } };
}

export interface GatePlan {
  /** Share of the ring's hosts that must be done, above 0 to 1, counted up to a whole host. */
  readonly finishedShare: number;
  /** Hours for which the done ones are watched. */
  readonly soakHours: number;
  /** Hours that somebody takes to approve. */
  readonly approvalHours: number;
  /** Stops the ring and all behind it. */
  readonly stop?: FailureRule;
}

/** Hosts at work at the same time over all rings, drain included, at most. */
export interface SharedLimit {
  readonly name: string;
  readonly atOnce: number;
}

export const openGate: GatePlan = { finishedShare: 1, soakHours: 0, approvalHours: 0 };

/** More rings than anybody keeps apart, and few enough that each is looked at whenever a host is finished. */
export const MOST_RINGS = 50;
const MOST_RUNS = 10_000;
/** A year: beyond it nobody waits for a gate. */
const MOST_HOURS = 8_760;
/** A day: an agent that looks more seldom is not there. */
const MOST_CHECK_MINUTES = 1_440;

type Need = (holds: boolean, path: string, message: string) => void;

/** The faults of a plan, each at its field; those of the only ring without its place in the list. */
export function planFaults(plan: RolloutPlan): Fault[] {
  const faults: Fault[] = [];
  const need: Need = (holds, path, message) => {
    if (!holds) faults.push({ path, message });
  };
  need(plan.rings.length > 0, 'rings', 'must be at least one');
  need(plan.rings.length <= MOST_RINGS, 'rings', `are more than ${MOST_RINGS}`);
  const alone = plan.rings.length === 1;
  for (const [i, ring] of plan.rings.entries()) {
    const at = (path: string) => (alone ? path : `rings.${i}.${path}`);
    ringFaults(ring, plan.from, (holds, path, message) => need(holds, at(path), message));
  }
  const hosts = plan.rings.reduce((sum, ring) => sum + ring.hosts.length, 0);
  const most = MOST_HOSTS.toLocaleString('en-GB');
  need(hosts <= MOST_HOSTS, alone ? 'hosts' : 'rings', `must be at most ${most}; forecast the rest apart`);
  twiceInRings(plan.rings, need);
  for (const [i, limit] of (plan.limits ?? []).entries())
    need(isCount(limit.atOnce), `limits.${i}.atOnce`, 'must be a whole number of at least 1');
  need(isCount(plan.runs) && plan.runs <= MOST_RUNS, 'runs', 'must be 1 to 10,000');
  return faults;
}

const isCount = (n: number) => Number.isInteger(n) && n >= 1;

function ringFaults(ring: RingPlan, from: Instant, need: Need): void {
  const { batch, work, drain, failure, gate = openGate } = ring;
  const hosts = ring.hosts.length;
  need(hosts > 0, 'hosts', 'must be at least 1');
  need(isCount(batch), 'batch', 'must be a whole number of at least 1, or no host is ever started');
  need(!(batch > hosts), 'batch', `is ${batch}, more than the ${hosts} hosts there are`);
  need(isCount(ring.maxUnavailable), 'maxUnavailable', 'must be a whole number of at least 1');
  need(work.medianMinutes > 0, 'work.medianMinutes', 'must be more than 0 minutes');
  need(work.p90Minutes >= work.medianMinutes, 'work.p90Minutes', 'must be at least the median');
  need(drain.limitMinutes >= 0, 'drain.limitMinutes', 'must be 0 minutes or more');
  need(failure.rate >= 0 && failure.rate <= 1, 'failure.rate', 'must lie between 0 and 1');
  need(Number.isInteger(failure.retries) && failure.retries >= 0, 'failure.retries', 'must be 0 or more');
  need(
    gate.finishedShare > 0 && gate.finishedShare <= 1,
    'gate.finishedShare',
    'must be above 0 and at most 1',
  );
  for (const hours of ['soakHours', 'approvalHours'] as const)
    need(gate[hours] >= 0 && gate[hours] <= MOST_HOURS, `gate.${hours}`, 'must be 0 hours to a year');
  if (ring.inService) inServiceFaults(ring.inService, new Set(ring.hosts), need);
  const windows = windowsFrom(ring.window, from);
  if (!windows.ok) for (const fault of windows.error) need(false, `window.${fault.path}`, fault.message);
}

function inServiceFaults(
  { hosts = [], checks }: InServicePlan,
  known: ReadonlySet<string>,
  need: Need,
): void {
  const { everyMinutes, attachMinutes } = checks;
  const isDay = (n: number) => n >= 0 && n <= MOST_CHECK_MINUTES;
  need(isDay(everyMinutes), 'inService.everyMinutes', 'must be 0 minutes to a day');
  need(isDay(attachMinutes), 'inService.attachMinutes', 'must be 0 minutes to a day');
  for (const [i, host] of hosts.entries())
    need(known.has(host), `inService.hosts.${i}`, `${host} is none of its hosts`);
}

/** A host belongs to one ring, or it would be on its way to two things at once. */
function twiceInRings(rings: readonly RingPlan[], need: Need): void {
  if (rings.length < 2) return;
  const ringOf = new Map<string, string>();
  for (const [i, ring] of rings.entries())
    for (const [n, host] of ring.hosts.entries()) {
      const before = ringOf.get(host);
      need(before === undefined, `rings.${i}.hosts.${n}`, `${host} is in ${before ?? ''} already`);
      ringOf.set(host, ring.name);
    }
}

/** Milliseconds within which 9 of 10 hosts are attached in service. */
export function servingLength(checks: AgentChecks): number {
  return minutesByChecks(checks, 0.9) * MINUTE;
}

/** An empty host needs no draining; any other may need the whole limit. Nobody waits for one in service. */
export function p90Length({
  work,
  drain,
  inService,
}: Pick<RingPlan, 'work' | 'drain' | 'inService'>): P90Length {
  const empty = work.p90Minutes * MINUTE;
  return {
    empty,
    withPeople: empty + drain.limitMinutes * MINUTE,
    // Where there are none of them, none is looked for.
    inService: inService?.hosts?.length === 0 || !inService ? Infinity : servingLength(inService.checks),
  };
}
