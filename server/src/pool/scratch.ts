/** Scratch disks as the driver reports them, in the words of the core. */
import type { ScratchDisk } from '@vatline/core/pool/streaming';
import type { HostStream } from '../estate/driver/streaming.ts';

export function scratchIn({ scratchBytes, scratchUsedBytes, fillsBytesPerDay }: HostStream): ScratchDisk {
  return { bytes: scratchBytes, usedBytes: scratchUsedBytes, fillsBytesPerDay };
}
