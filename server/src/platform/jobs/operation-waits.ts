/** How a job waits for the operations that it has begun outside. */
import type { Operation, Operations } from '../../estate/driver/operations.ts';
import { Cancelled } from './cancelled.ts';
import type { Pace } from './pace.ts';

/** A job that may wait for several at once. */
export interface Waiting {
  readonly cancelled: boolean;
  /** Rejects what the job waits for. */
  readonly interrupts: Set<(error: Error) => void>;
}

export class OperationWaits {
  private readonly waiters = new Map<string, ((operation: Operation) => void)[]>();

  constructor(operations: Operations) {
    operations.onEnd((operation) => {
      for (const wake of this.waiters.get(operation.key) ?? []) wake(operation);
      this.waiters.delete(operation.key);
      return Promise.resolve();
    });
  }

  /** Waits for an operation and lets the clock go on meanwhile. Throws `Cancelled` once the job is. */
  untilEnd(operation: Operation, job: Waiting, pace: Pace): Promise<Operation> {
    if (operation.state !== 'running') return Promise.resolve(operation);
    if (job.cancelled) return Promise.reject(new Cancelled());
    return new Promise<Operation>((done, fail) => {
      const takeUp = (settle: () => void) => {
        job.interrupts.delete(interrupt);
        pace.enter();
        settle();
      };
      const interrupt = (error: Error) => takeUp(() => fail(error));
      job.interrupts.add(interrupt);
      const list = this.waiters.get(operation.key) ?? [];
      list.push((ended) => {
        if (job.interrupts.has(interrupt)) takeUp(() => done(ended));
      });
      this.waiters.set(operation.key, list);
      pace.leave();
    });
  }
}

/** The operation of the first attempt that has not failed before. */
export async function unspent(start: (attempt: number) => Promise<Operation>): Promise<Operation> {
  let operation = await start(0);
  for (let attempt = 1; operation.state === 'failed'; attempt++) {
    const next = await start(attempt);
    if (next.key === operation.key) return next;
    operation = next;
  }
  return operation;
}
