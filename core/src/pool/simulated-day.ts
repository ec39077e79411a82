/**
 * A day of a pool tried out: people come and go by the minute, hosts start, are made and rest by the
 * very rule that keeps the real pool, and whoever finds no seat waits. Sessions are those of a queue
 * with as many servers as anybody wants: arrivals are Poisson with the hour's rate, and each person
 * leaves at a rate that lets the mean follow the expected curve.
 */
import { logNormal, poisson, type Random, seededRandom } from '../random.ts';
import { nextKeeping } from './keeping.ts';
import { hostsNeeded, type ReadinessFacts, type ReadinessRules } from './readiness.ts';
import type { HostPrices } from './readiness-week.ts';
import { DAY_MINUTES, sessionsAt } from './session-curve.ts';
import { Waiting } from './waiting.ts';

export interface DayInput {
  readonly facts: ReadinessFacts;
  /** Minutes of each way to get a host ready: median and 90th percentile. */
  readonly spreads: Readonly<Record<'start' | 'resume' | 'make', readonly [number, number]>>;
  readonly startsAtOnce: number;
  readonly prices: HostPrices;
  /** Monday is 0. */
  readonly day: number;
}

export interface DayOutcome {
  readonly signIns: number;
  /** People who found no seat when they came. */
  readonly waited: number;
  /** Minutes that those who waited did so, on average. */
  readonly meanWaitMinutes: number;
  readonly longestWaitMinutes: number;
  /** Hours in which hosts were on, and suspended. */
  readonly onHours: number;
  readonly suspendedHours: number;
  readonly cost: number;
  /** Hosts made in the day. */
  readonly made: number;
  /** Every fifteen minutes: sessions, and seats that were ready. */
  readonly sessions: readonly number[];
  readonly seats: readonly number[];
}

/** Every how many minutes the course of the day is kept. */
export const COURSE_MINUTES = 15;
/** How long a host that takes nobody new stays on until it is empty. Source: the practice people. */
const EMPTY_MINUTES = [20, 60] as const;

interface Course {
  serving: number;
  resting: number;
  hosts: number;
  /** Minutes at which hosts come, and at which those that are to rest are empty. */
  coming: { at: number; made: boolean }[];
  leaving: number[];
}

/** The same seed gives the same day. */
export function simulateDay(input: DayInput, rules: ReadinessRules, seed: string): DayOutcome {
  const random = seededRandom(seed);
  const facts = input.facts;
  const flow = new Flow(facts, random);
  const first = hostsNeeded(facts, rules, { day: input.day, minute: 0, sessions: flow.present });
  const mode = rules.week[input.day]?.[0] ?? 'on';
  const serving = Math.min(facts.hosts, mode === 'on' ? facts.hosts : first);
  const course: Course = {
    serving,
    resting: facts.hosts - serving,
    hosts: facts.hosts,
    coming: [],
    leaving: [],
  };
  const tally = { signIns: 0, made: 0, on: 0, suspended: 0 };
  const waiting = new Waiting();
  const [sessions, seats]: [number[], number[]] = [[], []];
  for (let minute = 0; minute < DAY_MINUTES; minute++) {
    settle(course, minute);
    const came = flow.minute(minute);
    const ready = course.serving * facts.sessionLimit;
    tally.signIns += came;
    waiting.minute(came, flow.present, ready);
    tally.made += act(course, input, rules, { minute, present: flow.present, random });
    const isSuspended = rules.week[input.day]?.[Math.floor(minute / 60)] === 'suspended';
    tally.on += course.serving + course.coming.length + course.leaving.length;
    tally.suspended += isSuspended ? course.resting : 0;
    if (minute % COURSE_MINUTES === 0) {
      sessions.push(Math.min(flow.present, ready));
      seats.push(ready);
    }
  }
  const [onHours, suspendedHours] = [tally.on / 60, tally.suspended / 60];
  return {
    signIns: tally.signIns,
    waited: waiting.people,
    meanWaitMinutes: waiting.people === 0 ? 0 : waiting.minutes / waiting.people,
    longestWaitMinutes: waiting.longest,
    onHours,
    suspendedHours,
    cost: onHours * input.prices.perHour + suspendedHours * input.prices.suspendedPerHour,
    made: tally.made,
    sessions,
    seats,
  };
}

/** What is due: hosts that are ready now, and those that are empty and rest. */
function settle(course: Course, minute: number): void {
  const come = course.coming.filter((one) => one.at <= minute).length;
  course.serving += come;
  course.coming = course.coming.filter((one) => one.at > minute);
  course.resting += course.leaving.filter((at) => at <= minute).length;
  course.leaving = course.leaving.filter((at) => at > minute);
}

/** Does what keeps the pool ready; gives the hosts that are begun to be made. */
function act(
  course: Course,
  { facts, spreads, startsAtOnce, day }: DayInput,
  rules: ReadinessRules,
  { minute, present, random }: { minute: number; present: number; random: Random },
): number {
  const now = { ...facts, hosts: course.hosts };
  const moves = nextKeeping(now, rules, {
    day,
    minute,
    sessions: present,
    serving: course.serving,
    coming: course.coming.length,
    starting: course.coming.filter((one) => !one.made).length,
    resting: course.resting,
    longUnused: 0,
    startsAtOnce,
  });
  const how = rules.week[day]?.[Math.floor(minute / 60)] === 'suspended' ? 'resume' : 'start';
  for (let i = 0; i < moves.start; i++)
    course.coming.push({ at: minute + 1 + logNormal(random, ...spreads[how]), made: false });
  for (let i = 0; i < moves.make; i++)
    course.coming.push({ at: minute + 1 + logNormal(random, ...spreads.make), made: true });
  for (let i = 0; i < moves.rest; i++) course.leaving.push(minute + logNormal(random, ...EMPTY_MINUTES));
  course.resting -= moves.start;
  course.serving -= moves.rest;
  course.hosts += moves.make;
  return moves.make;
}

/** People who come and go. */
class Flow {
  present: number;

  constructor(
    private readonly facts: ReadinessFacts,
    private readonly random: Random,
  ) {
    this.present = poisson(random, facts.expected[0] ?? 0);
  }

  /** Lets a minute pass; gives the number of those who came in it. */
  minute(minute: number): number {
    const { expected, arrivals } = this.facts;
    const rate = (arrivals[Math.floor(minute / 60)] ?? 0) / 60;
    const now = sessionsAt(expected, minute);
    const rise = sessionsAt(expected, minute + 1) - now;
    // Each of those present leaves at the rate that lets the mean follow the curve.
    const leaving = now > 0 ? (Math.max(0, rate - rise) * this.present) / now : this.present;
    const came = poisson(this.random, rate);
    this.present = Math.max(0, this.present + came - poisson(this.random, leaving));
    return came;
  }
}

export interface DaysOutcome {
  readonly days: number;
  /** Share of those who came that had to wait. */
  readonly waitedShare: number;
  readonly meanWaitMinutes: number;
  readonly longestWaitMinutes: number;
  readonly onHours: number;
  readonly cost: number;
  readonly made: number;
  /** The first day, to be drawn. */
  readonly course: Pick<DayOutcome, 'sessions' | 'seats'>;
}

/** Several days of the same weekday, each with other people; everything but waits is of a mean day. */
export function simulateDays(
  input: DayInput,
  rules: ReadinessRules,
  days: number,
  seed: string,
): DaysOutcome {
  const all = Array.from({ length: days }, (_, i) => simulateDay(input, rules, `${seed} ${i}`));
  const mean = (of: (day: DayOutcome) => number) => all.reduce((sum, day) => sum + of(day), 0) / days;
  const waited = mean((day) => day.waited);
  const [first] = all;
  return {
    days,
    waitedShare: waited === 0 ? 0 : waited / mean((day) => day.signIns),
    meanWaitMinutes: waited === 0 ? 0 : mean((day) => day.waited * day.meanWaitMinutes) / waited,
    longestWaitMinutes: Math.max(...all.map((day) => day.longestWaitMinutes)),
    onHours: mean((day) => day.onHours),
    cost: mean((day) => day.cost),
    made: mean((day) => day.made),
    course: { sessions: first?.sessions ?? [], seats: first?.seats ?? [] },
  };
}
