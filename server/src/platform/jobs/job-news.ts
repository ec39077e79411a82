/** What is told of a job while it works. */
import { topicOfSubject, type Topic } from '@vatline/contract/topics';
import type { JobRow } from './tables.ts';

/** An eye sees no more often how far something is. */
const PROGRESS_EVERY_MS = 400;

type ToldOf = Pick<JobRow, 'id' | 'subject'>;

export class JobNews {
  /** Jobs of which something was told a moment ago, and whether there is more by now. */
  private readonly resting = new Map<string, { more: boolean }>();

  constructor(private readonly tell: (...topics: Topic[]) => void) {}

  /** Its state is another one: it has begun, waits, or has ended. */
  changed({ id, subject }: ToldOf): void {
    this.tell(`job:${id}`, ...topicOfSubject(subject));
  }

  /** It has come further: a step, a share of one, a line of its log or ledger. */
  progressed(job: ToldOf): void {
    const resting = this.resting.get(job.id);
    if (resting) {
      resting.more = true;
      return;
    }
    this.tell(`progress:${job.id}`, ...topicOfSubject(job.subject));
    this.rest(job);
  }

  private rest(job: ToldOf): void {
    const state = { more: false };
    this.resting.set(job.id, state);
    setTimeout(() => {
      this.resting.delete(job.id);
      if (state.more) this.progressed(job);
    }, PROGRESS_EVERY_MS).unref();
  }
}
