/** One ring in one simulated run: which window it is in, who waits, what holds it back. */
import { MINUTE, type Instant } from '../../time/instant.ts';
import type { WindowSpan } from '../../time/windows.ts';
import type { Binding, P90Length } from '../admission.ts';
import { SEAT_CHECK } from '../seats.ts';
import { inServiceOf, p90Length, type RingPlan } from './plan.ts';
import { HostQueue } from './host-queue.ts';
import type { WindowsAhead } from './windows-ahead.ts';

/** A stretch of open window in which something held the ring back. */
export interface HeldSpan {
  readonly ring: number;
  readonly from: Instant;
  to: Instant;
  readonly constraint: Binding;
}

/** So many windows without a start, none of those behind them longer, and none ever will be. */
const IDLE_WINDOWS = 30;

export class RingRun {
  readonly queue: HostQueue;
  readonly p90Length: P90Length;
  /** Hosts being drained or worked on. */
  atWork = 0;
  /** Of those, the hosts that stay in service meanwhile. */
  servingAtWork = 0;
  /** Out of service with nobody at work on them: set aside, or waiting for another try. */
  out = 0;
  done = 0;
  setAside = 0;
  opensAt: Instant | null = null;
  /** When the share of its gate was done. */
  reachedAt: Instant | null = null;
  /** When its last host was finished. */
  lastFinish: Instant = 0;
  /** Stopped by the failure rule of its own gate or of one before it. */
  isStopped = false;
  /** When it has to be looked at although no host is finished. */
  lookAt: Instant = Infinity;
  readonly used: WindowSpan[] = [];
  readonly held: HeldSpan[] = [];
  /** The window in which it could begin first. */
  firstWindow: WindowSpan | undefined;
  private readonly serving: 'all' | 'none' | Uint8Array;
  private index = 0;
  private idle = 0;
  private isHeldBy: Binding | undefined;
  private heldSince: Instant = 0;

  constructor(
    readonly plan: RingPlan,
    readonly number: number,
    readonly firstHost: number,
    private readonly windows: WindowsAhead,
  ) {
    this.p90Length = p90Length(plan);
    this.queue = new HostQueue(firstHost, plan.hosts.length);
    this.serving = servingOf(plan);
  }

  /** Whether a host, by its number among all of the forecast, is attached in service. */
  staysInService(host: number): boolean {
    return this.serving === 'all' || (this.serving !== 'none' && this.serving[host - this.firstHost] === 1);
  }

  /** Whether every host was finished, one way or the other. */
  get isFinished(): boolean {
    return this.queue.isEmpty && this.atWork === 0;
  }

  open(at: Instant): void {
    this.opensAt = at;
    while ((this.windows.at(this.index)?.end ?? Infinity) <= at) this.index++;
    const window = this.windows.at(this.index);
    this.firstWindow = window;
    this.lookAt = window ? Math.max(at, window.start) : Infinity;
  }

  /** The window that is open now. */
  openWindow(now: Instant): WindowSpan | undefined {
    if (this.opensAt === null || now < this.opensAt || this.isStopped) return undefined;
    for (let window = this.windows.at(this.index); window; window = this.windows.at(this.index)) {
      if (window.end > now) return window.start <= now ? window : undefined;
      this.leave(window);
    }
    return undefined;
  }

  /** What held it back until now is written down. */
  noteHeld(now: Instant): void {
    if (this.isHeldBy === undefined) return;
    const end = this.windows.at(this.index)?.end ?? now;
    const to = Math.min(now, end);
    const last = this.held.at(-1);
    if (last?.to === this.heldSince && last.constraint === this.isHeldBy) last.to = to;
    else if (to > this.heldSince)
      this.held.push({ ring: this.number, from: this.heldSince, to, constraint: this.isHeldBy });
    this.isHeldBy = undefined;
  }

  /** After a look in an open window: what holds the next host back, and when to look again. */
  looked(now: Instant, window: WindowSpan, held: Binding | undefined, started: number): void {
    if (started > 0 && this.used.at(-1) !== window) this.used.push(window);
    this.isHeldBy = held;
    this.heldSince = now;
    const again = now + SEAT_CHECK;
    if (this.queue.isEmpty) this.lookAt = Infinity;
    else if (held === 'seats' && again < window.end) this.lookAt = again;
    else this.lookAt = this.nextWindow(window);
  }

  /** Outside its windows: when the next one opens. Before its gate has opened it is not looked at. */
  wait(now: Instant): void {
    if (this.opensAt === null || this.opensAt > now) return;
    const window = this.windows.at(this.index);
    const goesOn = window && !this.queue.isEmpty && !this.isStopped && !this.isGivenUp;
    this.lookAt = goesOn ? window.start : Infinity;
  }

  private get isGivenUp(): boolean {
    return this.idle >= IDLE_WINDOWS;
  }

  private nextWindow(window: WindowSpan): Instant {
    return this.windows.at(this.index + 1)?.start ?? window.end;
  }

  private leave(window: WindowSpan): void {
    if (this.used.at(-1) === window) this.idle = 0;
    else if (window.minutes >= this.windows.longestAfter(this.index)) this.idle++;
    this.index++;
  }
}

/** Which hosts are attached in service; worked out once for the thousand runs of a ring. */
function servingOf(plan: RingPlan): 'all' | 'none' | Uint8Array {
  const { hosts, inService } = plan;
  if (!inService || inService.hosts?.length === 0) return 'none';
  if (!inService.hosts) return 'all';
  let known = serving.get(plan);
  if (!known) {
    const staysInService = inServiceOf(plan);
    serving.set(plan, (known = Uint8Array.from(hosts, (name) => (staysInService(name) ? 1 : 0))));
  }
  return known;
}

const serving = new WeakMap<RingPlan, Uint8Array>();

/** Minutes by what held hosts back, longest first. */
export function minutesHeld(spans: readonly HeldSpan[]): { constraint: Binding; minutes: number }[] {
  const sums = new Map<Binding, number>();
  for (const { constraint, from, to } of spans) sums.set(constraint, (sums.get(constraint) ?? 0) + to - from);
  return [...sums]
    .map(([constraint, ms]) => ({ constraint, minutes: Math.round(ms / MINUTE) }))
    .filter((row) => row.minutes > 0)
    .sort((a, b) => b.minutes - a.minutes);
}
