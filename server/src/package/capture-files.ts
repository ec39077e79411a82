/** Where the parts of a capture lie in its folder. */
import { join } from 'node:path';

export function captureFiles(folder: string) {
  return {
    before: join(folder, 'before.jsonl'),
    after: join(folder, 'after.jsonl'),
    /** Inventory after the n-th of several installers, from 1. */
    between: (n: number) => join(folder, `after-${n}.jsonl`),
    /** The disk as it is after the installation. */
    payload: join(folder, 'payload'),
    /** Small text files as they were before. */
    textsBefore: join(folder, 'texts-before'),
    comparison: join(folder, 'comparison.json'),
    judged: join(folder, 'judged.json'),
  };
}
