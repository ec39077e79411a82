/** The kinds of job that packages need. */
import type { Parts } from '../platform/parts.ts';
import { captureJobs } from './capture-jobs.ts';
import { offerJob } from './offer-job.ts';
import { packJob } from './pack-job.ts';
import type { PackageStore } from './store.ts';
import { trialJob } from './trial-job.ts';

export function packageJobs(parts: Parts, store: PackageStore): void {
  captureJobs(parts, store);
  parts.jobs.register(packJob(parts, store));
  parts.jobs.register(offerJob(parts, store));
  parts.jobs.register(trialJob(parts, store));
}
