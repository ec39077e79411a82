/**
 * What keeps a pool ready, minute by minute: how many hosts to start, to make, to let rest and to
 * delete, from how it stands now. The server does it, and the simulated day tries it.
 */
import {
  hostsFor,
  hostsNeeded,
  type ReadinessFacts,
  type ReadinessRules,
  type RestMode,
} from './readiness.ts';

export interface KeepingNow {
  /** Monday is 0. */
  readonly day: number;
  /** Local minute of the day. */
  readonly minute: number;
  /** People with a session, and those who wait for one. */
  readonly sessions: number;
  /** Hosts that people can be sent to. */
  readonly serving: number;
  /** Hosts that start, resume or are being made. */
  readonly coming: number;
  /** Of those the ones that start or resume: only so many may at once. */
  readonly starting: number;
  /** Hosts at rest that may be started, suspended ones among them. */
  readonly resting: number;
  /** Hosts at rest for longer than the rules want to keep them. */
  readonly longUnused: number;
  /** Hosts that may start at once without asking too much of their datastore. */
  readonly startsAtOnce: number;
}

export interface KeepingMoves {
  readonly needed: number;
  readonly start: number;
  readonly make: number;
  /** Hosts that nobody new is sent to, and that rest once they are empty. */
  readonly rest: number;
  readonly restAs: Exclude<RestMode, 'on'>;
  readonly remove: number;
}

/** A host that is to rest must not be needed for the next hour either, or it would come and go. */
const SURE_MINUTES = 60;

export function nextKeeping(facts: ReadinessFacts, rules: ReadinessRules, now: KeepingNow): KeepingMoves {
  const hour = Math.floor(now.minute / 60);
  const mode = rules.week[now.day]?.[hour] ?? 'on';
  const needed = hostsNeeded(facts, rules, now);
  const ready = now.serving + now.coming;
  const wanted = mode === 'on' ? Math.max(needed, facts.hosts) : needed;
  const mayStart = Math.max(0, Math.min(now.resting, now.startsAtOnce - now.starting));
  const start = Math.max(0, Math.min(wanted - ready, mayStart));
  const make = Math.max(0, Math.min(needed - ready - now.resting, rules.mostHosts - facts.hosts));
  const isCalm = start === 0 && make === 0 && now.coming === 0;
  // People come and go around any number: half a host more must not bring back what was emptied.
  const sessions = now.sessions + (facts.kind === 'pooled' ? facts.sessionLimit / 2 : 0);
  const later = hostsNeeded(facts, rules, { ...inAnHour(now), sessions });
  const surplus = mode !== 'on' && isCalm ? now.serving - Math.max(needed, later) : 0;
  const canBeSpared = now.serving - hostsFor(facts, now.sessions);
  return {
    needed,
    start,
    make: facts.kind === 'pooled' ? make : 0,
    rest: Math.max(0, Math.min(surplus, canBeSpared)),
    restAs: mode === 'suspended' ? 'suspended' : 'off',
    remove: isCalm ? Math.max(0, Math.min(now.longUnused, facts.hosts - rules.fewestHosts)) : 0,
  };
}

function inAnHour({ day, minute }: KeepingNow): { day: number; minute: number } {
  const later = minute + SURE_MINUTES;
  return later < 1_440 ? { day, minute: later } : { day: (day + 1) % 7, minute: later - 1_440 };
}
