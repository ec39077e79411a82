/** Heavy work on captures, run in the worker pool. */
import { writeFileSync } from 'node:fs';
import type { MessagePort } from 'node:worker_threads';
import { dropNoise, type CaptureComparison } from '@vatline/core/package/noise';
import { must } from '@vatline/core/result';
import { compareInventoryFiles } from '@vatline/files/inventory-file';
import { packOci, type PackRequest, type Packed } from '@vatline/files/oci-write';

export interface CompareTask {
  readonly before: string;
  readonly after: string;
  /** Where the comparison goes, as JSON. */
  readonly out: string;
}

export interface CaptureCounts {
  readonly added: number;
  readonly removed: number;
  readonly changed: number;
  readonly moved: number;
  readonly dropped: number;
}

/** Compares two inventory files, drops the noise and writes the answer down. */
export function compareCapture(task: CompareTask): CaptureCounts {
  const answer: CaptureComparison = must(dropNoise(compareInventoryFiles(task.before, task.after)));
  writeFileSync(task.out, JSON.stringify(answer));
  const { added, removed, changed, moved, dropped } = answer;
  return {
    added: added.length,
    removed: removed.length,
    changed: changed.length,
    moved: moved.length,
    dropped: dropped.length,
  };
}

export interface PackTask extends Omit<PackRequest, 'only' | 'onProgress' | 'cancelled'> {
  readonly only?: readonly string[];
  readonly port?: MessagePort;
}

/** Builds a container and tells its progress over the port. */
export async function packContainer({ port, only, ...request }: PackTask): Promise<Packed> {
  try {
    return await packOci({
      ...request,
      ...(only ? { only: new Set(only) } : {}),
      onProgress: (done, of) => port?.postMessage(done / of),
    });
  } finally {
    port?.close();
  }
}
