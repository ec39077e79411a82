/**
 * One simulated run of a plan: a walk from event to event. An event is the end of work on hosts, the
 * beginning of a window, the opening of a ring, or a look at seats that may have come back. At each,
 * every ring in an open window starts the hosts that `admit` lets it, in the order of the rings.
 */
import { drawFor, logNormal, seededRandom, type Random } from '../../random.ts';
import { HOUR, MINUTE, type Instant } from '../../time/instant.ts';
import type { WindowSpan } from '../../time/windows.ts';
import { admit } from '../admission.ts';
import { minutesByChecks } from '../agent-checks.ts';
import { stopsFor } from '../failure-rule.ts';
import { hostsNeeded } from '../rings/gate.ts';
import { expectedSessions, seatsToSpare, type SeatPlan } from '../seats.ts';
import { FinishQueue } from './finish-queue.ts';
import type { Turn } from './host-queue.ts';
import { openGate, type RingPlan, type RolloutPlan } from './plan.ts';
import { RingRun } from './ring-run.ts';
import type { WindowsAhead } from './windows-ahead.ts';

/** Steps in which the progress of a run is kept: enough for a line as wide as a screen shows it. */
export const MARKS = 40;

/** A pool in a run: its hosts that are out of service, for whatever ring. */
interface PoolOut {
  out: number;
  fewestLeft: number;
  /** The sessions expected at an instant that was asked about last: each event asks several times. */
  readonly expected: { at: Instant; sessions: number };
}

export class Simulation {
  readonly rings: readonly RingRun[];
  /** By host: when its work last began, and when it was finished for good. */
  readonly startedAt: Float64Array;
  readonly finishedAt: Float64Array;
  /** When each of `MARKS` equal parts of the hosts was through; not a number for those that never are. */
  readonly throughAt = new Float64Array(MARKS).fill(NaN);
  private through = 0;
  /** Hosts at work that stay in service, over all rings. */
  private serving = 0;
  private mark = 0;
  private readonly finishes = new FinishQueue();
  private readonly random: Random;
  private readonly tries: Uint8Array;
  private readonly fails: Uint8Array;
  private readonly pools = new Map<string, PoolOut>();
  private readonly poolOf: readonly PoolOut[];
  private readonly mostAtOnce: number;

  constructor(
    private readonly plan: RolloutPlan,
    windows: readonly WindowsAhead[],
    private readonly seed: number,
  ) {
    this.random = seededRandom(seed);
    let first = 0;
    this.rings = plan.rings.map((ring, i) => {
      const run = new RingRun(ring, i, first, windows[i] as WindowsAhead);
      first += ring.hosts.length;
      return run;
    });
    this.poolOf = this.rings.map(({ plan: ring, number }) => this.pool(ring.pool ?? `ring ${number}`));
    this.startedAt = new Float64Array(first);
    this.finishedAt = new Float64Array(first);
    this.tries = new Uint8Array(first);
    this.fails = new Uint8Array(first);
    this.mostAtOnce = Math.min(Infinity, ...(plan.limits ?? []).map((limit) => limit.atOnce));
  }

  /** Walks to the end. */
  run(): this {
    const begin = this.plan.resumeAt ?? this.plan.from;
    for (const ring of this.rings)
      if (ring.number === 0 || ring.plan.opens === 'at once') this.open(ring, begin);
    for (let now = this.nextEvent(); now < Infinity; now = this.nextEvent()) {
      this.noteSeats(now);
      while (this.finishes.next <= now) this.finish(this.finishes.pop(), now);
      for (const ring of this.rings) this.look(ring, now);
      this.noteSeats(now);
    }
    return this;
  }

  /** When the last host was finished; null when some never are. */
  get end(): Instant | null {
    return this.rings.every((ring) => ring.isFinished)
      ? Math.max(...this.rings.map((ring) => ring.lastFinish))
      : null;
  }

  /** Fewest seats that were left of any pool. */
  get fewestSeats(): number {
    const fewest = Math.min(...this.poolOf.map((pool) => pool.fewestLeft));
    return fewest === Infinity ? 0 : fewest;
  }

  fewestSeatsOf(ring: RingRun): number {
    const { fewestLeft } = this.poolOf[ring.number] as PoolOut;
    return fewestLeft === Infinity ? 0 : fewestLeft;
  }

  private ringOf(host: number): RingRun {
    let number = this.rings.length - 1;
    while ((this.rings[number] as RingRun).firstHost > host) number--;
    return this.rings[number] as RingRun;
  }

  private nextEvent(): Instant {
    let next = this.finishes.next;
    for (const ring of this.rings) if (ring.lookAt < next) next = ring.lookAt;
    return next;
  }

  private look(ring: RingRun, now: Instant): void {
    ring.noteHeld(now);
    if (ring.queue.isEmpty) {
      ring.lookAt = Infinity;
      return;
    }
    const window = ring.openWindow(now);
    if (window) this.startAll(ring, now, window);
    else if (ring.lookAt <= now || ring.lookAt === Infinity) ring.wait(now);
  }

  /** Starts the hosts that may start. */
  private startAll(ring: RingRun, now: Instant, window: WindowSpan): void {
    const { plan } = ring;
    const { seats } = plan;
    const pool = this.poolOf[ring.number] as PoolOut;
    const elsewhere = pool.out - (ring.atWork - ring.servingAtWork) - ring.out;
    const each = this.sessionsEach(ring, pool, now);
    const hour = Math.floor(now / HOUR);
    const { start, held } = admit(
      ring.queue.turns(
        (host) => this.sessionsOf(host, hour, each),
        (host) => ring.staysInService(host),
      ),
      {
        now,
        windowEnd: window.end,
        atWork: ring.atWork,
        servingAtWork: ring.servingAtWork,
        out: ring.out,
        slots: this.mostAtOnce - this.finishes.size + this.serving,
        seatsPerHost: seats?.perHost ?? 0,
        p90Length: ring.p90Length,
        seatsToSpare: (out, until) => (seats ? seatsToSpare(seats, out + elsewhere, now, until) : Infinity),
      },
      plan,
    );
    ring.queue.take(start);
    for (const turn of start) this.start(ring, turn, now);
    ring.looked(now, window, held, start.length);
  }

  private start(ring: RingRun, turn: Turn, now: Instant): void {
    const { host, isOut, staysInService } = turn;
    const { failure } = ring.plan;
    if (staysInService) this.serve(ring, 1);
    else if (isOut) ring.out--;
    else (this.poolOf[ring.number] as PoolOut).out++;
    const minutes = this.minutesFor(ring, turn);
    this.tries[host] = (this.tries[host] as number) + 1;
    this.fails[host] = failure.rate > 0 && this.random() < failure.rate ? 1 : 0;
    this.startedAt[host] = now;
    this.finishes.push(host, now + minutes * MINUTE);
    ring.atWork++;
  }

  private minutesFor({ plan }: RingRun, { isOut, sessions, staysInService }: Turn): number {
    const { work, inService } = plan;
    if (staysInService && inService) return minutesByChecks(inService.checks, this.random());
    // Nobody is on a host that failed.
    const drained = isOut ? 0 : this.drainMinutes(plan, sessions);
    return drained + logNormal(this.random, work.medianMinutes, work.p90Minutes);
  }

  private serve(ring: RingRun, more: 1 | -1): void {
    ring.servingAtWork += more;
    this.serving += more;
  }

  private finish(host: number, now: Instant): void {
    const ring = this.ringOf(host);
    const pool = this.poolOf[ring.number] as PoolOut;
    const served = ring.staysInService(host);
    if (served) this.serve(ring, -1);
    ring.atWork--;
    if (this.fails[host] === 0) {
      ring.done++;
      if (!served) pool.out--;
      this.finished(ring, host, now);
      this.openNext(ring, now);
      return;
    }
    // One in service has what it had, all of it.
    if (!served) ring.out++;
    const tries = this.tries[host] as number;
    if (tries <= ring.plan.failure.retries) ring.queue.putBack(host, tries);
    else {
      ring.setAside++;
      this.finished(ring, host, now);
      this.stopIfTooMany(ring);
      this.openNext(ring, now);
    }
  }

  private finished(ring: RingRun, host: number, now: Instant): void {
    this.finishedAt[host] = now;
    ring.lastFinish = now;
    this.through++;
    while (this.through * MARKS >= (this.mark + 1) * this.finishedAt.length && this.mark < MARKS)
      this.throughAt[this.mark++] = now;
  }

  private openNext(ring: RingRun, now: Instant): void {
    const next = this.rings[ring.number + 1];
    if (next?.opensAt !== null || next.plan.opens === 'at once') return;
    const { finishedShare, soakHours, approvalHours } = ring.plan.gate ?? openGate;
    if (ring.done >= hostsNeeded(ring.plan.hosts.length, finishedShare)) ring.reachedAt ??= now;
    if (ring.reachedAt === null) return;
    // A pool takes one rollout at a time.
    const isSamePool = next.plan.pool !== undefined && next.plan.pool === ring.plan.pool;
    if (isSamePool && !ring.isFinished) return;
    this.open(next, Math.max(now, ring.reachedAt + (soakHours + approvalHours) * HOUR));
  }

  private open(ring: RingRun, at: Instant): void {
    ring.open(Math.max(at, ring.plan.notBefore ?? at));
  }

  /** The ring and all that wait for it. */
  private stopIfTooMany(ring: RingRun): void {
    const rule = ring.plan.gate?.stop;
    if (!rule || stopsFor({ done: ring.done, failed: ring.setAside }, rule) === undefined) return;
    for (let i = ring.number; i < this.rings.length; i++) {
      const one = this.rings[i] as RingRun;
      if (i > ring.number && one.plan.opens === 'at once') return;
      one.isStopped = true;
    }
  }

  /** The sessions expected now, dealt out over the hosts in service. */
  private sessionsEach({ plan: { seats, drain } }: RingRun, pool: PoolOut, now: Instant): number {
    if (!seats || !drain.session) return 1;
    return this.expected(pool, seats, now) / Math.max(1, seats.hosts - pool.out);
  }

  /** The whole part of its share, and one more with the chance of the rest: the same all hour long. */
  private sessionsOf(host: number, hour: number, each: number): number {
    const whole = Math.floor(each);
    return whole + (each > whole && drawFor(this.seed, host, hour) < each - whole ? 1 : 0);
  }

  private drainMinutes({ drain, seats }: RingPlan, sessions: number): number {
    const { limitMinutes, session } = drain;
    if (!session || !seats) return limitMinutes;
    let longest = 0;
    for (let i = 0; i < sessions && longest < limitMinutes; i++)
      longest = Math.max(longest, logNormal(this.random, session.medianMinutes, session.p90Minutes));
    return Math.min(longest, limitMinutes);
  }

  private pool(name: string): PoolOut {
    let pool = this.pools.get(name);
    if (!pool)
      this.pools.set(name, (pool = { out: 0, fewestLeft: Infinity, expected: { at: NaN, sessions: 0 } }));
    return pool;
  }

  private noteSeats(now: Instant): void {
    for (const ring of this.rings) {
      const pool = this.poolOf[ring.number] as PoolOut;
      const { seats } = ring.plan;
      // Without a curve, hosts in service.
      const left = seats
        ? (seats.hosts - pool.out) * seats.perHost - this.expected(pool, seats, now)
        : ring.plan.hosts.length - pool.out;
      if (left < pool.fewestLeft) pool.fewestLeft = Math.floor(left);
    }
  }

  private expected({ expected }: PoolOut, seats: SeatPlan, now: Instant): number {
    if (expected.at !== now) {
      expected.at = now;
      expected.sessions = expectedSessions(seats, now);
    }
    return expected.sessions;
  }
}
