/** Digests of streams that follow one another, whatever pieces their bytes come in. */
import { createHash, hash as hashOnce, type Hash } from 'node:crypto';
import type { Stretch } from '@vatline/core/container/bytes';

export class SequentialDigests {
  private begun: Hash | undefined;

  /** The digests that end in these bytes, in hex. */
  take(bytes: Uint8Array, stretches: readonly Stretch[]): string[] {
    const ended: string[] = [];
    for (const { from, to, ends } of stretches) {
      const part = bytes.subarray(from, to);
      if (ends && !this.begun) ended.push(hashOnce('sha256', part, 'hex'));
      else {
        this.begun ??= createHash('sha256');
        this.begun.update(part);
        if (!ends) continue;
        ended.push(this.begun.digest('hex'));
        this.begun = undefined;
      }
    }
    return ended;
  }
}
