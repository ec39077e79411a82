/** Runs on a thread of its own: works out digests of bytes that the threads share. */
import { parentPort } from 'node:worker_threads';
import type { DigestTask } from './digest-queue.ts';
import { SequentialDigests } from './sequential-digests.ts';

const digests = new SequentialDigests();

parentPort?.on('message', ({ bytes, stretches }: DigestTask) => {
  parentPort?.postMessage(digests.take(bytes, stretches));
});
