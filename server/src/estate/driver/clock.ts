/** The clock that all outside systems share. */
import type { Instant } from '@vatline/core/time/instant';

export interface EstateClock {
  now(): Instant;
  readonly zone: string;
  /**
   * Calls back once when the clock has reached the instant; the clock waits for the callback. What is
   * looked at again and again is `routine`: nobody who skips to the next event wants to stop there.
   */
  wakeAt(at: Instant, name: string, wake: () => Promise<void>, how?: 'routine'): void;
  /** The clock does not move on until the hold is released; a real clock cannot wait and does not. */
  hold(): () => void;
  onTick(listener: () => void): void;
}
