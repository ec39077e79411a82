/**
 * How many hosts of a pool are to be ready at a time, and what becomes of the others: the rules that
 * an engineer sets, and what follows from them. Everybody who keeps to them, forecasts them or tries
 * them out asks here.
 */
import type { Fault } from '../result.ts';
import { mostSessions } from './session-curve.ts';
import { spareHosts } from './spares.ts';

/** What hosts that an hour does not need are: left on, suspended, or switched off. */
export const restModes = ['on', 'suspended', 'off'] as const;
export type RestMode = (typeof restModes)[number];

export interface ReadinessRules {
  /** For each day of the week, Monday first, and each of its local hours. */
  readonly week: readonly (readonly RestMode[])[];
  /** Hosts ready beyond those that are needed, by local hour. */
  readonly spares: 'recommended' | readonly number[];
  /** Hosts that are on whatever is needed, by local hour. */
  readonly leastOn: readonly number[];
  /** Hosts are never deleted below this. */
  readonly fewestHosts: number;
  /** Hosts are made when people come, up to this. */
  readonly mostHosts: number;
  /** A host that was not needed for so long is deleted; null for never. */
  readonly deleteAfterMinutes: number | null;
  /** How long people on a host that is to rest may stay before they are signed out. */
  readonly drainMinutes: number;
  /** Share that is kept ready on top of the expected sessions. */
  readonly reserve: number;
}

/** How long it takes until the next host is ready, minutes: as nine of ten were. */
export interface LeadTimes {
  readonly start: number;
  readonly resume: number;
  readonly make: number;
}

/** What is known of a pool, whatever its rules are. */
export interface ReadinessFacts {
  readonly kind: 'pooled' | 'dedicated';
  readonly sessionLimit: number;
  readonly hosts: number;
  /** Sessions by local hour. */
  readonly expected: readonly number[];
  /** People who come, by local hour. */
  readonly arrivals: readonly number[];
  readonly leads: LeadTimes;
}

export type LeadKind = keyof LeadTimes;

/** Minutes between two looks at a pool: who comes in between is seen at the end of it. */
export const LOOK_MINUTES = 1;
/** Hosts are got ready so long before they are expected to be needed, beyond their lead time. */
const AHEAD_MINUTES = 15;

/** How the next host comes in this hour: from those that rest, or else by making one. */
export function leadAt(facts: ReadinessFacts, rules: ReadinessRules, day: number, hour: number): LeadKind {
  const used = hostsFor(facts, facts.expected[hour] ?? 0);
  const mayMake = rules.mostHosts > facts.hosts && facts.kind === 'pooled';
  if (used >= facts.hosts && mayMake) return 'make';
  return rules.week[day]?.[hour] === 'suspended' ? 'resume' : 'start';
}

/** Spare hosts of an hour, as the rules say or as recommended by how the next one comes. */
export function sparesAt(facts: ReadinessFacts, rules: ReadinessRules, day: number, hour: number): number {
  // Whose a dedicated host is must find it ready; no other one does.
  if (facts.kind === 'dedicated') return 0;
  if (rules.spares !== 'recommended') return rules.spares[hour] ?? 0;
  return recommendedSpares(facts, leadAt(facts, rules, day, hour), hour);
}

/** Spare hosts that an hour should have when the next one comes in this way. */
export function recommendedSpares(facts: ReadinessFacts, lead: LeadKind, hour: number): number {
  // A host may fall due in one hour for those who come in the next.
  const arrivals = Math.max(facts.arrivals[hour] ?? 0, facts.arrivals[(hour + 1) % 24] ?? 0);
  return spareHosts(arrivals, facts.leads[lead] + LOOK_MINUTES, facts.sessionLimit);
}

/** Hosts that carry so many sessions. Whose dedicated host is needed is not known before they come: all are, or none. */
export function hostsFor({ kind, sessionLimit, hosts }: ReadinessFacts, sessions: number): number {
  if (kind === 'dedicated') return sessions >= 0.5 ? hosts : 0;
  return Math.ceil(sessions / Math.max(1, sessionLimit) - 1e-9);
}

/**
 * Hosts that are to be ready at a minute of a day: for those who are there or expected soon, with the
 * reserve, and the spares; at least those that are on in any case; at most all that may be.
 */
export function hostsNeeded(
  facts: ReadinessFacts,
  rules: ReadinessRules,
  at: { readonly day: number; readonly minute: number; readonly sessions: number },
): number {
  const hour = Math.floor(at.minute / 60);
  const lead = facts.leads[leadAt(facts, rules, at.day, hour)];
  const expected = mostSessions(facts.expected, at.minute, lead + AHEAD_MINUTES) * (1 + rules.reserve);
  const used = hostsFor(facts, Math.max(at.sessions, expected));
  const spares = sparesAt(facts, rules, at.day, hour);
  const wanted = Math.max(used + spares, rules.leastOn[hour] ?? 0);
  return Math.min(wanted, Math.max(facts.hosts, facts.kind === 'pooled' ? rules.mostHosts : 0));
}

/** Rules that change nothing: everything is left on, nothing is made. */
export function restingRules(hosts: number): ReadinessRules {
  return {
    week: Array.from({ length: 7 }, () => Array.from({ length: 24 }, (): RestMode => 'on')),
    spares: 'recommended',
    leastOn: Array.from({ length: 24 }, () => 0),
    fewestHosts: hosts,
    mostHosts: hosts,
    deleteAfterMinutes: null,
    drainMinutes: 240,
    reserve: 0.05,
  };
}

/** What is wrong with rules for a pool, at the field that says so. */
export function readinessFaults({ kind, hosts }: ReadinessFacts, rules: ReadinessRules): Fault[] {
  const faults: Fault[] = [];
  const at = (path: string, message: string) => faults.push({ path, message });
  if (rules.mostHosts < rules.fewestHosts) at('mostHosts', `is less than the fewest, ${rules.fewestHosts}`);
  if (kind === 'dedicated' && rules.mostHosts > hosts)
    at(
      'mostHosts',
      `must be at most ${hosts}: each host is one person’s, and none is made before it has one`,
    );
  if (kind === 'dedicated' && rules.deleteAfterMinutes !== null)
    at('deleteAfterMinutes', 'must be never: each host is one person’s');
  const high = rules.leastOn.findIndex((least) => least > Math.max(rules.mostHosts, hosts));
  if (high >= 0) at('leastOn', `at ${high}:00 is more than the pool may have`);
  return faults;
}
