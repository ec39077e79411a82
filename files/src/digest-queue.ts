/** Digests worked out on another thread while this one reads and writes, or here where there is little to do. */
import { Worker } from 'node:worker_threads';
import type { DigestQueue, Stretch } from '@vatline/core/container/bytes';
import { SequentialDigests } from './sequential-digests.ts';

/** What a thread is told; answers come in the order of the tasks. */
export interface DigestTask {
  readonly bytes: Uint8Array;
  readonly stretches: readonly Stretch[];
}

/** Below this many bytes the start of a thread takes longer than the digests. */
const WORTH_A_THREAD = 16 * 1024 * 1024;

export function newDigestQueue(expectedBytes: number): DigestQueue {
  return expectedBytes < WORTH_A_THREAD ? ownThread() : new DigestThread();
}

function ownThread(): DigestQueue {
  const digests = new SequentialDigests();
  return {
    take: (bytes, stretches) => Promise.resolve(digests.take(bytes, stretches)),
    close: () => undefined,
  };
}

class DigestThread implements DigestQueue {
  // The built file, also when this runs from source: a worker thread loads JavaScript only.
  private readonly worker = new Worker(new URL('../dist/digest-thread.js', import.meta.url), {
    execArgv: [],
  });
  private readonly waiting: { done: (digests: string[]) => void; fail: (error: Error) => void }[] = [];
  private ended: Error | undefined;

  constructor() {
    this.worker.on('message', (digests: string[]) => this.waiting.shift()?.done(digests));
    this.worker.on('error', (error: Error) => this.fail(error));
    this.worker.on('exit', () => this.fail(new Error('the thread for digests has ended')));
  }

  take(bytes: Uint8Array, stretches: readonly Stretch[]): Promise<string[]> {
    if (this.ended) return Promise.reject(this.ended);
    return new Promise((done, fail) => {
      this.waiting.push({ done, fail });
      const task: DigestTask = { bytes, stretches };
      this.worker.postMessage(task);
    });
  }

  close(): void {
    this.worker.terminate().catch(() => undefined); // it has ended by itself
  }

  private fail(error: Error): void {
    this.ended ??= error;
    for (const { fail } of this.waiting.splice(0)) fail(error);
  }
}
