/**
 * Answers that many ask for: made once, and given to everybody who asks until something they depend
 * on has changed. When a change is told, every window that shows it asks at once.
 */
import { createHash } from 'node:crypto';
import { promisify } from 'node:util';
import { setImmediate as nextTurn } from 'node:timers/promises';
import { gzip } from 'node:zlib';
import type { Request, Response } from 'express';
import { MINUTE, type Instant } from '@vatline/core/time/instant';
import { concerns, type Topic } from '@vatline/contract/topics';

/**
 * After so long an answer is made anew, since what is outside may change without word: behind the
 * back of the one who asks, who is given the old one, and only after long silence while they wait.
 */
const AGING_MS = 1_000;
const OLD_MS = 5_000;
/** By the estate's clock: what a screen says of the time, it says by the minute. */
const MOST_ESTATE_MS = MINUTE;
/** Of all answers together; and of one, which has to leave room for others. */
const MOST_BYTES = 64e6;
const MOST_BYTES_OF_ONE = 16e6;
/** Small ones count too: whoever asks ever new questions must not fill the memory with them. */
const MOST_ANSWERS = 2_000;
/** Answers below that fit a packet as they are. */
const SMALL_BYTES = 1_000;

const compressed = promisify(gzip);

interface Answer {
  readonly body: Buffer;
  readonly etag: string;
  /** Made when somebody who takes it first asks. */
  zipped?: Promise<Buffer>;
}

interface Kept {
  readonly dependsOn: readonly Topic[];
  /** The instant of the estate's clock for which it was made. */
  readonly now: Instant;
  readonly madeAt: number;
  readonly answer: Promise<Answer>;
  bytes: number;
  isMade: boolean;
  /** Whether a newer one is being made. */
  isRenewed: boolean;
}

/** What is asked: the same key has the same answer, as long as nothing it depends on changes. */
export interface Question {
  readonly key: string;
  readonly dependsOn: readonly Topic[];
}

export class Answers {
  /** The one that was made first comes first. */
  private readonly kept = new Map<string, Kept>();
  private bytes = 0;

  /** `now` is the estate's clock, `monotonic` real milliseconds. */
  constructor(
    private readonly now: () => Instant,
    private readonly monotonic: () => number,
  ) {}

  /** Forgets what depends on something that has changed; what is being made of it is not given to those who ask later. */
  changed(topics: readonly Topic[]): void {
    for (const [key, kept] of this.kept) if (concerns(topics, kept.dependsOn)) this.forget(key, kept);
  }

  /** The answer to a question: the one that is kept, the one that is being made, or a new one. */
  async to(question: Question, make: () => Promise<unknown>): Promise<Answer> {
    const known = this.kept.get(question.key);
    if (!known || !this.holds(known)) return this.anew(question, make);
    if (known.isMade && !known.isRenewed && this.age(known) >= AGING_MS) {
      known.isRenewed = true;
      // Whoever asks next is told what was wrong with it, if it still is.
      this.anew(question, make, known).catch(() => undefined);
    }
    return known.answer;
  }

  /** Makes an answer. `old` is given out until the new one is there, unless it is forgotten meanwhile. */
  private async anew(
    { key, dependsOn }: Question,
    make: () => Promise<unknown>,
    old?: Kept,
  ): Promise<Answer> {
    const answer = make().then(written);
    const kept: Kept = {
      dependsOn,
      now: this.now(),
      madeAt: this.monotonic(),
      answer,
      bytes: 0,
      isMade: false,
      isRenewed: false,
    };
    if (old === undefined) this.keep(key, kept);
    try {
      const made = await answer;
      const { body } = made;
      // Most of what is made anew is the same again, and need not be compressed again.
      const before = await old?.answer;
      if (before?.zipped && before.etag === made.etag) made.zipped = before.zipped;
      kept.isMade = true;
      // Forgotten while the new one was made: it may have been made of what is no more.
      if (old !== undefined && this.kept.get(key) === old) this.keep(key, kept);
      this.weigh(key, kept, key.length + body.length);
    } catch (error) {
      this.forget(key, old ?? kept);
      throw error;
    }
    return answer;
  }

  private keep(key: string, kept: Kept): void {
    const known = this.kept.get(key);
    if (known) this.forget(key, known);
    this.kept.set(key, kept);
  }

  private age({ madeAt }: Kept): number {
    return this.monotonic() - madeAt;
  }

  private holds(kept: Kept): boolean {
    // Whoever asks for what takes long waits with those who asked before.
    const isYoung = !kept.isMade || this.age(kept) < OLD_MS;
    return isYoung && Math.abs(this.now() - kept.now) < MOST_ESTATE_MS;
  }

  private weigh(key: string, kept: Kept, bytes: number): void {
    if (this.kept.get(key) !== kept) return;
    if (bytes > MOST_BYTES_OF_ONE) return this.forget(key, kept);
    kept.bytes = bytes;
    this.bytes += bytes;
    for (const [oldest, other] of this.kept) {
      if (this.bytes <= MOST_BYTES && this.kept.size <= MOST_ANSWERS) return;
      this.forget(oldest, other);
    }
  }

  private forget(key: string, kept: Kept): void {
    if (this.kept.get(key) !== kept) return;
    this.kept.delete(key);
    this.bytes -= kept.bytes;
  }
}

/** Writing ten thousand rows takes as long as finding them; others have a turn in between. */
async function written(value: unknown): Promise<Answer> {
  await nextTurn();
  const body = Buffer.from(JSON.stringify(value));
  return { body, etag: `W/"${createHash('sha1').update(body).digest('base64url')}"` };
}

/** Sends an answer, compressed for those who take it so and once for all of them; 304 to those who have it. */
export async function sendAnswer(request: Request, response: Response, answer: Answer): Promise<void> {
  response.set('etag', answer.etag).type('application/json');
  if (answer.body.length <= SMALL_BYTES || request.acceptsEncodings('gzip') === false) {
    response.send(answer.body);
    return;
  }
  answer.zipped ??= compressed(answer.body);
  const zipped = await answer.zipped;
  response.vary('accept-encoding').set('content-encoding', 'gzip').send(zipped);
}
