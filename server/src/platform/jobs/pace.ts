import type { EstateClock } from '../../estate/driver/clock.ts';

/**
 * Holds the estate's clock while any strand of a job is working and lets it go when all of them
 * wait for operations. Without a clock it does nothing.
 */
export class Pace {
  private working = 0;
  private release: () => void = () => undefined;

  constructor(private readonly clock: EstateClock | undefined) {}

  enter(): void {
    if (this.working++ === 0 && this.clock) this.release = this.clock.hold();
  }

  leave(): void {
    if (--this.working === 0) this.release();
  }

  /** Runs strands side by side; the caller's own hold passes to them and back from the last one. */
  async together<T>(strands: readonly (() => Promise<T>)[]): Promise<PromiseSettledResult<T>[]> {
    if (strands.length === 0) return [];
    let left = strands.length;
    for (let i = 1; i < strands.length; i++) this.enter();
    const passOn = () => {
      if (--left > 0) this.leave();
    };
    return Promise.allSettled(strands.map((strand) => strand().finally(passOn)));
  }
}
