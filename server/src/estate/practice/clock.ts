/**
 * The practice clock. It goes from event to event: everything due at an instant happens, and
 * everybody who reacts to it is waited for, before the clock moves on. So a night at 600 times the
 * speed ends exactly as it does at real speed. Its instant is on disk before anything sees it, so
 * that it never goes back, also not after a crash.
 */
import type { Instant } from '@vatline/core/time/instant';
import type { EstateClock } from '../driver/clock.ts';
import { turnsForOthers } from '../../platform/turns.ts';
import { readSetting, writeSetting, type EstateDb } from './estate-database.ts';
import type { PracticeOperations } from './operations.ts';

const TICK_MS = 100;
/** After a failure the same is tried again so much later, in real time. */
const AGAIN_MS = 1_000;
/** What failed by a mistake is tried again so much later, by the clock, while everything else goes on. */
const LATER_MS = 300_000;

interface Wake {
  readonly at: Instant;
  readonly name: string;
  readonly wake: () => Promise<void>;
  readonly how: 'routine' | undefined;
}

export class PracticeClock implements EstateClock {
  readonly zone: string;
  rate: number;
  jumpingTo: Instant | null = null;
  private current: Instant;
  private readonly wakes = new Map<string, Wake>();
  private readonly tickListeners: (() => void)[] = [];
  private holds = 0;
  private onQuiet: (() => void)[] = [];
  private advancing: Promise<void> = Promise.resolve();
  private timer: NodeJS.Timeout | undefined;
  private lastTick = 0;
  private busy = false;
  private restUntil = 0;
  private stopped = false;

  private constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    state: { now: Instant; rate: number; zone: string },
    private readonly monotonic: () => number,
  ) {
    this.current = state.now;
    this.rate = state.rate;
    this.zone = state.zone;
  }

  static async open(
    db: EstateDb,
    operations: PracticeOperations,
    monotonic: () => number,
  ): Promise<PracticeClock> {
    const now = Number((await readSetting(db, 'now')) ?? 0);
    const rate = Number((await readSetting(db, 'rate')) ?? 1);
    const zone = (await readSetting(db, 'zone')) ?? 'UTC';
    return new PracticeClock(db, operations, { now, rate, zone }, monotonic);
  }

  now(): Instant {
    return this.current;
  }

  wakeAt(at: Instant, name: string, wake: () => Promise<void>, how?: 'routine'): void {
    this.wakes.set(name, { at, name, wake, how });
  }

  onTick(listener: () => void): void {
    this.tickListeners.push(listener);
  }

  hold(): () => void {
    this.holds++;
    let held = true;
    return () => {
      if (!held) return;
      held = false;
      if (--this.holds === 0) for (const done of this.onQuiet.splice(0)) done();
    };
  }

  async setRate(rate: number): Promise<void> {
    this.rate = rate;
    this.jumpingTo = null;
    this.lastTick = this.monotonic();
    await writeSetting(this.db, 'rate', String(rate));
    this.tell();
  }

  jumpTo(target: Instant): void {
    // What is due at this very instant happens as well: on a clock that stands still nothing else makes it.
    if (target < this.current) return;
    this.jumpingTo = target;
    this.tell();
    this.advanceTo(target, () => this.jumpingTo !== target)
      .catch((error: unknown) => this.failed(error))
      .finally(() => {
        if (this.jumpingTo === target) this.jumpingTo = null;
        this.lastTick = this.monotonic();
        this.tell();
      })
      .catch(() => undefined);
  }

  /** What is happening at this instant is finished; nothing further on is begun. */
  stopJump(): void {
    this.jumpingTo = null;
    this.tell();
  }

  /** What somebody who waits would want to see; looks that are routine are none. */
  nextEvent(): Promise<Instant | null> {
    return this.nextOf((wake) => wake.how !== 'routine');
  }

  private async nextOf(counts: (wake: Wake) => boolean): Promise<Instant | null> {
    const ready = await this.operations.nextReady();
    const wakes = [...this.wakes.values()].filter(counts);
    const next = Math.min(ready ?? Infinity, ...wakes.map((wake) => wake.at));
    return next === Infinity ? null : Math.max(next, this.current);
  }

  /** Begins to tick. */
  start(): void {
    this.lastTick = this.monotonic();
    this.timer = setInterval(() => this.tick(), TICK_MS);
  }

  async stop(): Promise<void> {
    clearInterval(this.timer);
    this.stopped = true;
    for (const done of this.onQuiet.splice(0)) done();
    await this.advancing;
  }

  private tick(): void {
    const now = this.monotonic();
    const elapsed = now - this.lastTick;
    this.lastTick = now;
    if (this.rate === 0 || this.jumpingTo !== null || this.busy || now < this.restUntil) return;
    const target = this.current + elapsed * this.rate;
    this.busy = true;
    this.advanceTo(target)
      .catch((error: unknown) => this.failed(error))
      .finally(() => (this.busy = false))
      .catch(() => undefined);
  }

  /** Stands still for a moment; the next tick does the same again. */
  private failed(error: unknown): void {
    this.restUntil = this.monotonic() + AGAIN_MS;
    this.operations.onFailure(error);
  }

  /** Moves to the target through every event on the way; `giveUp` is asked between events. */
  async advanceTo(target: Instant, giveUp: () => boolean = () => false): Promise<void> {
    const turn = this.advancing.then(async () => {
      // Events may follow one another that wait for nothing but our own databases.
      const others = turnsForOthers();
      while (!this.stopped && !giveUp()) {
        await others();
        await this.quiet();
        const next = await this.nextOf(() => true);
        if (this.stopped) return;
        if (next === null || next > target) {
          await this.moveTo(Math.max(this.current, Math.round(target)));
          return;
        }
        await this.moveTo(next);
        await this.operations.runDue(next);
        await this.runWakes(next);
      }
    });
    this.advancing = turn.catch(() => undefined);
    await turn;
  }

  private async moveTo(instant: Instant): Promise<void> {
    if (instant !== this.current) await writeSetting(this.db, 'now', String(instant));
    this.current = instant;
    this.tell();
  }

  private async runWakes(now: Instant): Promise<void> {
    for (const wake of [...this.wakes.values()].filter((w) => w.at <= now)) {
      this.wakes.delete(wake.name);
      try {
        await wake.wake();
      } catch (error) {
        const again = this.operations.onFailure(error) === 'again';
        if (!this.wakes.has(wake.name))
          this.wakes.set(wake.name, again ? wake : { ...wake, at: now + LATER_MS });
        if (again) throw error;
      }
    }
  }

  private quiet(): Promise<void> {
    return this.holds === 0 || this.stopped
      ? Promise.resolve()
      : new Promise((done) => this.onQuiet.push(done));
  }

  private tell(): void {
    for (const listener of this.tickListeners) listener();
  }
}
