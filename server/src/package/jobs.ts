/** The kinds of job that packages need. */
import type { Parts } from '../platform/parts.ts';
import { captureJobs } from './capture-jobs.ts';
import { packJob } from './pack-job.ts';
import type { PackageStore } from './store.ts';

export function packageJobs(parts: Parts, store: PackageStore): void {
  captureJobs(parts, store);
  parts.jobs.register(packJob(parts, store));
}
