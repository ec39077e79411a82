/**
 * The rollout forecast: when will it be done, in how many windows, with how many seats left.
 *
 * A seeded discrete-event simulation, repeated `runs` times. In each run a host waits for a slot,
 * drains, is worked on for a log-normal time, and is done or fails; a failed host is tried again
 * up to `retries` times, then set aside out of service. See `docs/models.md`, "Rollout forecast".
 * Without randomness (p90 = median, failure rate 0) every run is the same and equals the
 * calculation by hand.
 */
import { HOUR, MINUTE, type Instant } from '../time/instant.ts';
import { drawFor, logNormal, seededRandom, type Random } from '../random.ts';
import { quantile } from '../quantile.ts';
import { ok, refuseAll, type Fault, type Result } from '../result.ts';
import { admit, type Binding, type Candidate } from './admission.ts';
import { MOST_HOSTS } from './planned-hosts.ts';
import { expectedSessions, SEAT_CHECK, seatsToSpare, type SeatPlan } from './seats.ts';
import { windowsFrom, type WindowRule, type WindowSpan } from '../time/windows.ts';

export interface RolloutPlan {
  /** The instant from which windows count. */
  readonly from: Instant;
  readonly window: WindowRule;
  /** For a rollout under way: windows before this instant are over, an open one begins here. */
  readonly resumeAt?: Instant;
  /** Names of the hosts to change, in the order in which they begin. */
  readonly hosts: readonly string[];
  readonly batch: number;
  readonly maxUnavailable: number;
  /** Minutes of work on one host after it is drained. */
  readonly work: { readonly medianMinutes: number; readonly p90Minutes: number };
  /**
   * Minutes a host may wait for its sessions to end. With `session` (what is left of a session:
   * median and 90th percentile) and `seats`, each host has the sessions expected at that moment
   * and waits for the last of them; without, every host takes the whole limit.
   */
  readonly drain: {
    readonly limitMinutes: number;
    readonly session?: { readonly medianMinutes: number; readonly p90Minutes: number };
  };
  /** The chance that one attempt fails, 0 to 1, and how often it is tried again. */
  readonly failure: { readonly rate: number; readonly retries: number };
  readonly seats?: SeatPlan;
  readonly runs: number;
  readonly seed: number;
}

export interface HostSpan {
  /** Place in the plan's hosts, from 0. */
  readonly index: number;
  readonly name: string;
  readonly start: Instant;
  readonly finish: Instant;
}

export interface Percentiles<T> {
  readonly p10: T;
  readonly p50: T;
  readonly p90: T;
}

export interface Forecast {
  /** Simulations that the answer stands on: fewer than were asked for where there are many hosts. */
  readonly runs: number;
  /** Null where a run in that place never finishes. */
  readonly finish: Percentiles<Instant | null>;
  readonly windowsUsed: Percentiles<number>;
  /** Share of the runs that finish in the first window, 0 to 1. */
  readonly finishesInFirstWindow: number;
  /** Fewest seats left over expected sessions while the rollout runs. */
  readonly minSeatsLeft: Percentiles<number>;
  /** What held hosts back in the median run, longest first, in minutes of open window. */
  readonly binding: readonly { readonly constraint: Binding; readonly minutes: number }[];
  /** The median run. */
  readonly hosts: readonly HostSpan[];
  /** Hosts set aside as failed in the median run. */
  readonly failed: number;
  /** The windows that the median run used. */
  readonly windows: readonly WindowSpan[];
}

/** What is kept of a run; a thousand of them with all their hosts would fill the memory. */
interface Run {
  readonly seed: number;
  readonly finish: Instant | null;
  readonly windows: number;
  readonly minSeatsLeft: number;
}

/** Hosts simulated over all runs of a forecast that a person waits for: about two seconds. */
const HOSTS_SIMULATED = 500_000;
const FEWEST_RUNS = 20;

/**
 * How many of the wanted runs a forecast of so many hosts makes. The chance of one host weighs
 * less the more there are, so a large pool needs fewer runs for the same certainty.
 */
export function affordableRuns(hosts: number, wanted: number): number {
  const affordable = Math.max(FEWEST_RUNS, Math.floor(HOSTS_SIMULATED / Math.max(1, hosts)));
  return Math.min(wanted, affordable);
}

/** Windows tried before a plan is called one that never finishes. */
const MAX_WINDOWS = 400;

/** The faults of a plan, each at its field. */
export function planFaults(plan: RolloutPlan): Fault[] {
  const faults: Fault[] = [];
  const need = (holds: boolean, path: string, message: string) => {
    if (!holds) faults.push({ path, message });
  };
  const whole = (n: number) => Number.isInteger(n) && n >= 1;
  const hosts = plan.hosts.length;
  need(hosts > 0, 'hosts', 'must be at least 1');
  need(
    hosts <= MOST_HOSTS,
    'hosts',
    `must be at most ${MOST_HOSTS.toLocaleString('en-GB')}; forecast the rest apart`,
  );
  need(whole(plan.batch), 'batch', 'must be a whole number of at least 1, or no host is ever started');
  need(!(plan.batch > hosts), 'batch', `is ${plan.batch}, more than the ${hosts} hosts there are`);
  need(whole(plan.maxUnavailable), 'maxUnavailable', 'must be a whole number of at least 1');
  need(plan.work.medianMinutes > 0, 'work.medianMinutes', 'must be more than 0 minutes');
  need(plan.work.p90Minutes >= plan.work.medianMinutes, 'work.p90Minutes', 'must be at least the median');
  need(plan.drain.limitMinutes >= 0, 'drain.limitMinutes', 'must be 0 minutes or more');
  need(plan.failure.rate >= 0 && plan.failure.rate <= 1, 'failure.rate', 'must lie between 0 and 1');
  need(
    Number.isInteger(plan.failure.retries) && plan.failure.retries >= 0,
    'failure.retries',
    'must be 0 or more',
  );
  need(whole(plan.runs) && plan.runs <= 10_000, 'runs', 'must be 1 to 10,000');
  return faults;
}

/**
 * Milliseconds within which a host with so many sessions is finished in 9 of 10 cases, when it is
 * started now. An empty host needs no draining; any other may need the whole limit.
 */
export function p90Length(plan: Pick<RolloutPlan, 'work' | 'drain'>, sessions: number): number {
  return ((sessions > 0 ? plan.drain.limitMinutes : 0) + plan.work.p90Minutes) * MINUTE;
}

/** Forecasts a plan. Errors: everything `planFaults` and the window rule find. */
export function forecast(plan: RolloutPlan): Result<Forecast> {
  const faults = planFaults(plan);
  const windows = windowsFrom(plan.window, plan.from);
  if (!windows.ok) faults.push(...windows.error.map((f) => ({ ...f, path: `window.${f.path}` })));
  if (faults.length > 0 || !windows.ok) return refuseAll(faults);

  const usable = usableWindows(windows.value, plan.resumeAt ?? plan.from);
  const certain = plan.work.p90Minutes === plan.work.medianMinutes && plan.failure.rate === 0;
  const steadyDrain = plan.drain.limitMinutes === 0 || !knowsSessions(plan);
  const count = certain && steadyDrain ? 1 : affordableRuns(plan.hosts.length, plan.runs);
  const runs: Run[] = [];
  for (let i = 0; i < count; i++) {
    const seed = plan.seed + i * 7919;
    const run = simulate(plan, usable, seed);
    runs.push({ seed, finish: run.end, windows: run.used.length, minSeatsLeft: run.fewestSeats });
  }
  return ok(summarise(plan, runs, usable));
}

/** The median run is made again, since only its figures were kept. */
function summarise(plan: RolloutPlan, runs: readonly Run[], windows: WindowList): Forecast {
  const byFinish = [...runs].sort((a, b) => (a.finish ?? Infinity) - (b.finish ?? Infinity));
  const at = (p: number) => byFinish[Math.max(0, Math.ceil(p * byFinish.length) - 1)] as Run;
  const used = runs.map((run) => run.windows).sort((a, b) => a - b);
  const seats = runs.map((run) => run.minSeatsLeft).sort((a, b) => a - b);
  const q = (list: readonly number[], p: number) => quantile(list, p) ?? 0;
  const median = at(0.5);
  const middle = simulate(plan, windows, median.seed);
  const first = windows.at(0);
  const inFirst = runs.filter((run) => run.finish !== null && first && run.finish <= first.end).length;
  return {
    runs: runs.length,
    finish: { p10: at(0.1).finish, p50: median.finish, p90: at(0.9).finish },
    windowsUsed: { p10: q(used, 0.1), p50: q(used, 0.5), p90: q(used, 0.9) },
    finishesInFirstWindow: inFirst / runs.length,
    minSeatsLeft: { p10: q(seats, 0.1), p50: q(seats, 0.5), p90: q(seats, 0.9) },
    binding: [...middle.binding]
      .map(([constraint, ms]) => ({ constraint, minutes: Math.round(ms / MINUTE) }))
      .filter((row) => row.minutes > 0)
      .sort((a, b) => b.minutes - a.minutes),
    hosts: middle.done.sort((a, b) => a.index - b.index),
    failed: middle.failed,
    windows: middle.used,
  };
}

interface WindowList {
  at(index: number): WindowSpan | undefined;
  /** Minutes of the longest window behind an index. */
  longestAfter(index: number): number;
}

/** The windows of some length, read from the rule only as far as a run asks for them. */
function usableWindows(source: Iterable<WindowSpan>, notBefore: Instant): WindowList {
  const iterator = source[Symbol.iterator]();
  const known: WindowSpan[] = [];
  let longest: number[] | undefined;
  const list: WindowList = {
    longestAfter(index) {
      longest ??= longestBehindEach(list);
      return longest[index] ?? 0;
    },
    at(index) {
      while (known.length <= index && known.length < MAX_WINDOWS) {
        const next = iterator.next();
        if (next.done) return undefined;
        const { end, minutes, clockChange } = next.value;
        const start = Math.max(next.value.start, notBefore);
        if (minutes > 0 && end > start)
          known.push({ start, end, minutes: (end - start) / MINUTE, clockChange });
      }
      return known[index];
    },
  };
  return list;
}

function longestBehindEach(windows: WindowList): number[] {
  const lengths: number[] = [];
  for (let window = windows.at(0); window; window = windows.at(lengths.length)) lengths.push(window.minutes);
  const longest = lengths.map(() => 0);
  for (let i = lengths.length - 2; i >= 0; i--)
    longest[i] = Math.max(lengths[i + 1] ?? 0, longest[i + 1] ?? 0);
  return longest;
}

function knowsSessions(plan: RolloutPlan): boolean {
  return plan.seats !== undefined && plan.drain.session !== undefined;
}

interface Waiting {
  readonly index: number;
  readonly tries: number;
}

interface Attempt {
  readonly index: number;
  readonly start: Instant;
  readonly finish: Instant;
  readonly tries: number;
  readonly fails: boolean;
}

/** One run: a walk from event to event, window after window. */
class Simulation {
  readonly waiting: Waiting[];
  /** Hosts that failed and are tried again: before all others, since they are out of service until then. */
  private readonly again: Waiting[] = [];
  readonly atWork: Attempt[] = [];
  readonly done: HostSpan[] = [];
  readonly used: WindowSpan[] = [];
  readonly binding = new Map<Binding, number>();
  failed = 0;
  /** Out of service with nobody at work on them: set aside, or waiting for another try. */
  private out = 0;
  private minSeatsLeft = Infinity;
  private head = 0;

  constructor(
    private readonly plan: RolloutPlan,
    private readonly seed: number,
    private readonly random: Random,
  ) {
    this.waiting = plan.hosts.map((_name, index) => ({ index, tries: 0 }));
  }

  get finished(): boolean {
    return this.again.length === 0 && this.head >= this.waiting.length && this.atWork.length === 0;
  }

  /** When the last host is finished; null when some never are. */
  get end(): Instant | null {
    return this.finished ? this.done.reduce((latest, host) => Math.max(latest, host.finish), 0) : null;
  }

  /** Fewest seats that were left. */
  get fewestSeats(): number {
    return this.minSeatsLeft === Infinity ? 0 : this.minSeatsLeft;
  }

  runWindow(window: WindowSpan): void {
    let now = window.start;
    let worked = false;
    for (;;) {
      const held = this.startAll(now, window.end);
      worked ||= this.atWork.length > 0;
      this.noteSeats(now);
      const next = this.nextLook(now, window.end, held);
      if (held) this.count(held, Math.min(next ?? window.end, window.end) - now);
      if (next === undefined) break;
      now = next;
      this.noteSeats(now);
      if (this.atWork[0]?.finish === now) this.finishNext();
    }
    if (worked) this.used.push(window);
  }

  /** When a host is finished or, held by the seats, more may have become free; undefined at the end. */
  private nextLook(now: Instant, windowEnd: Instant, held: Binding | undefined): Instant | undefined {
    const finish = this.atWork[0]?.finish;
    const again = now + SEAT_CHECK;
    if (held === 'seats' && again < windowEnd && again < (finish ?? Infinity)) return again;
    return finish;
  }

  /** Starts the hosts that may start; returns what held the next one back. */
  private startAll(now: Instant, windowEnd: Instant): Binding | undefined {
    const { plan } = this;
    const { seats } = plan;
    const { start, held } = admit(
      this.queue(now),
      {
        now,
        windowEnd,
        atWork: this.atWork.length,
        out: this.out,
        seatsPerHost: seats?.perHost ?? 0,
        p90Length: (sessions) => p90Length(plan, sessions),
        seatsToSpare: (out, until) => (seats ? seatsToSpare(seats, out, now, until) : Infinity),
      },
      plan,
    );
    this.takeFromQueue(new Set(start.map(({ host }) => host)));
    for (const { host, sessions } of start) this.start(host, now, sessions);
    return held;
  }

  private *queue(now: Instant): Generator<Candidate & { readonly host: Waiting }> {
    for (const host of this.again) yield { host, isOut: true, sessions: 0 };
    const each = this.sessionsEach(now);
    const hour = Math.floor(now / HOUR);
    for (let i = this.head; i < this.waiting.length; i++) {
      const host = this.waiting[i] as Waiting;
      yield { host, isOut: false, sessions: this.sessionsOf(host.index, hour, each) };
    }
  }

  /** Those passed over keep their turn. */
  private takeFromQueue(started: ReadonlySet<Waiting>): void {
    let left = started.size;
    for (let i = this.again.length - 1; i >= 0; i--)
      if (started.has(this.again[i] as Waiting)) {
        this.again.splice(i, 1);
        left--;
      }
    const passed: Waiting[] = [];
    let end = this.head;
    for (; left > 0; end++) {
      const host = this.waiting[end] as Waiting;
      if (started.has(host)) left--;
      else passed.push(host);
    }
    this.head = end - passed.length;
    for (const [i, host] of passed.entries()) this.waiting[this.head + i] = host;
  }

  private start(host: Waiting, now: Instant, sessions: number): void {
    const { work, failure } = this.plan;
    const isRetry = host.tries > 0;
    if (isRetry) this.out--;
    // Nobody is on a host that failed.
    const drained = isRetry ? 0 : this.drainMinutes(sessions);
    const minutes = drained + logNormal(this.random, work.medianMinutes, work.p90Minutes);
    const attempt: Attempt = {
      index: host.index,
      start: now,
      finish: now + minutes * MINUTE,
      tries: host.tries + 1,
      fails: failure.rate > 0 && this.random() < failure.rate,
    };
    let place = this.atWork.length;
    while (place > 0 && (this.atWork[place - 1] as Attempt).finish > attempt.finish) place--;
    this.atWork.splice(place, 0, attempt);
  }

  /** The sessions expected now, dealt out over the hosts in service. */
  private sessionsEach(now: Instant): number {
    const { seats } = this.plan;
    if (!seats || !knowsSessions(this.plan)) return 1;
    return expectedSessions(seats, now) / Math.max(1, seats.hosts - this.atWork.length - this.out);
  }

  /** The whole part of its share, and one more with the chance of the rest: the same all hour long. */
  private sessionsOf(index: number, hour: number, each: number): number {
    const whole = Math.floor(each);
    return whole + (each > whole && drawFor(this.seed, index, hour) < each - whole ? 1 : 0);
  }

  private drainMinutes(sessions: number): number {
    const { limitMinutes, session } = this.plan.drain;
    if (!session || !knowsSessions(this.plan)) return limitMinutes;
    let longest = 0;
    for (let i = 0; i < sessions; i++)
      longest = Math.max(longest, logNormal(this.random, session.medianMinutes, session.p90Minutes));
    return Math.min(longest, limitMinutes);
  }

  private finishNext(): void {
    const attempt = this.atWork.shift() as Attempt;
    const { index, start, finish } = attempt;
    const span = { index, name: this.plan.hosts[index] ?? '', start, finish };
    if (!attempt.fails) {
      this.done.push(span);
      return;
    }
    this.out++;
    if (attempt.tries <= this.plan.failure.retries) {
      this.again.push({ index: attempt.index, tries: attempt.tries });
      this.again.sort((a, b) => b.tries - a.tries || a.index - b.index);
    } else {
      this.failed++;
      this.done.push(span);
    }
  }

  private noteSeats(now: Instant): void {
    const out = this.atWork.length + this.out;
    const seats = this.plan.seats;
    const left = seats
      ? (seats.hosts - out) * seats.perHost - expectedSessions(seats, now)
      : this.plan.hosts.length - out;
    this.minSeatsLeft = Math.min(this.minSeatsLeft, Math.floor(left));
  }

  private count(held: Binding, ms: number): void {
    this.binding.set(held, (this.binding.get(held) ?? 0) + ms);
  }
}

/** So many windows without a host at work, none of those behind them longer, and none ever will be. */
const IDLE_WINDOWS = 30;

function simulate(plan: RolloutPlan, windows: WindowList, seed: number): Simulation {
  const run = new Simulation(plan, seed, seededRandom(seed));
  let idle = 0;
  for (let i = 0; !run.finished && idle < IDLE_WINDOWS; i++) {
    const window = windows.at(i);
    if (!window) break;
    const before = run.used.length;
    run.runWindow(window);
    if (run.used.length > before) idle = 0;
    else if (window.minutes >= windows.longestAfter(i)) idle++;
  }
  return run;
}
