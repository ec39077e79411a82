/** Heavy work on captures, run in the worker pool. */
import { writeFileSync } from 'node:fs';
import type { MessagePort } from 'node:worker_threads';
import {
  countChanges,
  dropNoise,
  type CaptureComparison,
  type ChangeCounts,
} from '@vatline/core/package/noise';
import { must } from '@vatline/core/result';
import { compareInventoryFiles } from '@vatline/files/inventory-file';
import { folderTree } from '@vatline/files/folder-tree';
import { packContainer as pack, type PackRequest, type Packed } from '@vatline/files/pack-container';

export interface CompareTask {
  readonly before: string;
  readonly after: string;
  /** Where the comparison goes, as JSON. */
  readonly out: string;
}

/** Compares two inventory files, drops the noise and writes the answer down. */
export function compareCapture(task: CompareTask): ChangeCounts {
  const answer: CaptureComparison = must(dropNoise(compareInventoryFiles(task.before, task.after)));
  writeFileSync(task.out, JSON.stringify(answer));
  return countChanges(answer);
}

export interface PackTask extends Omit<PackRequest, 'tree' | 'onProgress' | 'cancelled'> {
  readonly folder: string;
  readonly only?: readonly string[];
  readonly port?: MessagePort;
}

/** Builds a container and tells its progress over the port. */
export async function packContainer({ port, folder, only, ...request }: PackTask): Promise<Packed> {
  try {
    return await pack({
      ...request,
      tree: folderTree(folder, only && new Set(only)),
      onProgress: (done, of) => port?.postMessage(done / of),
    });
  } finally {
    port?.close();
  }
}
